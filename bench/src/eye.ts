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
  /** Luminance of each pixel, for luminance 1 of the light; and the same if nothing cast a shadow. */
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

/** What is about a face, as an eye goes over it: lengths in heights of the head, x from the middle of the nose's base. */
class Look {
  readonly view: View;
  readonly apart: number;
  readonly eyes: number;
  readonly nose: number;
  readonly brow: number;
  readonly muzzle: boolean;
  /** Which way shadows fall: 1 to the subject's left. */
  readonly side: number;
  /** Pixels of the face's front, and a mark for each. */
  readonly front: number[] = [];
  private readonly isFront: Uint8Array;
  /** Below this a pixel is dark: a share of what the brightest skin in the picture gets if nothing shades it. */
  private readonly dim: number;

  constructor(view: View) {
    const { face, open, towards } = view,
      { skin } = face;
    const { pupilL, pupilR, noseBase, mouthCornerL, mouthCornerR, browCentre, chinBottom } = face.points;
    const mouth = (mouthCornerL[1] + mouthCornerR[1]) / 2,
      chin = chinBottom?.[1] ?? mouth - 2 * (noseBase[1] - mouth);
    this.view = view;
    this.apart = pupilL[0] - pupilR[0];
    this.eyes = (pupilL[1] + pupilR[1]) / 2;
    this.nose = this.eyes - noseBase[1];
    this.brow = browCentre?.[1] ?? this.eyes + 0.1;
    this.muzzle = noseBase[2] - pupilL[2] >= 0.14;
    this.side = towards[0] > 0 ? -1 : 1;
    this.isFront = Uint8Array.from(skin, (is, p) =>
      is && Math.abs(this.round(p)) < 62 && this.y(p) > chin && this.y(p) < this.brow + 0.3 ? 1 : 0,
    );
    this.isFront.forEach((is, p) => is && this.front.push(p));
    const bright = open.filter((_, p) => skin[p]).sort();
    this.dim = 0.09 * (bright[Math.floor(0.95 * (bright.length - 1))] ?? 0);
  }

  x(p: number): number {
    return this.view.face.at[p * 3]! - this.view.face.points.noseBase[0];
  }
  y(p: number): number {
    return this.view.face.at[p * 3 + 1]!;
  }
  z(p: number): number {
    return this.view.face.at[p * 3 + 2]!;
  }
  /** How far round the head's upright axis, degrees. */
  round(p: number): number {
    return Math.atan2(this.view.face.at[p * 3]!, this.z(p) + 0.34) * DEGREES;
  }
  far(p: number): boolean {
    return this.side * this.x(p) > 0;
  }
  area(of: readonly number[]): number {
    return sum(of, (p) => this.view.face.area[p]!);
  }

  turned(p: number): boolean {
    return this.view.open[p]! <= this.dim;
  }
  shaded(p: number): boolean {
    return this.view.light[p]! < 0.5 * this.view.open[p]!;
  }
  lit(p: number): boolean {
    return !this.turned(p) && !this.shaded(p) && this.view.light[p]! > this.dim;
  }
  /** Share of pixels that is lit. */
  share(of: number[]): number {
    return of.filter((p) => this.lit(p)).length / Math.max(1, of.length);
  }

  /** Whether a place is the nose's, which widens from between the brows down to its wings. */
  ofNose(x: number, y: number, z: number, wider = 1): boolean {
    const { noseBase } = this.view.face.points,
      { brow } = this;
    const down = Math.min(1, Math.max(0, (brow - y) / (brow - noseBase[1]))),
      half = wider * this.apart * (0.19 + 0.13 * down);
    return y > noseBase[1] - 0.12 * this.nose && y < brow - 0.15 * (brow - noseBase[1]) && Math.abs(x) < half && z > noseBase[2] - 0.09;
  }
  onNose(p: number): boolean {
    return this.ofNose(this.x(p), this.y(p), this.z(p));
  }
  /** Whether the nose keeps the light from a pixel. A muzzle's flanks that turn away count as its shadow. */
  byNose(p: number): boolean {
    const { noseBase, pupilL } = this.view.face.points,
      { way } = this.view;
    if (this.turned(p))
      return (
        this.muzzle && !this.onNose(p) && this.z(p) > noseBase[2] - 0.1 && Math.abs(this.x(p)) < 0.6 * this.apart && this.y(p) < pupilL[1]
      );
    if (!this.shaded(p) || (this.onNose(p) && this.y(p) > noseBase[1])) return false;
    return this.ofNose(way[p * 3]! - noseBase[0], way[p * 3 + 1]!, way[p * 3 + 2]!, 1.25);
  }
  /** Places of the front that hang together. */
  groups(is: (p: number) => boolean): number[][] {
    return islands(this.view.face, (p) => this.isFront[p] === 1 && is(p));
  }
}

