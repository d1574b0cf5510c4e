// An eye that knows nothing of the face map: it looks at a rendered face of grey clay, pixel by pixel, knows the landmarks and what stands in the
// light's way of each pixel, and names the pattern. It goes by the definitions that docs/reading.md states (common practice, no source), all of whose
// measures it takes by itself: what is checked is what is measured, not where the trade draws a limit.
import type { Pattern, Vec3, WholeFace } from '@plinket/core';

/** A face as it is seen from in front, whatever the light. Places are in the head's axes and heights. */
export interface Portrait {
  width: number;
  height: number;
  /** 1 where a pixel shows skin; where that lies, and which way it faces in the world. */
  skin: Uint8Array;
  at: Float32Array;
  normal: Float32Array;
  /** How much skin it is, in squares of the head's height. */
  area: Float32Array;
  points: WholeFace['points'];
  /** Metres of one height of the head. */
  metres: number;
}

export interface View {
  face: Portrait;
  /** Luminance of each pixel over that of clay which faces the light unshaded; and the same if nothing cast a shadow. */
  light: Float32Array;
  open: Float32Array;
  /** Where what is in the way of the light's middle lies, NaN where nothing is. */
  way: Float32Array;
  /** To the light from between eyes and nose, in the head's axes. */
  towards: Vec3;
}

/** Places of a picture that hang together, over corners too, among those that are asked for; the largest first. */
function islands({ width, area }: Portrait, is: (p: number) => boolean): number[][] {
  const left = Uint8Array.from(area, (_, p) => (is(p) ? 1 : 0)),
    out: number[][] = [];
  for (let p = 0; p < left.length; p++) {
    if (!left[p]) continue;
    const group = [p];
    left[p] = 0;
    for (let k = 0; k < group.length; k++)
      for (const d of [-1, 1, -width, width, -width - 1, -width + 1, width - 1, width + 1]) {
        const n = group[k]! + d;
        if (n < 0 || n >= left.length || !left[n] || Math.abs((n % width) - (group[k]! % width)) > 1) continue;
        left[n] = 0;
        group.push(n);
      }
    out.push(group);
  }
  const sizes = new Map(out.map((g) => [g, sum(g, (p) => area[p]!)]));
  return out.sort((a, b) => sizes.get(b)! - sizes.get(a)!);
}

const sum = (of: readonly number[], what: (p: number) => number): number => of.reduce((s, p) => s + what(p), 0);
const DEGREES = 180 / Math.PI;

/** What an eye measures. */
export interface Seen {
  azimuth: number;
  elevation: number;
  /** Shares of the face's front that are lit: all, the half on the light's side, the other. */
  lit: number;
  near: number;
  far: number;
  /** Of the nose's shadow: its size in squares of the nose's length, how its end leans, degrees from straight down, and how far it reaches to the corner of the mouth. */
  shadow: number;
  slant: number;
  reach: number;
  /** Millimetres between it and the cheek's. */
  gap: number;
  /** Light shut in under the far eye, millimetres. */
  patch?: [width: number, height: number];
  eye: number;
  nose: number;
}

