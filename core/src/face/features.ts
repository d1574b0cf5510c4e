// What a key light draws on a face, in numbers: the nose's shadow, the cheek's, the light that stays between them.
import { add, DEGREE, normalize, type Vec3 } from '../math/index.ts';
import { placeOf } from '../setup/index.ts';
import { azimuthOf, COLUMNS } from './grid.ts';
import { CELLS, type FaceMap } from './map.ts';
import { areaOf, groups, isMuzzle, LIT, marked, NOSE_CAST, shadesOf } from './dark.ts';
import type { CellLight, FaceLight } from './lookup.ts';
import { regionNumber } from './regions.ts';

const OF_NOSE = regionNumber('nose');
/** What the light under the far eye cannot lie on. */
const NOT_CHEEK = new Set((['nose', 'forehead', 'brow', 'eyeL', 'eyeR'] as const).map(regionNumber));

/** The subject's own left or right. */
export type Side = 'left' | 'right';

export interface Features {
  /** Where the light comes from, degrees from where the nose points: positive azimuth to the subject's left. */
  azimuth: number;
  elevation: number;
  /** What each place is (see dark.ts). */
  shades: Uint8Array;
  /** Share of the face that is lit in a picture taken straight from in front: of all, and of its two halves. */
  lit: number;
  litLeft: number;
  litRight: number;
  nose?: NoseShadow;
  /** The side on which shadows fall. */
  side: Side;
  /** Metres of lit skin between the nose's shadow and that of the cheek; 0 where they join; nothing where one of them is not there. */
  gap?: number;
  /** Light that shadows shut in under the far eye, millimetres; and the measures of this eye and nose. */
  patch?: { width: number; height: number; area: number; cells: number[] };
  eyeWidth: number;
  noseLength: number;
}

export interface NoseShadow {
  cells: number[];
  /** Square metres; and as a share of the nose's length squared. */
  area: number;
  share: number;
  /** Degrees from straight down, positive to the subject's left; beyond 90 it rises. */
  slant: number;
  /** How far it reaches from the nose's base, as a share of the way to the corner of the mouth on its side. */
  reach: number;
}

/** The cheek's shadow is dark that comes from at least so far round the head, degrees. */
const FAR_ROUND = 44;
/** Nose shadows smaller than this share of the nose's length squared are none; how much of one there must be is a matter of degree (pattern.ts). */
const LEAST_SHADOW = 0.015;
/** So much of a shadow's length is its end. */
const ENDS = 0.3;
/** A lit patch on the far cheek is at least so large, in the same measure. */
const LEAST_PATCH = 0.02;

/** Direction of a light from between eyes and nose. */
export function directionOfLight(map: FaceMap, light: FaceLight): { azimuth: number; elevation: number } {
  const { origin, y, z, headHeight } = map.face.frame;
  const at = origin.map((o, k) => o - 0.1 * headHeight * y[k]! + 0.05 * headHeight * z[k]!) as Vec3;
  const sum: Vec3 = [0, 0, 0];
  for (let k = 0; k < 9; k++) {
    if (!light.sample(at[0], at[1], at[2], ((k % 3) + 0.5) / 3, (Math.floor(k / 3) + 0.5) / 3)) continue;
    const { ray } = light;
    sum[0] += ray.x * ray.weight;
    sum[1] += ray.y * ray.weight;
    sum[2] += ray.z * ray.weight;
  }
  // light that comes from all round alike comes from where the nose points
  const { azimuth, elevation } = placeOf(map.face.frame, add(origin, normalize(sum, z)));
  return { azimuth, elevation };
}

const localOf = (map: FaceMap, c: number): Vec3 => [map.local[c * 3]!, map.local[c * 3 + 1]!, map.local[c * 3 + 2]!];

/** The middle of places, by their areas. */
function middleOf(map: FaceMap, cells: readonly number[]): Vec3 {
  const sum: Vec3 = [0, 0, 0];
  let all = 0;
  for (const c of cells) {
    const area = map.area[c]!;
    localOf(map, c).forEach((v, k) => (sum[k] = sum[k]! + v * area));
    all += area;
  }
  return sum.map((v) => v / all) as Vec3;
}

function noseShadow(map: FaceMap, shades: Uint8Array, direction: { azimuth: number; elevation: number }): NoseShadow | undefined {
  const { points, frame } = map.face,
    { measures } = map,
    H = frame.headHeight;
  const found = groups(
    map,
    marked((c) => shades[c] === NOSE_CAST && map.front[c] === 1),
  );
  const cells = found.find((group) =>
    group.some((c) => {
      const p = localOf(map, c);
      return Math.abs(p[0] - points.noseBase[0]) < 2.2 * measures.noseWide;
    }),
  );
  const area = cells ? areaOf(map, cells) : 0,
    share = area / (measures.noseLong * H) ** 2;
  if (!cells || share < LEAST_SHADOW) return undefined;
  const [bx, by] = points.noseBase,
    tip = points.noseTip;
  // the shadow's end is where it lies furthest along the way that light takes across the face
  const across = -Math.sin(direction.azimuth * DEGREE) * Math.cos(direction.elevation * DEGREE),
    down = -Math.sin(direction.elevation * DEGREE);
  const along = cells.map((c) => map.local[c * 3]! * across + map.local[c * 3 + 1]! * down);
  const far = Math.max(...along),
    near = Math.min(...along);
  const end = localOf(map, cells[along.indexOf(far)]!);
  const mouth = end[0] > bx ? points.mouthCornerL : points.mouthCornerR;
  // where it leans all of its end says: the furthest place of a shadow that falls straight down lies at one of its corners; a muzzle's
  // ends under the chin wherever light comes from, and there its middle says it
  const leans = middleOf(map, isMuzzle(map) ? cells : cells.filter((_, i) => along[i]! >= far - ENDS * (far - near)));
  return {
    cells,
    area,
    share,
    slant: Math.atan2(leans[0] - tip[0], tip[1] - leans[1]) / DEGREE,
    reach: Math.hypot(end[0] - bx, end[1] - by) / Math.hypot(mouth[0] - bx, mouth[1] - by),
  };
}

