// An eye that knows nothing of the face map: it looks at a rendered face of grey clay, at its landmarks as points of the picture, and names the
// pattern by the trade's definitions (common practice, no source).
import type { Pattern } from '@plinket/core';

export interface View {
  width: number;
  height: number;
  /** Luminance of each pixel over that of clay which faces the light unshaded. */
  light: Float32Array;
  /** 1 where the picture shows skin. */
  skin: Uint8Array;
  /** Landmarks in pixels. */
  points: Record<'pupilL' | 'pupilR' | 'noseTip' | 'noseBase' | 'mouthCornerL' | 'mouthCornerR', [x: number, y: number]>;
  /** Pixels from chin to crown. */
  head: number;
}

/** The nose's underside is so much brighter than its bridge where light comes from below. */
const UNDER = 1.06;
/** Below this share of full light a pixel is dark to the eye. */
const DARK = 0.12;

/** Pixels that hang together among those that are 1, each a list. */
function islands(is: Uint8Array, width: number): number[][] {
  const left = is.slice(),
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
  return out.sort((a, b) => b.length - a.length);
}

/** What the eye calls it; nothing where it has no name for it. */
export function nameOf({ width, light, skin, points, head }: View): Pattern | undefined {
  const { pupilL, pupilR, noseTip, noseBase, mouthCornerL, mouthCornerR } = points;
  const apart = Math.abs(pupilL[0] - pupilR[0]),
    middle = noseBase[0],
    eyes = (pupilL[1] + pupilR[1]) / 2,
    mouth = (mouthCornerL[1] + mouthCornerR[1]) / 2,
    noseLong = noseBase[1] - eyes,
    lip = mouth - noseBase[1];
  const x = (p: number) => (p % width) - middle,
    y = (p: number) => Math.floor(p / width);
  const face: number[] = [];
  for (let p = 0; p < skin.length; p++)
    if (skin[p] && Math.abs(x(p)) < 0.3 * head && y(p) > eyes - 0.32 * head && y(p) < mouth + 2 * lip) face.push(p);
  const lit = (p: number) => light[p]! > DARK;
  const share = (of: number[]) => (of.length ? of.filter(lit).length / of.length : 0);
  const all = share(face),
    left = share(face.filter((p) => x(p) > 0)),
    right = share(face.filter((p) => x(p) < 0));
  const mean = (of: number[]) => (of.length ? of.reduce((s, p) => s + light[p]!, 0) / of.length : 0);
  const near = Math.max(left, right),
    far = Math.min(left, right),
    side = left < right ? 1 : -1;
  if (near < 0.34) return 'rim';
  // light from below fills the underside of nose and brows and leaves what lies above them
  const below = face.filter(
      (p) => Math.abs(x(p)) < 0.14 * apart && y(p) > noseTip[1] + 0.3 * (noseBase[1] - noseTip[1]) && y(p) <= noseBase[1] + 0.1 * lip,
    ),
    bridge = face.filter((p) => Math.abs(x(p)) < 0.14 * apart && y(p) > eyes + 0.3 * noseLong && y(p) < noseTip[1]);
  const climbs = mean(below) > UNDER * mean(bridge);
  // shadows outside of the nose itself
  const onNose = (p: number) => {
    const down = Math.min(1, Math.max(0, (y(p) - eyes) / noseLong));
    return y(p) < noseBase[1] + 0.02 * head && y(p) > eyes - 0.1 * head && Math.abs(x(p)) < (0.19 + 0.15 * down) * apart;
  };
  const dark = new Uint8Array(skin.length);
  // what lies below the mouth has shadows of its own
  for (const p of face) if (!lit(p) && !onNose(p) && y(p) < mouth) dark[p] = 1;
  // the nose's: one that comes from under or beside it
  const under = (p: number) => Math.abs(x(p)) < 0.42 * apart && y(p) > noseTip[1];
  const cast = islands(dark, width).find((g) => g.length > 0.02 * noseLong ** 2 && g.some(under));
  const edge = (p: number) => x(p) * side > 0.2 * head;
  const patch = (() => {
    const open = new Uint8Array(skin.length);
    for (const p of face) if (lit(p) && !onNose(p) && y(p) > eyes + 0.06 * apart) open[p] = 1;
    return islands(open, width).find((g) => g.every((p) => x(p) * side > 0) && g.length > 0.02 * noseLong ** 2);
  })();
  const joins = cast?.some(edge) ?? false;
  if (joins && patch && !climbs) {
    // no wider than the eye and no longer than the nose, with some indulgence
    const xs = patch.map(x),
      ys = patch.map(y),
      wide = Math.max(...xs) - Math.min(...xs),
      tall = Math.max(...ys) - Math.min(...ys);
    if (wide < 0.75 * apart && tall < 1.3 * noseLong) return 'closed triangle';
  }
  if (far < 0.18) return 'split';
  if (climbs) return 'under';
  if (!cast) return all > 0.84 ? 'flat' : undefined;
  if (joins) return undefined;
  let end = cast[0]!,
    furthest = -1;
  for (const p of cast) {
    const d = Math.hypot(x(p), y(p) - noseTip[1]);
    if (d > furthest) {
      furthest = d;
      end = p;
    }
  }
  const slant = (Math.atan2(Math.abs(x(end)), Math.max(1, y(end) - noseTip[1])) * 180) / Math.PI;
  if (slant < 20) return far > 0.45 ? 'butterfly' : undefined;
  return far > 0.38 && near > 0.45 ? 'loop' : undefined;
}
