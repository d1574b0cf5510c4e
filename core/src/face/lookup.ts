// What a light does to a face, looked up in the map's directions: no ray is followed.
import { dot, type Vec3 } from '../math/index.ts';
import { BLOCKERS, CELLS, TURN, type Blocker, type FaceMap } from './map.ts';
import { SIDE, squareOf, wrapped } from './directions.ts';

/** One sample of a light's directions as a place sees it; irradiance that it brings for luminance 1 is `weight` times cosine. */
export interface Ray {
  x: number;
  y: number;
  z: number;
  weight: number;
}

/** A light as a face asks it: the sample for two numbers of 0…1 towards a place of the world, left in `ray`; whether there is one. */
export interface FaceLight {
  id: string;
  sample(x: number, y: number, z: number, u: number, v: number): boolean;
  readonly ray: Ray;
  /** Samples to a side that do it justice. */
  readonly grid: number;
  /** It comes from all round, and draws no shadow that has a direction. */
  readonly around?: boolean;
  /** One byte for each object of the scene, 0 where it does not light that; without it, all. */
  readonly lights?: Uint8Array;
  /** It does not light eyes. */
  readonly blind?: boolean;
}

/** What one light of luminance 1 sends to the places of a face. */
export interface CellLight {
  /** Irradiance, lx, as if nothing were in the way, and with what is. */
  open: Float32Array;
  lit: Float32Array;
  /** What keeps most of it away, a number of BLOCKERS. */
  shadedBy: Uint8Array;
}

const square = new Float64Array(2);

/** What each kind of blocker keeps from a place. */
const kept = new Float64Array(BLOCKERS.length);

/** The four directions about a point of the square, and how much of each. */
const corners = new Int32Array(4),
  shares = new Float64Array(4);

function around(u: number, v: number): void {
  const x = u * SIDE - 0.5,
    y = v * SIDE - 0.5;
  const i = Math.floor(x),
    j = Math.floor(y),
    a = x - i,
    b = y - j;
  if (i >= 0 && j >= 0 && i < SIDE - 1 && j < SIDE - 1) {
    const at = j * SIDE + i;
    corners[0] = at;
    corners[1] = at + 1;
    corners[2] = at + SIDE;
    corners[3] = at + SIDE + 1;
  } else {
    corners[0] = wrapped(i, j);
    corners[1] = wrapped(i + 1, j);
    corners[2] = wrapped(i, j + 1);
    corners[3] = wrapped(i + 1, j + 1);
  }
  shares[0] = (1 - a) * (1 - b);
  shares[1] = a * (1 - b);
  shares[2] = (1 - a) * b;
  shares[3] = a * b;
}

/**
 * Irradiance at every place of a face by a light, from the map: `grid` × `grid` samples of the light, each through the four nearest directions.
 * Only what belongs to the figure and lies near its head is in the way; what stands on the set is left to rays.
 */
export function lookUp(map: FaceMap, light: FaceLight, grid = light.grid): CellLight {
  const { there, points, normals, blockers } = map,
    { x, y, z } = map.face.frame;
  const open = new Float32Array(CELLS),
    lit = new Float32Array(CELLS),
    shadedBy = new Uint8Array(CELLS);
  if (light.lights?.[map.skin] === 0) return { open, lit, shadedBy };
  const many = grid * grid,
    { ray } = light;
  for (let c = 0; c < CELLS; c++) {
    if (!there[c]) continue;
    const px = points[c * 3]!,
      py = points[c * 3 + 1]!,
      pz = points[c * 3 + 2]!,
      nx = normals[c * 3]!,
      ny = normals[c * 3 + 1]!,
      nz = normals[c * 3 + 2]!;
    let whole = 0,
      gets = 0;
    kept.fill(0);
    for (let k = 0; k < many; k++) {
      if (!light.sample(px, py, pz, ((k % grid) + 0.5) / grid, (Math.floor(k / grid) + 0.5) / grid)) continue;
      const cos = ray.x * nx + ray.y * ny + ray.z * nz;
      if (cos <= 0) continue;
      const e = (ray.weight * cos) / many;
      whole += e;
      squareOf(
        ray.x * x[0] + ray.y * x[1] + ray.z * x[2],
        ray.x * y[0] + ray.y * y[1] + ray.z * y[2],
        ray.x * z[0] + ray.y * z[1] + ray.z * z[2],
        square,
      );
      around(square[0]!, square[1]!);
      let free = 0;
      for (let q = 0; q < 4; q++) {
        const s = shares[q]!,
          kind = blockers[corners[q]! * CELLS + c]!;
        // a direction half behind the surface says nothing of what is in the way: the cosine does
        if (kind === 0 || kind === TURN) free += s;
        else kept[kind]! += e * s;
      }
      gets += e * free;
    }
    let by = TURN;
    for (let kind = 1; kind < kept.length; kind++) if (kept[kind]! > kept[by]!) by = kind;
    open[c] = whole;
    lit[c] = gets;
    shadedBy[c] = whole > 0 && gets > 0.999 * whole ? 0 : by;
  }
  return { open, lit, shadedBy };
}

/** What the map has in the way of a place in a unit direction of the world; nothing where most of it is open. */
export function blockerTowards({ face, blockers }: FaceMap, cell: number, d: Vec3): Blocker | undefined {
  if (!blockers.length) return undefined;
  const { x, y, z } = face.frame;
  squareOf(dot(d, x), dot(d, y), dot(d, z), square);
  around(square[0]!, square[1]!);
  let most = 0,
    by = 0,
    free = 0;
  for (let q = 0; q < 4; q++) {
    const kind = blockers[corners[q]! * CELLS + cell]!,
      s = shares[q]!;
    if (kind === 0) free += s;
    else if (s > most) {
      most = s;
      by = kind;
    }
  }
  return free < 0.5 ? BLOCKERS[by] : undefined;
}

/** A small light infinitely far away, of irradiance 1 on what faces it. */
export function farLight(id: string, [x, y, z]: Vec3): FaceLight {
  return { id, ray: { x, y, z, weight: 1 }, grid: 1, sample: () => true };
}