export function seen({ face, light, open, way, towards }: View): Seen {
  const { points, skin, at, area, metres } = face;
  const { pupilL, pupilR, noseTip, noseBase, mouthCornerL, mouthCornerR } = points;
  const apart = pupilL[0] - pupilR[0],
    middle = noseBase[0],
    eyes = (pupilL[1] + pupilR[1]) / 2,
    mouth = (mouthCornerL[1] + mouthCornerR[1]) / 2,
    lip = noseBase[1] - mouth,
    nose = eyes - noseBase[1],
    brow = points.browCentre?.[1] ?? eyes + 0.1,
    chin = points.chinBottom?.[1] ?? mouth - 2 * lip,
    muzzle = noseBase[2] - pupilL[2] >= 0.14;
  const x = (p: number) => at[p * 3]! - middle,
    y = (p: number) => at[p * 3 + 1]!,
    z = (p: number) => at[p * 3 + 2]!,
    round = (p: number) => Math.atan2(at[p * 3]!, z(p) + 0.34) * DEGREES;
  const azimuth = Math.atan2(towards[0], towards[2]) * DEGREES,
    elevation = Math.asin(towards[1]) * DEGREES,
    side = azimuth > 0 ? -1 : 1;
  const front: number[] = [];
  for (let p = 0; p < skin.length; p++) if (skin[p] && Math.abs(round(p)) < 62 && y(p) > chin && y(p) < brow + 0.3) front.push(p);
  const isFront = new Uint8Array(skin.length);
  for (const p of front) isFront[p] = 1;
  const bright = open.filter((_, p) => skin[p]).sort(),
    peak = bright[Math.floor(0.95 * (bright.length - 1))] ?? 0;
  const turned = (p: number) => open[p]! <= 0.09 * peak,
    isLit = (p: number) => !turned(p) && light[p]! >= 0.5 * open[p]! && light[p]! > 0.09 * peak;
  const share = (of: number[]) => of.filter(isLit).length / Math.max(1, of.length);

  // the nose widens from between the brows down to its wings
  const ofNose = (px: number, py: number, pz: number, wider = 1): boolean => {
    const down = Math.min(1, Math.max(0, (brow - py) / (brow - noseBase[1])));
    const half = wider * apart * (0.19 + 0.13 * down);
    return py > noseBase[1] - 0.12 * nose && py < brow - 0.15 * (brow - noseBase[1]) && Math.abs(px) < half && pz > noseBase[2] - 0.09;
  };
  const onNose = (p: number) => ofNose(x(p), y(p), z(p));
  const flank = (p: number) => muzzle && !onNose(p) && z(p) > noseBase[2] - 0.1 && Math.abs(x(p)) < 0.6 * apart && y(p) < pupilL[1];
  const byNose = (p: number): boolean => {
    if (turned(p)) return flank(p);
    if (light[p]! >= 0.5 * open[p]!) return false;
    const w = p * 3;
    if (onNose(p) && y(p) > noseBase[1]) return false;
    return ofNose(way[w]! - middle, way[w + 1]!, way[w + 2]!, 1.25);
  };
  const dark = new Set(front.filter((p) => byNose(p)));
  const cast = islands(face, (p) => dark.has(p)).find((g) => g.some((p) => Math.abs(x(p)) < 0.7 * apart)) ?? [];
  // its end is where the light's way across the face leads
  const along = (p: number) => -(at[p * 3]! * towards[0] + y(p) * towards[1]);
  const ends = cast.map(along),
    furthest = Math.max(...ends),
    first = Math.min(...ends);
  const end = cast[ends.indexOf(furthest)];
  const last = muzzle ? cast : cast.filter((_, i) => ends[i]! >= furthest - 0.3 * (furthest - first));
  const mean = (of: (p: number) => number) => sum(last, (p) => of(p) * area[p]!) / sum(last, (p) => area[p]!);
  const slant = cast.length ? Math.atan2(mean(x) + middle - noseTip[0], noseTip[1] - mean(y)) * DEGREES : 0;
  const corner = end !== undefined && x(end) > 0 ? mouthCornerL : mouthCornerR;
  const reach = end === undefined ? 0 : Math.hypot(x(end), y(end) - noseBase[1]) / Math.hypot(corner[0] - middle, corner[1] - noseBase[1]);
  // the cheek's shadow comes from the side of the head
  const cheek = islands(face, (p) => isFront[p] === 1 && !isLit(p) && !dark.has(p) && !onNose(p) && side * x(p) > 0.29 * apart)
    .filter((g) => g.some((p) => side * round(p) > 44))
    .flat();
  const gap =
    metres *
    1000 *
    between(
      face,
      cast.filter((p) => side * x(p) > 0),
      cheek,
    );
  const shut = islands(face, (p) => isFront[p] === 1 && isLit(p) && !onNose(p) && y(p) < eyes - 0.156 * apart).find((g) =>
    g.every((p) => side * x(p) > 0),
  );
  const spread = (of: number[]) => (Math.max(...of) - Math.min(...of)) * metres * 1000;
  return {
    azimuth,
    elevation,
    lit: share(front),
    near: share(front.filter((p) => side * x(p) < 0)),
    far: share(front.filter((p) => side * x(p) > 0)),
    shadow: sum(cast, (p) => area[p]!) / nose ** 2,
    slant: Math.abs(slant),
    reach,
    gap,
    ...(shut && sum(shut, (p) => area[p]!) > 0.02 * nose ** 2
      ? { patch: [spread(shut.map(x)), spread(shut.map(y))] as [number, number] }
      : {}),
    eye: 0.5 * apart * metres * 1000,
    nose: nose * metres * 1000,
  };
}

