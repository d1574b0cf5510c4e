// An eye that knows nothing of the face map: it looks at a rendered face of grey clay, at its landmarks as points of the picture, and names the
// pattern by the trade's definitions (common practice, no source).
import type { Pattern } from '@plinket/core';

export interface View {
  width: number;
  height: number;
  /** Luminance of each pixel over that of clay which faces the light unshaded. */
  light: Float32Array;
  /** The same if nothing cast a shadow. */
  open: Float32Array;
  /** 1 where the picture shows skin. */
  skin: Uint8Array;
  /** Landmarks in pixels. */
  points: Record<'pupilL' | 'pupilR' | 'noseTip' | 'noseBase' | 'mouthCornerL' | 'mouthCornerR', [x: number, y: number]>;
  /** Pixels from chin to crown. */
  head: number;
}

/** What the eye goes by: set on 621 other keys than those that the bench asks it about. */
export interface Limits {
  /** Below this share of full light a pixel is dark to the eye, and in shadow below this share of what would come without one. */
  dark: number;
  half: number;
  /** The nose's underside is so much brighter than its bridge where light comes from below; and where it surely does. */
  under: number;
  surely: number;
  /** A shadow of the nose that leans by less lies straight below it, degrees. */
  leans: number;
  /** Halves of the face are alike that differ by less of their lit share; and the nose's underside is dark below this share of its bridge. */
  alike: number;
  unlit: number;
  /** Less than this share of the nearer half is lit where light comes from behind, and less than these of the farther one where it is split. */
  rim: number;
  split: number;
  splitAbove: number;
  /** Largest closed triangle, in distances of the pupils and lengths of the nose. */
  wide: number;
  tall: number;
  /** How far out, in heights of the head, the cheek's shadow lies that the nose's joins. */
  edge: number;
  /** Share of the face that is lit in flat light, least of the farther half with a loop and under a butterfly. */
  flat: number;
  loop: number;
  butterfly: number;
  /** … and of the nearer half with a loop. */
  near: number;
  /** Least shadow of a nose and least lit patch, in squares of the nose's length; how far aside a nose's shadow begins, in distances of the pupils. */
  shadow: number;
  patch: number;
  about: number;
}
export const LIMITS: Limits = {
  dark: 0.0997,
  half: 0.505,
  under: 1.13,
  surely: 1.24,
  leans: 18.4,
  alike: 0.133,
  unlit: 0.491,
  rim: 0.303,
  split: 0.121,
  splitAbove: 0.379,
  wide: 1.29,
  tall: 1.69,
  edge: 0.177,
  flat: 0.84,
  loop: 0.247,
  butterfly: 0.592,
  near: 0.45,
  shadow: 0.0227,
  patch: 0.02,
  about: 0.402,
};

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

/** How bright the nose's underside is beside its bridge. */
export function underside({ width, light, skin, points }: View): number {
  const { pupilL, pupilR, noseTip, noseBase, mouthCornerL, mouthCornerR } = points;
  const apart = Math.abs(pupilL[0] - pupilR[0]),
    eyes = (pupilL[1] + pupilR[1]) / 2,
    lip = (mouthCornerL[1] + mouthCornerR[1]) / 2 - noseBase[1];
  const mean = (from: number, to: number): number => {
    let sum = 0,
      n = 0;
    for (let p = 0; p < skin.length; p++) {
      const y = Math.floor(p / width);
      if (!skin[p] || Math.abs((p % width) - noseBase[0]) >= 0.14 * apart || y <= from || y >= to) continue;
      sum += light[p]!;
      n++;
    }
    return n ? sum / n : 0;
  };
  const bridge = mean(eyes + 0.3 * (noseBase[1] - eyes), noseTip[1]);
  return mean(noseTip[1] + 0.3 * (noseBase[1] - noseTip[1]), noseBase[1] + 0.1 * lip) / Math.max(1e-6, bridge);
}

