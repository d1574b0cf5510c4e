import {
  CURVE_STEPS,
  CURVE_TOP,
  DEVELOP_CUBE,
  DEVELOP_CURVE,
  DEVELOP_LUMINANCE,
  DEVELOP_NEUTRAL,
  developPlain,
  type DevelopTables,
  type FilmMath,
} from '@plinket/kernel';
import { ditherMask } from '../math/index.ts';
import { adaptWhite, encodeSrgb } from '../photometry/index.ts';
import type { Look } from '../setup/index.ts';
import type { Cube } from './cube.ts';

/** Middle grey, around which contrast turns. */
const GREY = 0.18;

/** Hable 2010, "Filmic Tonemapping for Real-time Rendering": his curve with its published constants, white at 11.2. */
export function filmic(x: number): number {
  const f = (v: number) => (v * (0.15 * v + 0.05) + 0.004) / (v * (0.15 * v + 0.5) + 0.06) - 0.02 / 0.3;
  return f(2 * x) / f(11.2);
}

/** Luminance that the extended operator maps to white, in display units. */
const EXTENDED_WHITE = 4;
/** Reinhard, Stark, Shirley, Ferwerda 2002, eq. 4: L (1 + L/Lw²) / (1 + L). */
export const extended = (l: number, white = EXTENDED_WHITE): number => (l * (1 + l / (white * white))) / (1 + l);

const sloped = (v: number, contrast: number): number => (contrast === 1 || v <= 0 ? v : GREY * (v / GREY) ** contrast);

function table(math: FilmMath, f: (linear: number) => number): Float32Array {
  const out = math.floats(CURVE_STEPS + 1);
  for (let i = 0; i <= CURVE_STEPS; i++) out[i] = f(CURVE_TOP * (i / CURVE_STEPS) ** 2);
  return out;
}

/** A table's value at a linear one. */
function lookUp(values: Float32Array, linear: number): number {
  const i = (Math.sqrt((linear > 0 ? linear : 0) / CURVE_TOP) * CURVE_STEPS + 0.5) | 0;
  return values[i < CURVE_STEPS ? i : CURVE_STEPS]!;
}

const encode = (v: number): number => encodeSrgb(Math.min(1, Math.max(0, v))) * 255;

/** Turns linear pictures into bytes; keeps its tables while the look stays. */
export class Developer {
  private readonly math: FilmMath;
  private key = '';
  private tables: DevelopTables | undefined;
  private readonly mask: Float32Array;

  constructor(math: FilmMath) {
    this.math = math;
    const mask = ditherMask();
    this.mask = math.floats(mask.length);
    this.mask.set(mask);
  }

  /**
   * Linear r g b to sRGB bytes with alpha 255: white point, contrast, view transform, dither.
   * @param linear made by the same `math`
   * @param cube for the view “lut”; without it that view is plain
   */
  develop(
    linear: Float32Array,
    width: number,
    look: Look,
    out: Uint8ClampedArray<ArrayBufferLike>,
    options: { cube?: Cube; dither?: boolean } = {},
  ): void {
    const { cube, dither = true } = options;
    this.prepare(look, cube);
    this.math.develop(linear, width, out, { ...this.tables!, ...(dither ? { mask: this.mask } : {}) });
  }

  /** The same to numbers of 8 or 16 bit that stay the caller's, without dither: `most` is white. */
  shownIn(linear: Float32Array, width: number, look: Look, most: 255 | 65535, { cube }: { cube?: Cube } = {}): Uint8Array | Uint16Array {
    this.prepare(look, cube);
    const out = most === 255 ? new Uint8ClampedArray((linear.length / 3) * 4) : new Uint16Array((linear.length / 3) * 4);
    developPlain(linear, width, out, this.tables!, most);
    return out instanceof Uint16Array ? out : new Uint8Array(out.buffer);
  }

  /** Makes the tables of a look, for `shown`. */
  prepare(look: Look, cube?: Cube): void {
    const key = JSON.stringify([look.view, look.white, look.contrast, look.view === 'lut' ? cube?.key : '']);
    if (key === this.key) return;
    this.drop();
    this.tables = this.make(look, cube);
    this.key = key;
  }

  /** What a linear grey shows as, 0…255, before rounding. */
  shown(grey: number): number {
    const { curve, kind, extra } = this.tables!;
    return lookUp(curve, kind === DEVELOP_LUMINANCE ? lookUp(extra!, grey) : grey);
  }

  private drop(): void {
    if (!this.tables) return;
    for (const t of [this.tables.matrix, this.tables.curve, this.tables.extra]) if (t) this.math.free(t);
  }

  private make(look: Look, cube: Cube | undefined): DevelopTables {
    const { math } = this;
    const matrix = math.floats(9);
    matrix.set(adaptWhite(look.white, 6500));
    const curve = (f: (v: number) => number = (v) => v) => table(math, (v) => encode(f(sloped(v, look.contrast))));
    switch (look.view) {
      case 'neutral':
        return { kind: DEVELOP_NEUTRAL, matrix, curve: curve() };
      case 'filmic':
        return { kind: DEVELOP_CURVE, matrix, curve: curve(filmic) };
      case 'extended':
        return { kind: DEVELOP_LUMINANCE, matrix, curve: curve(), extra: table(math, (v) => extended(v)) };
      case 'lut':
        if (cube) {
          const extra = math.floats(cube.values.length);
          extra.set(cube.values);
          return { kind: DEVELOP_CUBE, matrix, curve: curve(), extra, size: cube.size };
        }
        return { kind: DEVELOP_CURVE, matrix, curve: curve() };
      case 'plain':
        return { kind: DEVELOP_CURVE, matrix, curve: curve() };
    }
  }
}