/** Least distance between pixels of two sets on the skin; less than about a pixel and a half is none. */
function between({ at }: Portrait, some: readonly number[], others: readonly number[]): number {
  let least = Infinity;
  for (const a of some)
    for (const b of others)
      least = Math.min(least, Math.hypot(at[a * 3]! - at[b * 3]!, at[a * 3 + 1]! - at[b * 3 + 1]!, at[a * 3 + 2]! - at[b * 3 + 2]!));
  return least < 0.022 ? 0 : least;
}

/** A measure less its limit, in widths of the limit: 1 well within, −1 well without. */
const over = (value: number, limit: number, soft: number): number => (value - limit) / soft;
const below = (value: number, limit: number, soft: number): number => (limit - value) / soft;

/** How well each pattern's definition is kept: by that of its conditions that is kept worst. */
export function marks(s: Seen): [Pattern, number][] {
  const above = over(s.elevation, -6, 6),
    shadowed = over(s.shadow, 0.03, 0.012);
  const patch = s.patch
    ? [
        over(s.patch[0], 0.3 * s.eye, 0.15 * s.eye),
        below(s.patch[0], 1.25 * s.eye, 0.9 * s.eye),
        below(s.patch[1], 1.1 * s.nose, 0.6 * s.nose),
      ]
    : [-1];
  const all: [Pattern, number[]][] = [
    ['loop', [above, shadowed, over(s.slant, 18, 5), over(s.gap, 3, 3), over(s.far, 0.5, 0.14), over(s.near, 0.38, 0.12)]],
    ['closed triangle', [above, shadowed, over(s.slant, 18, 5), below(s.gap, 3, 3), over(s.near, 0.38, 0.12), ...patch]],
    ['split', [over(s.elevation, -34, 8), below(s.far, 0.22, 0.09), over(s.near, 0.38, 0.12)]],
    ['butterfly', [above, shadowed, below(s.slant, 18, 5), over(s.reach, 0.25, 0.1), over(Math.min(s.far, s.near), 0.6, 0.13)]],
    ['under', [below(s.elevation, -8, 6), below(Math.abs(s.azimuth), 78, 15), over(s.lit, 0.22, 0.12)]],
    ['rim', [below(s.lit, 0.2, 0.08), over(Math.abs(s.azimuth), 97, 12)]],
    ['flat', [above, over(s.lit, 0.78, 0.06), over(s.far, 0.7, 0.08), Math.max(below(s.shadow, 0.03, 0.001), below(s.reach, 0.35, 0.01))]],
  ];
  return all.map(([pattern, of]): [Pattern, number] => [pattern, Math.min(...of.map((v) => Math.min(1, v)))]).sort((a, b) => b[1] - a[1]);
}

/** What the eye calls it; nothing where it has no name for it. */
export function nameOf(view: View): Pattern | undefined {
  const [best] = marks(seen(view));
  return best![1] > LEAST ? best![0] : undefined;
}

/** Short of a limit by so much of its width a definition is still kept. */
const LEAST = -0.5;
