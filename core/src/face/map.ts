import { add, cross, dot, length, normalize, scale, sub, type Vec3 } from '../math/index.ts';
import type { SceneGeometry } from '../scene/index.ts';
import { fromHead, refCovers, toHead, type Frame } from '../setup/index.ts';
import { allDirections, DIRECTIONS } from './directions.ts';
import { azimuthOf, COLUMNS, rayOf, ROWS, rowsOf } from './grid.ts';
import type { WholeFace } from './known.ts';
import { measuresOf, regionAt, regionNumber, REGIONS, type Measures, type Region } from './regions.ts';
import { closeOf, FREE, OFF_SURFACE, TURNED, type Eyes } from './sight.ts';

export const CELLS = COLUMNS * ROWS;

/** What can be in light's way: nothing, or … */
export const BLOCKERS = ['', 'nose', 'brow', 'cheek', 'hair', 'turn', 'other', 'flank'] as const;
export type Blocker = (typeof BLOCKERS)[number];
export const NOSE = 1,
  TURN = 5,
  /** The nose from close by: on the nose itself that is its own form, beside it its shadow. */
  FLANK = 7;

/** The face as a grid of places, rows from the top, columns from the subject's right. */
export interface FaceMap {
  face: WholeFace;
  measures: Measures;
  /** 1 where there is something. */
  there: Uint8Array;
  /** x y z of each place and of its normal in the world; places in the head's axes and heights. */
  points: Float32Array;
  normals: Float32Array;
  local: Float32Array;
  /** Number of the region; square metres. */
  region: Uint8Array;
  area: Float32Array;
  /** Number of the object that each place is of, −1 where there is none; and of that which is the face's skin. */
  object: Int16Array;
  skin: number;
  /** 1 where patterns are looked for: skin in front, neither ear nor neck. */
  front: Uint8Array;
  /** Square metres that each of them takes up in a picture taken straight from in front: what is hidden under brows, chin and hair is no part of it. */
  shown: Float32Array;
  /** directions of the head × places: number of what is in the way. In this order, since one light is looked up by all places. */
  blockers: Uint8Array;
}

type Places = Omit<FaceMap, 'blockers' | 'area' | 'front' | 'shown'>;

/** Rays begin again behind what is not the face's, so often at most. */
const MOST_BEFORE = 4;
/** How far away something still counts as the figure's own, and up to where it is a place's own form, in heights of the head. */
const REACH = 2.2,
  CLOSE = 0.06;
/** Flanks of the nose reach so far beyond it, as blockers of light. */
const FLANKS = 1.25;
/** Places whose directions are asked for at once. */
const AT_ONCE = 64;

const corner = (of: Float32Array, v: number): Vec3 => [of[v * 3]!, of[v * 3 + 1]!, of[v * 3 + 2]!];

/** Place and shading normal of a hit. */
function surfaceAt(geometry: SceneGeometry, id: number, u: number, v: number): { at: Vec3; normal: Vec3 } {
  const { positions, indices } = geometry.mesh;
  const [a, b, c] = [indices[id * 3]!, indices[id * 3 + 1]!, indices[id * 3 + 2]!];
  const mix = (of: Float32Array): Vec3 => add(add(scale(corner(of, a), 1 - u - v), scale(corner(of, b), u)), scale(corner(of, c), v));
  return { at: mix(positions), normal: normalize(mix(geometry.normals)) };
}

