import { Arena, type Block } from './arena.ts';
import { simdStored, type StoredExports, type StoredMath } from './stored.ts';

/** How `develop` maps linear values before the curve. */
export const DEVELOP_CURVE = 0;
export const DEVELOP_NEUTRAL = 1;
export const DEVELOP_LUMINANCE = 2;
export const DEVELOP_CUBE = 3;
export type DevelopKind = 0 | 1 | 2 | 3;

/** A curve's table: CURVE_STEPS + 1 values over the square root of 0 … CURVE_TOP. */
export const CURVE_STEPS = 16384;
export const CURVE_TOP = 64;

/** Gains of red, green, blue. */
export type Rgb = readonly [number, number, number];

/** What `develop` needs beside the picture. All arrays come from the same `FilmMath`. */
export interface DevelopTables {
  kind: DevelopKind;
  /** Nine floats, rows: applied to linear r g b first. */
  matrix: Float32Array;
  /** From linear to 0…255. */
  curve: Float32Array;
  /** kind 2: a curve of luminance to luminance; kind 3: size³ × 3 values; else unused. */
  extra?: Float32Array;
  size?: number;
  /** 64 × 64 values −½…½ added before rounding. */
  mask?: Float32Array;
}

/** Planes with a margin, for noise removal: `stride` floats a row, `first` the index of the first inner pixel. */
export interface PlaneShape {
  stride: number;
  /** Floats of one plane. */
  plane: number;
  first: number;
  rows: number;
  columns: number;
}

/** What catchers are made of, by pixel. */
export interface CatcherPlanes {
  /** Made: the shadow, 0…1, and how much is covered, figure and shadow. */
  shadow: Float32Array;
  covered: Float32Array;
  /** How much of the pixel the catcher is, and how much else covers it. */
  share: Float32Array;
  figure: Float32Array;
  /** r g b: what arrives with what casts shadows, and without. */
  arrives: Float32Array;
  open: Float32Array;
  /** r g b: how open the catcher lies, times its share. */
  openness?: Float32Array | undefined;
}

export interface Size {
  width: number;
  height: number;
}

/** Half of a 3 × 3 window. */
export const TAPS = 4;

/**
 * Arithmetic over films. Arrays that it works on are made by `floats` and `bytes` and given back by `free`; the SIMD twin
 * keeps them in one memory, where no garbage collector looks.
 */
export interface FilmMath {
  readonly kind: 'simd' | 'plain';
  /** Zeroed floats. */
  floats(length: number): Float32Array;
  bytes(length: number): Uint8ClampedArray<ArrayBufferLike>;
  free(array: Float32Array | Uint8ClampedArray<ArrayBufferLike>): void;
  /** Bytes in use, and bytes that the memory has grown to. */
  readonly used: number;
  readonly held: number;
  /** out[i] += a[i] · gain of its channel + b[i] · its gain, for `count` floats from `from` on; both multiples of 3. */
  accumulate(out: Float32Array, a: Float32Array, b: Float32Array, from: number, count: number, gainA: Rgb, gainB: Rgb): void;
  /**
   * to = to · keep + from · gain over `rows` rows of `columns` floats: those of `to` from `at` on and `stride` apart, those of `from`,
   * any array, from `first` on and one after the other.
   */
  mixBlock(
    to: Float32Array,
    at: number,
    stride: number,
    from: Float32Array,
    first: number,
    columns: number,
    rows: number,
    keep: number,
    gain: number,
  ): void;
  /**
   * out += light · ratios + gloss, both small pictures (r g b) enlarged bilinearly to the size of `out`; without `ratios` (one for each
   * float of `out`) they are 1.
   */
  enlarge(out: Float32Array, size: Size, light: Float32Array, gloss: Float32Array, small: Size, ratios?: Float32Array): void;
  /** Linear r g b to RGBA bytes. */
  develop(src: Float32Array, width: number, out: Uint8ClampedArray<ArrayBufferLike>, tables: DevelopTables): void;
  /** Weights between pixels and four of their eight neighbours at `step`; `guides` ten planes, `out` four. See assembly/film. */
  guideWeights(guides: Float32Array, out: Float32Array, shape: PlaneShape, step: number, reach: number, albedo: number): void;
  /** Lays `plate` behind `linear`, both r g b, where what is `covered` (0…1 by pixel) leaves room. */
  layBehind(linear: Float32Array, covered: Float32Array, plate: Float32Array): void;
  /** What catchers darken; leaves pixels alone in which none is seen. */
  catchShadow(planes: CatcherPlanes, density: number, contact: number): void;
  /** One à-trous step from five planes to five. */
  atrous(src: Float32Array, out: Float32Array, weights: Float32Array, shape: PlaneShape, step: number, sigma: number): void;
  /** Films to and from the blocks of a file. */
  readonly stored: StoredMath;
}

interface Exports extends StoredExports {
  accumulate(
    out: number,
    a: number,
    b: number,
    floats: number,
    ar: number,
    ag: number,
    ab: number,
    br: number,
    bg: number,
    bb: number,
  ): void;
  mixBlock(to: number, stride: number, from: number, columns: number, rows: number, keep: number, gain: number): void;
  enlarge(
    out: number,
    width: number,
    height: number,
    light: number,
    gloss: number,
    smallWidth: number,
    smallHeight: number,
    ratios: number,
    rows: number,
  ): void;
  develop(
    src: number,
    pixels: number,
    width: number,
    out: number,
    kind: number,
    matrix: number,
    curve: number,
    extra: number,
    size: number,
    mask: number,
  ): void;
  guideWeights(
    guides: number,
    out: number,
    stride: number,
    plane: number,
    first: number,
    rows: number,
    columns: number,
    step: number,
    reach: number,
    albedo: number,
  ): void;
  layBehind(linear: number, covered: number, plate: number, pixels: number): void;
  catchShadow(
    shadow: number,
    covered: number,
    share: number,
    figure: number,
    arrives: number,
    open: number,
    openness: number,
    pixels: number,
    density: number,
    contact: number,
  ): void;
  atrous(
    src: number,
    out: number,
    weights: number,
    stride: number,
    plane: number,
    first: number,
    rows: number,
    columns: number,
    step: number,
    sigma: number,
  ): void;
}

