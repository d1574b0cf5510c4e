import {
  CURVE_STEPS,
  CURVE_TOP,
  DEVELOP_CUBE,
  DEVELOP_LUMINANCE,
  DEVELOP_NEUTRAL,
  TAPS,
  type DevelopTables,
  type FilmMath,
  type PlaneShape,
  type Size,
} from './film.ts';
import { catchShadow, layBehind } from './plain-behind.ts';
import { plainStored } from './plain-stored.ts';

/** The curve's value at the nearest of its steps, which are far finer than 8 bit. */
const curveAt = (curve: Float32Array, v: number): number =>
  curve[Math.min(CURVE_STEPS, Math.floor(Math.sqrt(Math.max(0, v) / CURVE_TOP) * CURVE_STEPS + 0.5))]!;

/** The curve's value between its steps: for 16 bit. */
function curveBetween(curve: Float32Array, v: number): number {
  const s = Math.min(CURVE_STEPS, Math.sqrt(Math.max(0, v) / CURVE_TOP) * CURVE_STEPS),
    i = Math.min(CURVE_STEPS - 1, Math.floor(s));
  return curve[i]! + (curve[i + 1]! - curve[i]!) * (s - i);
}

function cubeAt(cube: Float32Array, size: number, rgb: number[], c: number): number {
  const p = rgb.map((v) => Math.min(Math.max(v, 0), 1) * (size - 1)),
    i = p.map((v) => Math.min(Math.floor(v), size - 2)),
    f = p.map((v, k) => v - i[k]!);
  let sum = 0;
  for (let corner = 0; corner < 8; corner++) {
    const d = [corner & 1, (corner >> 1) & 1, corner >> 2];
    const at = ((i[2]! + d[2]!) * size + i[1]! + d[1]!) * size + i[0]! + d[0]!;
    sum += cube[at * 3 + c]! * d.reduce((w, on, k) => w * (on ? f[k]! : 1 - f[k]!), 1);
  }
  return sum;
}

/** Khronos PBR Neutral (published specification, 2024), in place. */
function neutral(rgb: number[]): void {
  const x = Math.min(rgb[0]!, rgb[1]!, rgb[2]!);
  const offset = x < 0.08 ? x - 6.25 * x * x : 0.04;
  for (let k = 0; k < 3; k++) rgb[k] = rgb[k]! - offset;
  const peak = Math.max(rgb[0]!, rgb[1]!, rgb[2]!);
  if (peak < 0.76) return;
  const newPeak = 1 - 0.0576 / (peak + 0.24 - 0.76);
  const w = 1 - 1 / (0.15 * (peak - newPeak) + 1);
  for (let k = 0; k < 3; k++) {
    const v = (rgb[k]! * newPeak) / peak;
    rgb[k] = v + (newPeak - v) * w;
  }
}

const tapX = (t: number): number => (t === 0 ? 1 : t - 2);
const tapY = (t: number): number => (t === 0 ? 0 : 1);
const share = (t: number): number => (t === 0 || t === 2 ? 0.125 : 0.0625);

function weigh(guides: Float32Array, out: Float32Array, s: PlaneShape, step: number, reach: number, albedo: number): void {
  const P = s.plane;
  for (let t = 0; t < TAPS; t++) {
    const h = share(t),
      shift = (tapY(t) * s.stride + tapX(t)) * step;
    for (let y = 0; y < s.rows; y++)
      for (let x = 0; x < s.columns; x++) {
        const p = s.first + y * s.stride + x,
          q = p + shift;
        const g = (k: number, i: number) => guides[k * P + i]!;
        const n = Math.max(0, g(0, p) * g(0, q) + g(1, p) * g(1, q) + g(2, p) * g(2, q)) ** 32;
        let off = 0,
          a = 0;
        for (let k = 0; k < 3; k++) {
          off += (g(k, p) + g(k, q)) * (g(3 + k, q) - g(3 + k, p));
          a += (g(6 + k, q) - g(6 + k, p)) ** 2;
        }
        out[t * P + p] = (h * n * g(9, q) * g(9, p)) / ((1 + (off / reach) ** 2) * (1 + a / albedo ** 2));
      }
  }
}

function filter(src: Float32Array, out: Float32Array, weights: Float32Array, s: PlaneShape, step: number, sigma: number): void {
  const P = s.plane;
  for (let y = 0; y < s.rows; y++)
    for (let x = 0; x < s.columns; x++) {
      const p = s.first + y * s.stride + x;
      const variance = (i: number) => src[4 * P + i]!;
      const v = (variance(p - 1) + variance(p + 1) + variance(p - s.stride) + variance(p + s.stride) + 2 * variance(p)) / 6;
      const slack = 1 / (sigma * sigma * v + 1e-14);
      let sum = 0.25;
      const acc = [src[p]! * sum, src[P + p]! * sum, src[2 * P + p]! * sum];
      let spread = variance(p) * sum * sum;
      for (let t = 0; t < TAPS * 2; t++) {
        const shift = (tapY(t >> 1) * s.stride + tapX(t >> 1)) * step;
        const q = t & 1 ? p - shift : p + shift;
        // Tukey's biweight: 0 beyond the slack
        const rest = Math.max(0, 1 - (src[3 * P + q]! - src[3 * P + p]!) ** 2 * slack);
        const w = weights[(t >> 1) * P + (t & 1 ? q : p)]! * rest * rest;
        sum += w;
        for (let c = 0; c < 3; c++) acc[c] = acc[c]! + w * src[c * P + q]!;
        spread += w * w * variance(q);
      }
      for (let c = 0; c < 3; c++) out[c * P + p] = acc[c]! / sum;
      out[3 * P + p] = (0.2126 * acc[0]! + 0.7152 * acc[1]! + 0.0722 * acc[2]!) / sum;
      out[4 * P + p] = spread / sum / sum;
    }
}