/** Finds the places of the grid on the mesh. */
async function places(eyes: Eyes, geometry: SceneGeometry, face: WholeFace): Promise<Places> {
  const { frame } = face,
    rows = rowsOf(face),
    H = frame.headHeight,
    measures = measuresOf(face);
  const own = geometry.objects.map((o) => refCovers(`subjects/${face.subject}`, o));
  const out = {
    face,
    measures,
    there: new Uint8Array(CELLS),
    points: new Float32Array(CELLS * 3),
    normals: new Float32Array(CELLS * 3),
    local: new Float32Array(CELLS * 3),
    region: new Uint8Array(CELLS),
    object: new Int16Array(CELLS).fill(-1),
  };
  const rays = new Float32Array(CELLS * 8);
  for (let c = 0; c < CELLS; c++) {
    const { from, to } = rayOf(rows, c % COLUMNS, Math.floor(c / COLUMNS));
    const o = fromHead(frame, scale(from, H)),
      d = sub(fromHead(frame, to), frame.origin);
    rays.set([...o, 0, ...d, 1.3 * H], c * 8);
  }
  let waiting = Array.from({ length: CELLS }, (_, c) => c);
  for (let pass = 0; pass < MOST_BEFORE && waiting.length; pass++) {
    const asked = new Float32Array(waiting.length * 8);
    waiting.forEach((c, i) => asked.set(rays.subarray(c * 8, c * 8 + 8), i * 8));
    const hits = await eyes.cast(asked),
      ids = new Int32Array(hits.buffer, hits.byteOffset, hits.length);
    waiting = waiting.filter((c, i) => {
      const id = ids[i * 4 + 3]!;
      if (id < 0) return false;
      if (!own[geometry.triangleObject[id]!]) {
        rays[c * 8 + 3] = hits[i * 4]! + 1e-4;
        return true;
      }
      const { at, normal } = surfaceAt(geometry, id, hits[i * 4 + 1]!, hits[i * 4 + 2]!);
      const local = scale(toHead(frame, at), 1 / H);
      out.there[c] = 1;
      out.object[c] = geometry.triangleObject[id]!;
      out.points.set(at, c * 3);
      out.normals.set(normal, c * 3);
      out.local.set(local, c * 3);
      out.region[c] = regionNumber(regionAt(face, measures, local));
      return false;
    });
  }
  return { ...out, skin: skinOf(out) };
}

/** The part of the surface that each place stands for, square metres; where a neighbour is missing or far behind, as if it lay level. */
function areasOf({ there, points, face }: Pick<FaceMap, 'there' | 'points' | 'face'>): Float32Array {
  const H = face.frame.headHeight;
  const at = (c: number): Vec3 => [points[c * 3]!, points[c * 3 + 1]!, points[c * 3 + 2]!];
  const step = (a: number, b: number): Vec3 | undefined => {
    if (!there[a] || !there[b]) return undefined;
    const d = sub(at(b), at(a));
    return length(d) < 0.12 * H ? d : undefined;
  };
  return Float32Array.from({ length: CELLS }, (_, c) => {
    if (!there[c]) return 0;
    const column = c % COLUMNS;
    const across = (column + 1 < COLUMNS ? step(c, c + 1) : undefined) ?? (column > 0 ? step(c - 1, c) : undefined),
      down = (c + COLUMNS < CELLS ? step(c, c + COLUMNS) : undefined) ?? (c >= COLUMNS ? step(c - COLUMNS, c) : undefined);
    return across && down ? length(cross(across, down)) : 0;
  });
}

/** Places further round the head than this belong to no pattern, degrees. */
const FRONT = 62;

/** Whether places count for patterns: skin in front; eyes are bright or dark by themselves and mostly not of the skin. */
function frontOf({ there, object, region, skin }: Places): Uint8Array {
  return Uint8Array.from({ length: CELLS }, (_, c) => {
    const name = REGIONS[region[c]!]!;
    return there[c] && object[c] === skin && name !== 'ear' && name !== 'neck' && Math.abs(azimuthOf(c % COLUMNS)) <= FRONT ? 1 : 0;
  });
}