const PAGE = 65536;
/** Floats that are brought in at once. */
const STAGED = 1 << 14;
const MOST_PAGES = 32768;

/**
 * The SIMD twin, over one memory that grows and never moves.
 * @param module the compiled assembly/film
 */
export function simdFilmMath(module: WebAssembly.Module): FilmMath {
  // shared memory, since its views stay valid when it grows
  const memory = new WebAssembly.Memory({ initial: 16, maximum: MOST_PAGES, shared: true });
  const run = new WebAssembly.Instance(module, { env: { memory, abort: () => undefined } }).exports as unknown as Exports;
  const addresses = new WeakMap<object, Block>();
  const arena = new Arena(64, 64);
  let pages = 16,
    used = 0,
    // what lies beyond has never been written
    clean = 64;
  const take = (bytes: number): Block => {
    const block = arena.take(bytes);
    const needed = Math.ceil((arena.top + 64) / PAGE);
    if (needed > pages) {
      try {
        memory.grow(needed - pages);
      } catch {
        arena.give(block);
        throw new RangeError(
          `The films need more than the ${(MOST_PAGES * PAGE) / 2 ** 30} GB that they may have: a smaller window or fewer lights help.`,
        );
      }
      pages = needed;
    }
    used += block.size;
    if (block.at < clean) new Uint8Array(memory.buffer, block.at, Math.min(block.size, clean - block.at)).fill(0);
    clean = Math.max(clean, block.at + block.size);
    return block;
  };
  const at = (array: object | undefined): number => {
    if (!array) return 0;
    const known = addresses.get(array);
    if (!known) throw new Error('The array does not belong to this memory.');
    return known.at;
  };
  // what is mixed in comes from elsewhere and is brought here first, so many floats at most
  let staging: Float32Array | undefined;
  const floats = (length: number): Float32Array => {
    const block = take(length * 4);
    const array = new Float32Array(memory.buffer, block.at, length);
    addresses.set(array, block);
    return array;
  };
  const give = (block: Block): void => {
    used -= block.size;
    arena.give(block);
  };
  const free = (array: Float32Array | Uint8ClampedArray<ArrayBufferLike>): void => {
    const block = addresses.get(array);
    if (!block) return;
    addresses.delete(array);
    give(block);
  };
  const stored = simdStored(run, { views: memory, take, give, at: (array) => addresses.get(array)?.at });
  return {
    kind: 'simd',
    get used() {
      return used;
    },
    get held() {
      return memory.buffer.byteLength;
    },
    floats,
    bytes(length) {
      const block = take(length);
      const array = new Uint8ClampedArray(memory.buffer, block.at, length);
      addresses.set(array, block);
      return array;
    },
    free,
    accumulate: (out, a, b, from, count, p, q) =>
      run.accumulate(at(out) + from * 4, at(a) + from * 4, at(b) + from * 4, count, p[0], p[1], p[2], q[0], q[1], q[2]),
    mixBlock(to, start, stride, from, first, columns, rows, keep, gain) {
      if (!staging) {
        const block = take(STAGED * 4);
        used -= block.size;
        staging = new Float32Array(memory.buffer, block.at, STAGED);
      }
      // several rows at a time, or a long one in parts
      const together = Math.max(1, Math.floor(STAGED / columns)),
        wide = Math.min(columns, STAGED);
      for (let row = 0; row < rows; row += together)
        for (let c = 0; c < columns; c += wide) {
          const some = Math.min(together, rows - row),
            width = Math.min(wide, columns - c),
            begin = first + row * columns + c;
          staging.set(from.subarray(begin, begin + some * width));
          run.mixBlock(at(to) + (start + row * stride + c) * 4, stride, staging.byteOffset, width, some, keep, gain);
        }
    },
    enlarge(out, { width, height }, light, gloss, small, ratios) {
      const rows = floats(width * 12);
      run.enlarge(at(out), width, height, at(light), at(gloss), small.width, small.height, at(ratios), at(rows));
      free(rows);
    },
    develop: (src, width, out, t) =>
      run.develop(at(src), src.length / 3, width, at(out), t.kind, at(t.matrix), at(t.curve), at(t.extra), t.size ?? 0, at(t.mask)),
    guideWeights: (guides, out, s, step, reach, albedo) =>
      run.guideWeights(at(guides), at(out), s.stride, s.plane * 4, s.first, s.rows, s.columns, step, reach, albedo),
    layBehind: (linear, covered, plate) => run.layBehind(at(linear), at(covered), at(plate), covered.length),
    catchShadow: (c, density, contact) =>
      run.catchShadow(
        at(c.shadow),
        at(c.covered),
        at(c.share),
        at(c.figure),
        at(c.arrives),
        at(c.open),
        at(c.openness),
        c.share.length,
        density,
        contact,
      ),
    atrous: (src, out, weights, s, step, sigma) =>
      run.atrous(at(src), at(out), at(weights), s.stride, s.plane * 4, s.first, s.rows, s.columns, step, sigma),
    stored,
  };
}
