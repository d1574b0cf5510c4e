// What probes into skin are sent for and what they find, as arrays over a batch.
import type { SceneGeometry } from '../scene/index.ts';
import { diffusionWidth } from '../surface/index.ts';

/** Exits of a path: one for each colour, along the normal, and then one across. */
export const EXITS = 4,
  ACROSS = 3;
/** Share of the exit across where a path has one exit alone; those along the normal share the rest. */
export const ACROSS_ALONE = 0.5;

/**
 * Least chance that the probe across is sent among the others, and how fast the chance grows with the turn of the surface over one width
 * of the profile, in radians: where it counts for much is rare, at nose, lids and ears.
 */
const ACROSS_LEAST = 0.04,
  ACROSS_BY_TURN = 4;

/** Scratch of the probes. */
export interface Probes {
  /** Of each material the widths d of its three channels' profiles, metres. */
  widths: Float64Array;
  /** Of each triangle the chance that the exit across is looked for, once it is known; see `acrossOf`. */
  across: Float32Array;
  /** What each probe is sent for: the path that goes in, which of its exits it looks for, its cell of the blue-noise mask. */
  path: Int32Array;
  exit: Uint8Array;
  cell: Int32Array;
  /** Chance with which its path's exit across is looked for, where all its exits are. */
  tried: Float64Array;
  /** Which probe is in which place of the kernel's buffer; what each found: triangle and weights. */
  slot: Int32Array;
  id: Int32Array;
  u: Float32Array;
  v: Float32Array;
  /** Width of the profile that its radius is drawn from, the profile's sum over what it met, and what that was at the exit taken. */
  width: Float64Array;
  sum: Float64Array;
  /** How many surfaces of its own material it met. */
  found: Uint8Array;
  taken: Float64Array;
  /**
   * Of each exit among the paths of the batch: the path that went in, and the throughput r g b that it has as the only one. Among
   * others what it has stands in the batch.
   */
  from: Int32Array;
  alone: Float32Array;
}

/** Scratch for a batch of this capacity, over a geometry's materials. */
export function makeProbes(capacity: number, geometry: SceneGeometry): Probes {
  const { materials } = geometry;
  const doubles = () => new Float64Array(capacity);
  const widths = Float64Array.from(
    materials.flatMap((m) => m.base.map((albedo, k) => diffusionWidth(m.freePath[k]!, Math.min(0.99, albedo)))),
  );
  return {
    widths,
    across: new Float32Array(geometry.triangleMaterial.length),
    path: new Int32Array(capacity),
    exit: new Uint8Array(capacity),
    cell: new Int32Array(capacity),
    tried: doubles(),
    from: new Int32Array(capacity),
    slot: new Int32Array(capacity),
    id: new Int32Array(capacity),
    u: new Float32Array(capacity),
    v: new Float32Array(capacity),
    width: doubles(),
    sum: doubles(),
    found: new Uint8Array(capacity),
    taken: doubles(),
    alone: new Float32Array(capacity * 3),
  };
}

/** How far two of these points or directions are apart. */
function apart(of: Float32Array, a: number, b: number): number {
  const x = of[a]! - of[b]!,
    y = of[a + 1]! - of[b + 1]!,
    z = of[a + 2]! - of[b + 2]!;
  return Math.sqrt(x * x + y * y + z * z);
}

/**
 * The chance that the exit across is looked for at a triangle that light goes into, by how much its normals turn. It is worked out when it is first
 * asked for: a picture meets few of a figure's triangles.
 */
export function acrossOf({ across, widths }: Probes, { mesh, normals, triangleMaterial }: SceneGeometry, id: number): number {
  const known = across[id]!;
  if (known > 0) return known;
  const { positions, indices } = mesh,
    m = triangleMaterial[id]! * 3;
  const widest = Math.max(widths[m]!, widths[m + 1]!, widths[m + 2]!);
  let turn = 0;
  for (let k = 0; k < 3; k++) {
    const a = indices[id * 3 + k]! * 3,
      b = indices[id * 3 + ((k + 1) % 3)]! * 3,
      length = apart(positions, a, b);
    if (length > 0) turn = Math.max(turn, apart(normals, a, b) / length);
  }
  across[id] = Math.min(1, Math.max(ACROSS_LEAST, ACROSS_BY_TURN * widest * turn));
  return across[id]!;
}