/** Triangle → what it is in light's way. */
function blockerKinds(geometry: SceneGeometry, map: Places): (id: number, close?: boolean) => number {
  const { face, measures, skin } = map,
    { frame } = face;
  const kinds = new Uint8Array(geometry.triangleObject.length).fill(255);
  // the nose's shadow is drawn by its flanks too, where they run into the cheek
  const wide = { ...measures, noseWide: FLANKS * measures.noseWide, rootWide: FLANKS * measures.rootWide };
  const byRegion: Partial<Record<Region, Blocker>> = { nose: 'nose', brow: 'brow', forehead: 'brow', cheekL: 'cheek', cheekR: 'cheek' };
  const told = (kind: number, close: boolean | undefined): number => (close && kind === NOSE ? FLANK : kind);
  return (id, close) => {
    if (kinds[id] !== 255) return told(kinds[id]!, close);
    const { indices, positions } = geometry.mesh;
    const middle = scale(
      [0, 1, 2].reduce<Vec3>((sum, k) => add(sum, corner(positions, indices[id * 3 + k]!)), [0, 0, 0]),
      1 / 3,
    );
    const local = scale(toHead(frame, middle), 1 / frame.headHeight),
      region = regionAt(face, wide, local);
    const object = geometry.objects[geometry.triangleObject[id]!] ?? '';
    const own = refCovers(`subjects/${face.subject}`, object),
      isSkin = geometry.triangleObject[id] === skin;
    // what grows on the head and is not its skin: brows where they are, hair elsewhere
    const kind: Blocker = !own
      ? 'other'
      : isSkin || region === 'brow'
        ? (byRegion[region] ?? 'other')
        : length(local) < 1.1
          ? 'hair'
          : 'other';
    return told((kinds[id] = BLOCKERS.indexOf(kind)), close);
  };
}

/** The object that most of nose and cheeks belong to. */
function skinOf({ object, region }: Pick<FaceMap, 'object' | 'region'>): number {
  const counts = new Map<number, number>();
  object.forEach((o, c) => {
    if (o >= 0 && ['nose', 'cheekL', 'cheekR'].includes(REGIONS[region[c]!]!)) counts.set(o, (counts.get(o) ?? 0) + 1);
  });
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? -1;
}

/** Numbers of the places that are there. */
export const placesOf = ({ there }: Pick<FaceMap, 'there'>): number[] => Array.from({ length: CELLS }, (_, c) => c).filter((c) => there[c]);

/** Points and normals of some places, as jobs over points want them. */
export function surfacesOf(
  { points, normals }: Pick<FaceMap, 'points' | 'normals'>,
  cells: readonly number[],
): { points: Float32Array; normals: Float32Array } {
  const of = (values: Float32Array): Float32Array => {
    const out = new Float32Array(cells.length * 3);
    cells.forEach((c, i) => out.set(values.subarray(c * 3, c * 3 + 3), i * 3));
    return out;
  };
  return { points: of(points), normals: of(normals) };
}

const worldDirections = (frame: Frame): Float32Array => {
  const local = allDirections(),
    out = new Float32Array(local.length);
  for (let d = 0; d < local.length; d += 3) {
    const v = sub(fromHead(frame, [local[d]!, local[d + 1]!, local[d + 2]!]), frame.origin);
    out.set(v, d);
  }
  return out;
};

/** The map of a face without what stands in its directions: for one look at known lights (see `whatShades`). */
export async function makeBareMap(eyes: Eyes, geometry: SceneGeometry, face: WholeFace): Promise<FaceMap> {
  const found = await places(eyes, geometry, face);
  const area = areasOf(found),
    front = frontOf(found);
  return { ...found, area, front, shown: await shownOf(eyes, { ...found, area, front }), blockers: new Uint8Array(0) };
}