/** What the eye calls it; nothing where it has no name for it. `front`: the underside of this nose in light from straight in front. */
export function nameOf(view: View, front: number, limits = LIMITS): Pattern | undefined {
  const { width, light, open, skin, points, head } = view;
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
  const lit = (p: number) => light[p]! > limits.dark && light[p]! > limits.half * open[p]!;
  const share = (of: number[]) => (of.length ? of.filter(lit).length / of.length : 0);
  const all = share(face),
    left = share(face.filter((p) => x(p) > 0)),
    right = share(face.filter((p) => x(p) < 0));
  const near = Math.max(left, right),
    far = Math.min(left, right),
    side = left < right ? 1 : -1;
  if (near < limits.rim) return 'rim';
  // light from below fills the underside of nose and brows and leaves what lies above them
  const below = underside(view);
  const climbs = below > limits.under * front;
  // shadows outside of the nose itself
  const onNose = (p: number) => {
    const down = Math.min(1, Math.max(0, (y(p) - eyes) / noseLong));
    return y(p) < noseBase[1] + 0.02 * head && y(p) > eyes - 0.1 * head && Math.abs(x(p)) < (0.19 + 0.15 * down) * apart;
  };
  const dark = new Uint8Array(skin.length);
  // what lies below the mouth has shadows of its own, and so have the sockets of the eyes
  for (const p of face) if (!lit(p) && !onNose(p) && y(p) < mouth && y(p) > eyes + 0.1 * apart) dark[p] = 1;
  // the nose's own begins at its wings or under it; muzzles and cheeks have others
  const atNose = (p: number) => Math.abs(x(p)) < limits.about * apart && y(p) > noseTip[1] - 0.3 * noseLong;
  const cast = islands(dark, width).find((g) => g.length > limits.shadow * noseLong ** 2 && g.some(atNose));
  const edge = (p: number) => x(p) * side > limits.edge * head;
  const patch = (() => {
    const bright = new Uint8Array(skin.length);
    for (const p of face) if (lit(p) && !onNose(p) && y(p) > eyes + 0.06 * apart) bright[p] = 1;
    return islands(bright, width).find((g) => g.every((p) => x(p) * side > 0) && g.length > limits.patch * noseLong ** 2);
  })();
  // where what is dark about the nose's base lies, seen from its tip: straight below it, or aside
  let aside = 0,
    deep = 0,
    spots = 0;
  for (let p = 0; p < dark.length; p++) {
    if (!dark[p] || Math.abs(x(p)) > limits.about * apart || y(p) < noseTip[1]) continue;
    aside += x(p);
    deep += y(p) - noseTip[1];
    spots++;
  }
  const slant = spots ? (Math.atan2(Math.abs(aside), deep) * 180) / Math.PI : 90;
  // a muzzle hides its shadow from who stands in front: light from above that makes both halves alike comes from straight ahead
  const straight = slant < limits.leans || (near - far < limits.alike && below < limits.unlit * front);
  const joins = cast?.some(edge) ?? false;
  if (joins && patch && !climbs && !straight) {
    // no wider than the eye and no longer than the nose, with some indulgence
    const xs = patch.map(x),
      ys = patch.map(y),
      wide = Math.max(...xs) - Math.min(...xs),
      tall = Math.max(...ys) - Math.min(...ys);
    if (wide < limits.wide * apart && tall < limits.tall * noseLong) return 'closed triangle';
  }
  if (far < limits.split || (far < limits.splitAbove && below < limits.surely * front)) return 'split';
  if (climbs) return 'under';
  if (!cast && all > limits.flat) return 'flat';
  // a muzzle hides what lies under it: its own dark underside says that light comes from above
  if (!cast && !(straight && below < limits.unlit * front)) return undefined;
  if (straight) return far > limits.butterfly ? 'butterfly' : undefined;
  if (joins) return undefined;
  return far > limits.loop && near > limits.near ? 'loop' : undefined;
}
