import { batchArrays, type BatchArrays } from '@plinket/kernel';

/** Which layer a path's light belongs to: that of the lobe at its first vertex. */
export const DIFFUSE = 0;
export const SPECULAR = 1;
/** Not scattered yet: the camera ray, or a camera ray that went through clear surfaces only. */
export const UNSCATTERED = 2;

/** What a path does at its surface point. */
export const OPAQUE = 0;
/** A clear surface met from outside: reflects, or lets pass. */
export const CLEAR = 1;
/** A hole, the inside of a clear surface, the back of a one-sided one: the path goes straight on. */
export const THROUGH = 2;

/**
 * The paths that are on their way together, and the surface points they stand on, as parallel arrays: no path is an
 * object and nothing is allocated while tracing. They lie in the kernel's memory where it can shade.
 *
 * Of the path: pixel of the tile, cell of the blue-noise mask, label, bounces so far (`depth`), throughput `tr tg tb`, density
 * with which its ray was drawn (lobe choice included; 0: the camera ray), metres `travelled` from the camera.
 * Of the surface point: position `p`, geometric and shading normal `g n`, direction back along the ray `v`, where shadow
 * rays start `o`, distance `gap` by which rays start off it, triangle, material; diffuse albedo `d` with what the layers above
 * leave of it for this view, reflectance `f` at normal and `f90` at grazing incidence, what single scattering loses
 * (`lost` = 1/E − 1), mean reflectance `cover` and `cover90` of the dielectric over the diffuse layer, GGX's alpha and its row in the albedo tables, chance that the walk takes the sharp lobes, `pass`
 * (OPAQUE, CLEAR, THROUGH), `extra` (1: coat, sheen or fibres).
 * Of a light sample, or of how the path goes on: direction `l`, distance `ld`, 1 / density by solid angle `lw`, radiance.
 */
export class Batch {
  readonly capacity: number;
  readonly fields: BatchArrays;
  /** Contributions that wait for their shadow ray, six floats each. */
  readonly waiting: Float32Array;

  /** Which surface points the host shades itself: all, or what the kernel's shader leaves. */
  readonly rest: Int32Array;
  restCount = 0;

  // what only surfaces with coat, sheen or fibres have
  readonly coat: Float32Array;
  readonly coatAlpha: Float32Array;
  readonly coatRow: Uint16Array;
  /** Share of the sharp lobes' chance that goes to the coat. */
  readonly coatChance: Float32Array;
  /** What the coat leaves of the layers below for this view, over its mean. */
  readonly under: Float32Array;
  readonly sheenR: Float32Array;
  readonly sheenG: Float32Array;
  readonly sheenB: Float32Array;
  readonly sheenRoughness: Float32Array;
  /** Share of the diffuse light that passes through, and the strands' direction. */
  readonly thin: Float32Array;
  readonly sx: Float32Array;
  readonly sy: Float32Array;
  readonly sz: Float32Array;

  /** @param place arrays that exist already: a kernel's */
  constructor(capacity: number, place?: { fields: BatchArrays; waiting: Float32Array }) {
    this.capacity = capacity;
    const { fields, waiting } = place ?? batchArrays(capacity);
    this.fields = fields;
    this.waiting = waiting;
    this.rest = new Int32Array(capacity);
    const f = () => new Float32Array(capacity);
    [this.coat, this.coatAlpha, this.coatChance, this.under] = [f(), f(), f(), f()];
    this.coatRow = new Uint16Array(capacity);
    [this.sheenR, this.sheenG, this.sheenB, this.sheenRoughness] = [f(), f(), f(), f()];
    [this.thin, this.sx, this.sy, this.sz] = [f(), f(), f(), f()];
  }

  /** Lists the surface points that are left for the host. */
  findRest(count: number, shaded: boolean): void {
    const { pass, extra } = this.fields;
    let n = 0;
    for (let i = 0; i < count; i++) if (!shaded || pass[i] !== OPAQUE || extra[i] !== 0) this.rest[n++] = i;
    this.restCount = n;
  }

  /** Moves what belongs to the path (not to its surface point) from one place to another. */
  movePath(from: number, to: number): void {
    if (from === to) return;
    const { pixel, cell, label, depth, tr, tg, tb, density, travelled } = this.fields;
    pixel[to] = pixel[from]!;
    cell[to] = cell[from]!;
    label[to] = label[from]!;
    depth[to] = depth[from]!;
    tr[to] = tr[from]!;
    tg[to] = tg[from]!;
    tb[to] = tb[from]!;
    density[to] = density[from]!;
    travelled[to] = travelled[from]!;
  }
}