/** Square metres of a picture taken straight from in front that each place of the face's front takes up. */
async function shownOf(
  eyes: Eyes,
  { face, points, normals, area, front }: Pick<FaceMap, 'face' | 'points' | 'normals' | 'area' | 'front'>,
): Promise<Float32Array> {
  const { headHeight, z } = face.frame,
    out = new Float32Array(CELLS),
    cosine = (c: number) => dot(corner(normals, c), z);
  const cells = Array.from(front.keys()).filter((c) => front[c] && cosine(c) > 0);
  const rays = cells.flatMap((c) => [...add(corner(points, c), scale(corner(normals, c), OFF_SURFACE)), 0, ...z, REACH * headHeight]);
  const hits = await eyes.cast(Float32Array.from(rays)),
    ids = new Int32Array(hits.buffer, hits.byteOffset, hits.length);
  cells.forEach((c, i) => (out[c] = ids[i * 4 + 3]! < 0 ? area[c]! * cosine(c) : 0));
  return out;
}

/**
 * What is in the way of each place towards one light, of which some unit directions of the world are known: a number of BLOCKERS. What stands in most
 * of them counts; where nothing does, the surface's own turn is what can be.
 */
export async function whatShades(eyes: Eyes, geometry: SceneGeometry, map: FaceMap, directions: readonly Vec3[]): Promise<Uint8Array> {
  const counts = new Uint8Array(CELLS * BLOCKERS.length);
  await lookAbout(eyes, geometry, map, Float32Array.from(directions.flat()), (c, _, kind) => counts[c * BLOCKERS.length + kind]!++);
  return Uint8Array.from({ length: CELLS }, (_, c) => {
    let best = TURN,
      most = 0;
    for (let kind = 1; kind < BLOCKERS.length; kind++) {
      const n = counts[c * BLOCKERS.length + kind]!;
      if (kind === TURN || n <= most) continue;
      most = n;
      best = kind;
    }
    return best;
  });
}

/** Makes the map of a face: its places, and what stands in every direction from each. */
export async function makeFaceMap(eyes: Eyes, geometry: SceneGeometry, face: WholeFace): Promise<FaceMap> {
  const map = await makeBareMap(eyes, geometry, face);
  const blockers = new Uint8Array(CELLS * DIRECTIONS);
  await lookAbout(eyes, geometry, map, worldDirections(face.frame), (c, d, kind) => (blockers[d * CELLS + c] = kind));
  return { ...map, blockers };
}

/** Asks what is in the way of every place in some directions; tells place by place, direction by direction. */
async function lookAbout(
  eyes: Eyes,
  geometry: SceneGeometry,
  found: FaceMap,
  directions: Float32Array,
  tell: (c: number, d: number, kind: number) => void,
): Promise<void> {
  const kindOf = blockerKinds(geometry, found);
  const H = found.face.frame.headHeight,
    many = directions.length / 3;
  const known = placesOf(found);
  const parts: Promise<void>[] = [];
  for (let from = 0; from < known.length; from += AT_ONCE) {
    const cells = known.slice(from, from + AT_ONCE);
    const job = { ...surfacesOf(found, cells), directions, reach: REACH * H, close: CLOSE * H };
    parts.push(
      Promise.resolve(eyes.sight(job)).then((seen) => {
        for (let d = 0; d < many; d++)
          for (let i = 0; i < cells.length; i++) {
            const id = seen[i * many + d]!;
            tell(cells[i]!, d, id === FREE ? 0 : id === TURNED ? TURN : id < 0 ? kindOf(closeOf(id), true) : kindOf(id));
          }
      }),
    );
  }
  await Promise.all(parts);
}

export const regionOfCell = (map: FaceMap, c: number): Region => REGIONS[map.region[c]!]!;

/** The place of the map that lies nearest to a point of the world. */
export function nearestPlace({ there, points }: FaceMap, p: Vec3): number {
  let best = 0,
    least = Infinity;
  for (let c = 0; c < CELLS; c++) {
    if (!there[c]) continue;
    const x = points[c * 3]! - p[0],
      y = points[c * 3 + 1]! - p[1],
      z = points[c * 3 + 2]! - p[2];
    const d = x * x + y * y + z * z;
    if (d < least) {
      least = d;
      best = c;
    }
  }
  return best;
}