/** How a nose's shadow leans, degrees from straight down, and how far it reaches towards the corner of the mouth. */
function wayOf(look: Look, cast: readonly number[]): { slant: number; reach: number } {
  if (!cast.length) return { slant: 0, reach: 0 };
  const { face, towards } = look.view,
    { noseTip, noseBase, mouthCornerL, mouthCornerR } = face.points;
  // its end is where the light's way across the face leads
  const along = cast.map((p) => -(face.at[p * 3]! * towards[0] + look.y(p) * towards[1])),
    furthest = Math.max(...along),
    first = Math.min(...along);
  const last = look.muzzle ? cast : cast.filter((_, i) => along[i]! >= furthest - 0.3 * (furthest - first));
  const mean = (of: (p: number) => number) => sum(last, (p) => of(p) * face.area[p]!) / look.area(last);
  const end = cast[along.indexOf(furthest)]!,
    corner = look.x(end) > 0 ? mouthCornerL : mouthCornerR;
  return {
    slant: Math.abs(Math.atan2(mean((p) => face.at[p * 3]!) - noseTip[0], noseTip[1] - mean((p) => look.y(p))) * DEGREES),
    reach: Math.hypot(look.x(end), look.y(end) - noseBase[1]) / Math.hypot(corner[0] - noseBase[0], corner[1] - noseBase[1]),
  };
}

/** All that an eye measures of a picture. */
export function seen(view: View): Seen {
  const look = new Look(view),
    { face, towards } = view,
    { front, apart, nose } = look;
  const byNose = new Set(front.filter((p) => look.byNose(p)));
  const cast = look.groups((p) => byNose.has(p)).find((g) => g.some((p) => Math.abs(look.x(p)) < 0.7 * apart)) ?? [];
  // the cheek's shadow comes from the side of the head
  const cheek = look
    .groups((p) => !look.lit(p) && !byNose.has(p) && !look.onNose(p) && look.side * look.x(p) > 0.29 * apart)
    .filter((g) => g.some((p) => look.side * look.round(p) > 44))
    .flat();
  const beside = cast.filter((p) => look.far(p));
  const shut = look
    .groups((p) => look.lit(p) && !look.onNose(p) && look.y(p) < look.eyes - 0.156 * apart)
    .find((g) => g.every((p) => look.far(p)));
  const millimetres = 1000 * face.metres;
  const spread = (of: number[]) => (Math.max(...of) - Math.min(...of)) * millimetres;
  const patch: Seen['patch'] =
    shut && look.area(shut) > 0.02 * nose ** 2 ? [spread(shut.map((p) => look.x(p))), spread(shut.map((p) => look.y(p)))] : undefined;
  return {
    azimuth: Math.atan2(towards[0], towards[2]) * DEGREES,
    elevation: Math.asin(towards[1]) * DEGREES,
    lit: look.share(front),
    near: look.share(front.filter((p) => !look.far(p))),
    far: look.share(front.filter((p) => look.far(p))),
    shadow: look.area(cast) / nose ** 2,
    ...wayOf(look, cast),
    gap: millimetres * between(face, beside, cheek),
    ...(patch ? { patch } : {}),
    eye: 0.5 * apart * millimetres,
    nose: nose * millimetres,
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
const below = (value: number, limit: number, soft: number): number => -over(value, limit, soft);

/** How well each pattern's definition is kept: by that of its conditions that is kept worst. Written again, not asked of the reading: that is what is checked. */
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