/** Where pixel `i` of `large` looks among `small`: the first, the second, and how far between. */
function between(i: number, large: number, small: number): [number, number, number] {
  const at = Math.min(small - 1, Math.max(0, ((i + 0.5) * small) / large - 0.5)),
    first = Math.floor(at);
  return [first, Math.min(small - 1, first + 1), at - first];
}

function enlarge(out: Float32Array, size: Size, light: Float32Array, gloss: Float32Array, small: Size, ratios?: Float32Array): void {
  const floats = small.width * 3;
  const columns = Array.from({ length: size.width }, (_, x) => between(x, size.width, small.width));
  const left = Int32Array.from(columns, (c) => c[0] * 3),
    right = Int32Array.from(columns, (c) => c[1] * 3),
    shares = Float32Array.from(columns, (c) => c[2]);
  const lightRow = new Float32Array(floats),
    glossRow = new Float32Array(floats);
  for (let y = 0, o = 0; y < size.height; y++) {
    const [first, second, v] = between(y, size.height, small.height);
    const above = first * floats,
      below = second * floats;
    for (let i = 0; i < floats; i++) {
      lightRow[i] = light[above + i]! + (light[below + i]! - light[above + i]!) * v;
      glossRow[i] = gloss[above + i]! + (gloss[below + i]! - gloss[above + i]!) * v;
    }
    for (let x = 0; x < size.width; x++) {
      const a = left[x]!,
        b = right[x]!,
        u = shares[x]!;
      for (let c = 0; c < 3; c++, o++) {
        const l = lightRow[a + c]! + (lightRow[b + c]! - lightRow[a + c]!) * u;
        out[o] = out[o]! + (ratios ? l * ratios[o]! : l) + glossRow[a + c]! + (glossRow[b + c]! - glossRow[a + c]!) * u;
      }
    }
  }
}

/**
 * What `FilmMath.develop` does, also to 16 bit.
 * @param most what white is in the output: 255 or 65535
 */
export function developPlain(src: Float32Array, width: number, out: Uint8ClampedArray | Uint16Array, t: DevelopTables, most: number): void {
  const at = most > 255 ? curveBetween : curveAt;
  const m = t.matrix,
    rgb = [0, 0, 0];
  for (let i = 0, p = 0; i < src.length; i += 3, p++) {
    for (let k = 0; k < 3; k++) rgb[k] = m[k * 3]! * src[i]! + m[k * 3 + 1]! * src[i + 1]! + m[k * 3 + 2]! * src[i + 2]!;
    if (t.kind === DEVELOP_NEUTRAL) neutral(rgb);
    else if (t.kind === DEVELOP_LUMINANCE) {
      const l = 0.2126 * rgb[0]! + 0.7152 * rgb[1]! + 0.0722 * rgb[2]!;
      if (l > 0) for (let k = 0, f = curveAt(t.extra!, l) / l; k < 3; k++) rgb[k] = rgb[k]! * f;
    }
    for (let k = 0; k < 3; k++) rgb[k] = at(t.curve, rgb[k]!);
    const shown =
      t.kind === DEVELOP_CUBE
        ? [0, 1, 2].map((c) =>
            Math.fround(
              cubeAt(
                t.extra!,
                t.size!,
                rgb.map((v) => v / 255),
                c,
              ) * 255,
            ),
          )
        : rgb;
    const h = 0.5 + (t.mask ? t.mask[((Math.floor(p / width) & 63) << 6) | ((p % width) & 63)]! : 0);
    for (let k = 0; k < 3; k++) out[p * 4 + k] = Math.floor(Math.min(most, Math.max(0, shown[k]! * (most / 255) + h)));
    out[p * 4 + 3] = most;
  }
}

/** The plain twin: oracle of the tests, and what serves where threads may share no memory. */
export function plainFilmMath(): FilmMath {
  let used = 0;
  return {
    kind: 'plain',
    get used() {
      return used;
    },
    get held() {
      return used;
    },
    floats(length) {
      used += length * 4;
      return new Float32Array(length);
    },
    bytes(length) {
      used += length;
      return new Uint8ClampedArray(length);
    },
    free(array) {
      used -= array.byteLength;
    },
    accumulate(out, a, b, from, count, p, q) {
      for (let i = from; i < from + count; i++) {
        const c = i % 3;
        out[i] = out[i]! + (a[i]! * p[c]! + b[i]! * q[c]!);
      }
    },
    mixBlock(to, start, stride, from, first, columns, rows, keep, gain) {
      for (let j = 0; j < rows; j++)
        for (let i = 0, o = start + j * stride, d = first + j * columns; i < columns; i++)
          to[o + i] = to[o + i]! * keep + from[d + i]! * gain;
    },
    enlarge,
    develop: (src, width, out, t) => developPlain(src, width, out, t, 255),
    layBehind,
    catchShadow,
    guideWeights: weigh,
    atrous: filter,
    stored: plainStored(),
  };
}
