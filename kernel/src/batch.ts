/**
 * Fields of a batch of paths in the kernel's memory, in their order; assembly/shade/fields.ts has the same order as numbers.
 * `i` marks whole numbers.
 */
export const BATCH_FIELDS = [
  ['pixel', 'i'],
  ['cell', 'i'],
  ['label', 'i'],
  ['depth', 'i'],
  ['tr', 'f'],
  ['tg', 'f'],
  ['tb', 'f'],
  ['density', 'f'],
  ['travelled', 'f'],
  ['px', 'f'],
  ['py', 'f'],
  ['pz', 'f'],
  ['gx', 'f'],
  ['gy', 'f'],
  ['gz', 'f'],
  ['nx', 'f'],
  ['ny', 'f'],
  ['nz', 'f'],
  ['vx', 'f'],
  ['vy', 'f'],
  ['vz', 'f'],
  ['ox', 'f'],
  ['oy', 'f'],
  ['oz', 'f'],
  ['gap', 'f'],
  ['triangle', 'i'],
  ['material', 'i'],
  ['dr', 'f'],
  ['dg', 'f'],
  ['db', 'f'],
  ['fr', 'f'],
  ['fg', 'f'],
  ['fb', 'f'],
  ['f90', 'f'],
  ['lost', 'f'],
  ['alpha', 'f'],
  ['row', 'i'],
  ['chance', 'f'],
  ['pass', 'i'],
  ['extra', 'i'],
  ['lx', 'f'],
  ['ly', 'f'],
  ['lz', 'f'],
  ['ld', 'f'],
  ['lw', 'f'],
  ['lr', 'f'],
  ['lg', 'f'],
  ['lb', 'f'],
  ['waitingPixel', 'i'],
  ['cover', 'f'],
  ['cover90', 'f'],
] as const;

type Field = (typeof BATCH_FIELDS)[number];
/** Every field as an array of its kind. */
export type BatchArrays = { [F in Field as F[0]]: F[1] extends 'i' ? Int32Array : Float32Array };

/** Floats of one contribution that waits for its shadow ray. */
export const WAITING_FLOATS = 6;
/** Room behind the last one that the SIMD code scribbles on, floats. */
const WAITING_ROOM = 64;

/**
 * Bytes from one field to the next. The odd number of cache lines keeps the fields of one path from falling into the same
 * few sets of the nearest cache, as a power of two would have it.
 */
export const batchStride = (capacity: number): number => capacity * 4 + 13 * 64;

/** Bytes of a batch of `capacity` paths. */
export const batchBytes = (capacity: number): number =>
  BATCH_FIELDS.length * batchStride(capacity) + (WAITING_FLOATS * capacity + WAITING_ROOM) * 4;

/** The arrays of a batch, over memory from `offset` on or over arrays of their own. */
export function batchArrays(capacity: number, buffer?: ArrayBufferLike, offset = 0): { fields: BatchArrays; waiting: Float32Array } {
  const memory = buffer ?? new ArrayBuffer(batchBytes(capacity));
  const fields = Object.fromEntries(
    BATCH_FIELDS.map(([name, kind], i) => {
      const at = offset + i * batchStride(capacity);
      return [name, kind === 'i' ? new Int32Array(memory, at, capacity) : new Float32Array(memory, at, capacity)];
    }),
  ) as unknown as BatchArrays;
  const waiting = new Float32Array(memory, offset + BATCH_FIELDS.length * batchStride(capacity), WAITING_FLOATS * capacity + WAITING_ROOM);
  return { fields, waiting };
}