/** What a light draws on a face. `direction` is where it comes from, see `directionOfLight`. */
export function featuresOf(map: FaceMap, light: CellLight, direction: { azimuth: number; elevation: number }): Features {
  const shades = shadesOf(map, light);
  const { face, measures } = map,
    H = face.frame.headHeight,
    middle = face.points.noseBase[0];
  const sums = { left: 0, right: 0, litLeft: 0, litRight: 0 };
  for (let c = 0; c < CELLS; c++) {
    const onLeft = map.local[c * 3]! > middle,
      area = map.shown[c]!;
    if (onLeft) sums.left += area;
    else sums.right += area;
    if (shades[c] !== LIT) continue;
    if (onLeft) sums.litLeft += area;
    else sums.litRight += area;
  }
  const nose = noseShadow(map, shades, direction);
  const litLeft = sums.litLeft / sums.left,
    litRight = sums.litRight / sums.right;
  // shadows fall on the side away from the light
  const side: Side = direction.azimuth > 0 ? 'right' : 'left';
  const sign = side === 'left' ? 1 : -1;
  const out: Features = {
    ...direction,
    shades,
    lit: (sums.litLeft + sums.litRight) / (sums.left + sums.right),
    litLeft,
    litRight,
    side,
    eyeWidth: 2000 * measures.eyeWide * H,
    noseLength: 1000 * measures.noseLong * H,
    ...(nose ? { nose } : {}),
  };
  // the cheek's shadow: dark that reaches the far edge of the face's front
  const onFar = (c: number) => sign * (map.local[c * 3]! - middle) > 0.9 * measures.noseWide;
  const dark = groups(
    map,
    marked((c) => map.front[c] === 1 && shades[c] !== LIT && shades[c] !== NOSE_CAST && onFar(c) && map.region[c] !== OF_NOSE),
  );
  const cheek = dark.filter((g) => g.some((c) => sign * azimuthOf(c % COLUMNS) > FAR_ROUND)).flat();
  if (nose && cheek.length) {
    const beside = nose.cells.filter((c) => sign * (map.local[c * 3]! - middle) > 0);
    const gap = apart(map, edgeOf(beside), edgeOf(cheek));
    if (Number.isFinite(gap)) out.gap = gap < joined(map) ? 0 : gap;
  }
  const patch = patchOf(map, shades, sign);
  if (patch) out.patch = patch;
  return out;
}

/** Those of some places that have one beside them that is not of them. */
function edgeOf(cells: readonly number[]): number[] {
  const of = new Set(cells);
  return cells.filter((c) => !of.has(c - 1) || !of.has(c + 1) || !of.has(c - COLUMNS) || !of.has(c + COLUMNS));
}

/** Least distance between places of two sets, metres. */
function apart({ points }: FaceMap, some: readonly number[], others: readonly number[]): number {
  let least = Infinity;
  for (const a of some)
    for (const b of others) {
      const x = points[a * 3]! - points[b * 3]!,
        y = points[a * 3 + 1]! - points[b * 3 + 1]!,
        z = points[a * 3 + 2]! - points[b * 3 + 2]!;
      least = Math.min(least, x * x + y * y + z * z);
    }
  return Math.sqrt(least);
}

/** Shadows nearer than this hang together: about a cell and a half, metres. */
const joined = (map: FaceMap): number => 0.022 * map.face.frame.headHeight;

/** Light on the far cheek that shadows shut in: lit places that hang together there without a way to the near side of the face. */
function patchOf(map: FaceMap, shades: Uint8Array, sign: number): Features['patch'] {
  const { points, frame } = map.face,
    { measures } = map,
    H = frame.headHeight,
    middle = points.noseBase[0];
  const pupil = sign > 0 ? points.pupilL : points.pupilR;
  const below = marked((c) => {
    if (!map.front[c] || shades[c] !== LIT) return false;
    if (NOT_CHEEK.has(map.region[c]!)) return false;
    // only below the lid: between the eyes light finds its way to the near side as a rule
    return map.local[c * 3 + 1]! < pupil[1] - 1.2 * measures.eyeHigh;
  });
  for (const cells of groups(map, below)) {
    const xs = cells.map((c) => sign * (map.local[c * 3]! - middle));
    if (Math.min(...xs) < 0) continue;
    const area = areaOf(map, cells);
    if (area < LEAST_PATCH * (measures.noseLong * H) ** 2) return undefined;
    const ys = cells.map((c) => map.local[c * 3 + 1]!);
    return {
      cells,
      area,
      // as who stands before the face sees it beside the eye: a cheek turns away
      width: 1000 * (Math.max(...xs) - Math.min(...xs)) * H,
      height: 1000 * (Math.max(...ys) - Math.min(...ys)) * H,
    };
  }
  return undefined;
}
