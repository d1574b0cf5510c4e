import type { Block } from './arena.ts';

/** A row of a channel, on its way into a block. */
export interface StoredRow {
  /** Its values: `count` floats from `from` on. */
  data: Float32Array;
  from: number;
  count: number;
  /** As half floats (IEEE 754-2008 binary16), else as they are. */
  half: boolean;
}

/** How a value is stored; the numbers are OpenEXR's: 32-bit integers, halves, floats. */
export type StoredType = 0 | 1 | 2;

/** Values as OpenEXR stores them, between pictures and the bytes of a file's blocks. */
export interface StoredMath {
  /**
   * Rows, one after the other, as the bytes of a block. What is brighter than a half can hold becomes its largest, 65504; NaN stays NaN.
   * @param mixed as ZIP wants it before it is deflated: first all even bytes, then all odd ones, each as its difference from the one before plus 128
   */
  block(rows: readonly StoredRow[], mixed: boolean): Uint8Array;
  /** Takes in a block, of an even number of bytes, as `block` makes it: read by `row` until the next comes. */
  take(bytes: Uint8Array, mixed: boolean): void;
  /** `count` values from byte `at` of the block on, times `factor`, to every `stride`-th float of `out` from `first` on. */
  row(at: number, type: StoredType, count: number, out: Float32Array, first: number, stride: number, factor: number): void;
}

/** What assembly/film/stored.ts gives. */
export interface StoredExports {
  toHalves(src: number, count: number, dst: number): void;
  fromStored(src: number, type: number, count: number, dst: number, stride: number, factor: number): void;
  mixBytes(src: number, size: number, dst: number): void;
  unmixBytes(src: number, size: number, dst: number): void;
}

/** The memory that the kernel works on. */
export interface StoredMemory {
  /** Its buffer is another one after it has grown. */
  readonly views: { readonly buffer: ArrayBufferLike };
  take(bytes: number): Block;
  give(block: Block): void;
  /** Where an array lies, if it lies here. */
  at(array: Float32Array): number | undefined;
}

/** What the kernel's loops may read or write behind the end. */
const BEHIND = 64;

/** A piece of memory that grows to what is asked of it, and is kept. */
class Room {
  private readonly memory: StoredMemory;
  private block: Block | undefined;
  constructor(memory: StoredMemory) {
    this.memory = memory;
  }
  of(bytes: number): number {
    if (!this.block || this.block.size < bytes + BEHIND) {
      if (this.block) this.memory.give(this.block);
      this.block = undefined;
      this.block = this.memory.take(bytes + BEHIND);
    }
    return this.block.at;
  }
}

/** The SIMD twin of `plainStored`, in the memory of the films. */
export function simdStored(run: StoredExports, memory: StoredMemory): StoredMath {
  const plain = new Room(memory),
    mixing = new Room(memory),
    row = new Room(memory);
  let taken = 0;
  const bytesAt = (at: number, size: number) => new Uint8Array(memory.views.buffer, at, size),
    floatsAt = (at: number, count: number) => new Float32Array(memory.views.buffer, at, count);
  return {
    block(rows, mixed) {
      const size = rows.reduce((n, r) => n + r.count * (r.half ? 2 : 4), 0),
        start = plain.of(size);
      let at = start;
      for (const { data, from, count, half } of rows) {
        if (half) {
          const src = row.of(count * 4);
          floatsAt(src, count).set(data.subarray(from, from + count));
          run.toHalves(src, count, at);
        } else bytesAt(at, count * 4).set(new Uint8Array(data.buffer, data.byteOffset + from * 4, count * 4));
        at += count * (half ? 2 : 4);
      }
      let from = start;
      if (mixed && size > 0) run.mixBytes(start, size, (from = mixing.of(size)));
      // what lies in shared memory is taken by nobody else
      const out = new Uint8Array(size);
      out.set(bytesAt(from, size));
      return out;
    },
    take(bytes, mixed) {
      taken = plain.of(bytes.length);
      const to = mixed ? mixing.of(bytes.length) : taken;
      bytesAt(to, bytes.length).set(bytes);
      if (mixed) run.unmixBytes(to, bytes.length, taken);
    },
    row(at, type, count, out, first, stride, factor) {
      const here = memory.at(out);
      if (here !== undefined) {
        run.fromStored(taken + at, type, count, here + first * 4, stride, factor);
        return;
      }
      const to = row.of(count * 4);
      run.fromStored(taken + at, type, count, to, 1, factor);
      const values = floatsAt(to, count);
      if (stride === 1) out.set(values, first);
      else for (let i = 0; i < count; i++) out[first + i * stride] = values[i]!;
    },
  };
}
