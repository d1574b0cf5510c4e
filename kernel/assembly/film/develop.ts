// View transforms: linear r g b to bytes, four pixels at a time where the view allows it.

const STEPS: i32 = 16384;
/** Largest linear value that the curve tells apart; its table runs over the square root. */
const TOP: f32 = 64;

/** The curve's value at the nearest of its steps, which are far finer than 8 bit. */
// @ts-ignore: decorator
@inline
function curveAt(curve: usize, v: f32): f32 {
  const x = sqrt(max(v, 0) * (<f32>1 / TOP)) * <f32>STEPS + <f32>0.5;
  return load<f32>(curve + (<usize>min(<i32>min(x, <f32>STEPS), STEPS) << 2));
}

// @ts-ignore: decorator
@inline
function lutAt(lut: usize, size: i32, r: f32, g: f32, b: f32, c: usize): f32 {
  const n = <f32>(size - 1);
  const x = min(max(r, 0), 1) * n,
    y = min(max(g, 0), 1) * n,
    z = min(max(b, 0), 1) * n;
  const i = min(<i32>x, size - 2),
    j = min(<i32>y, size - 2),
    k = min(<i32>z, size - 2);
  const u = x - <f32>i,
    v = y - <f32>j,
    w = z - <f32>k;
  const sy = <usize>(size * 12),
    sz = <usize>(size * size * 12);
  const p = lut + <usize>((k * size + j) * size + i) * 12 + c;
  const a = load<f32>(p) + (load<f32>(p, 12) - load<f32>(p)) * u,
    q = load<f32>(p + sy) + (load<f32>(p + sy, 12) - load<f32>(p + sy)) * u,
    d = load<f32>(p + sz) + (load<f32>(p + sz, 12) - load<f32>(p + sz)) * u,
    e = load<f32>(p + sz + sy) + (load<f32>(p + sz + sy, 12) - load<f32>(p + sz + sy)) * u;
  const f = a + (q - a) * v,
    h = d + (e - d) * v;
  return f + (h - f) * w;
}

/** Index of the curve's step for four values at once. */
// @ts-ignore: decorator
@inline
function steps4(v: v128): v128 {
  const x = f32x4.add(
    f32x4.mul(f32x4.sqrt(f32x4.mul(f32x4.pmax(f32x4.splat(0), v), f32x4.splat(<f32>1 / TOP))), f32x4.splat(<f32>STEPS)),
    f32x4.splat(0.5),
  );
  return i32x4.trunc_sat_f32x4_s(f32x4.pmin(f32x4.splat(<f32>STEPS), x));
}

// @ts-ignore: decorator
@inline
function looked4(table: usize, at: v128): v128 {
  let r = f32x4.splat(load<f32>(table + (<usize>i32x4.extract_lane(at, 0) << 2)));
  r = f32x4.replace_lane(r, 1, load<f32>(table + (<usize>i32x4.extract_lane(at, 1) << 2)));
  r = f32x4.replace_lane(r, 2, load<f32>(table + (<usize>i32x4.extract_lane(at, 2) << 2)));
  return f32x4.replace_lane(r, 3, load<f32>(table + (<usize>i32x4.extract_lane(at, 3) << 2)));
}

/** The whole fours of one row's pixels, all views but the cube's; answers how many pixels are done. `mask`: that row's (0: none). */
function developFours(
  src: usize,
  pixels: i32,
  dst: usize,
  kind: i32,
  matrix: usize,
  curve: usize,
  extra: usize,
  mask: usize,
): i32 {
  const half = f32x4.splat(0.5);
  let x = 0;
  for (; x + 4 <= pixels; x += 4) {
    // r0 g0 b0 r1 | g1 b1 r2 g2 | b2 r3 g3 b3
    const p = v128.load(src),
      q = v128.load(src, 16),
      s = v128.load(src, 32);
    const pq = v128.shuffle<f32>(p, q, 0, 3, 6, 6),
      a = v128.shuffle<f32>(pq, s, 0, 1, 2, 5);
    const gq = v128.shuffle<f32>(p, q, 1, 4, 7, 7),
      c = v128.shuffle<f32>(gq, s, 0, 1, 2, 6);
    const bq = v128.shuffle<f32>(p, q, 2, 5, 5, 5),
      d = v128.shuffle<f32>(bq, s, 0, 1, 4, 7);
    let r = f32x4.add(
      f32x4.add(f32x4.mul(v128.load32_splat(matrix), a), f32x4.mul(v128.load32_splat(matrix, 4), c)),
      f32x4.mul(v128.load32_splat(matrix, 8), d),
    );
    let g = f32x4.add(
      f32x4.add(f32x4.mul(v128.load32_splat(matrix, 12), a), f32x4.mul(v128.load32_splat(matrix, 16), c)),
      f32x4.mul(v128.load32_splat(matrix, 20), d),
    );
    let b = f32x4.add(
      f32x4.add(f32x4.mul(v128.load32_splat(matrix, 24), a), f32x4.mul(v128.load32_splat(matrix, 28), c)),
      f32x4.mul(v128.load32_splat(matrix, 32), d),
    );
    if (kind == 1) {
      const least = f32x4.pmin(r, f32x4.pmin(g, b));
      const offset = v128.bitselect(
        f32x4.sub(least, f32x4.mul(f32x4.splat(6.25), f32x4.mul(least, least))),
        f32x4.splat(0.04),
        f32x4.lt(least, f32x4.splat(0.08)),
      );
      r = f32x4.sub(r, offset);
      g = f32x4.sub(g, offset);
      b = f32x4.sub(b, offset);
      const peak = f32x4.pmax(r, f32x4.pmax(g, b));
      const rolls = f32x4.ge(peak, f32x4.splat(0.76));
      if (v128.any_true(rolls)) {
        const one = f32x4.splat(1);
        const newPeak = f32x4.sub(one, f32x4.div(f32x4.splat(0.0576), f32x4.add(peak, f32x4.splat(0.24 - 0.76))));
        const k = f32x4.div(newPeak, peak);
        const w = f32x4.sub(one, f32x4.div(one, f32x4.add(f32x4.mul(f32x4.splat(0.15), f32x4.sub(peak, newPeak)), one)));
        const rk = f32x4.mul(r, k),
          gk = f32x4.mul(g, k),
          bk = f32x4.mul(b, k);
        r = v128.bitselect(f32x4.add(rk, f32x4.mul(f32x4.sub(newPeak, rk), w)), r, rolls);
        g = v128.bitselect(f32x4.add(gk, f32x4.mul(f32x4.sub(newPeak, gk), w)), g, rolls);
        b = v128.bitselect(f32x4.add(bk, f32x4.mul(f32x4.sub(newPeak, bk), w)), b, rolls);
      }
    } else if (kind == 2) {
      const l = f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(0.2126), r), f32x4.mul(f32x4.splat(0.7152), g)), f32x4.mul(f32x4.splat(0.0722), b));
      const k = v128.and(f32x4.div(looked4(extra, steps4(l)), l), f32x4.gt(l, f32x4.splat(1e-9)));
      r = f32x4.mul(r, k);
      g = f32x4.mul(g, k);
      b = f32x4.mul(b, k);
    }
    let h = half;
    if (mask) h = f32x4.add(h, v128.load(mask + (<usize>(x & 63) << 2)));
    const top = f32x4.splat(255),
      zero = f32x4.splat(0);
    const R = i32x4.trunc_sat_f32x4_s(f32x4.pmin(top, f32x4.pmax(zero, f32x4.add(looked4(curve, steps4(r)), h)))),
      G = i32x4.trunc_sat_f32x4_s(f32x4.pmin(top, f32x4.pmax(zero, f32x4.add(looked4(curve, steps4(g)), h)))),
      B = i32x4.trunc_sat_f32x4_s(f32x4.pmin(top, f32x4.pmax(zero, f32x4.add(looked4(curve, steps4(b)), h))));
    v128.store(dst, v128.or(v128.or(R, i32x4.shl(G, 8)), v128.or(i32x4.shl(B, 16), i32x4.splat(<i32>0xff000000))));
    src += 48;
    dst += 16;
  }
  return x;
}

/**
 * Linear r g b to RGBA bytes. `matrix`: nine floats, rows. `curve`: STEPS + 1 floats from square root to 0…255.
 * kind 0: the curve on each channel; 1: Khronos PBR Neutral first; 2: luminance by the table `extra` (a curve too, to
 * 0…1) first; 3: `extra` is a cube of size³ × 3 floats over the curve's output / 255. `mask`: 64 × 64 floats −½…½ added
 * before rounding (0: none).
 */
export function develop(
  src: usize,
  pixels: i32,
  width: i32,
  dst: usize,
  kind: i32,
  matrix: usize,
  curve: usize,
  extra: usize,
  size: i32,
  mask: usize,
): void {
  const m0 = load<f32>(matrix),
    m1 = load<f32>(matrix, 4),
    m2 = load<f32>(matrix, 8),
    m3 = load<f32>(matrix, 12),
    m4 = load<f32>(matrix, 16),
    m5 = load<f32>(matrix, 20),
    m6 = load<f32>(matrix, 24),
    m7 = load<f32>(matrix, 28),
    m8 = load<f32>(matrix, 32);
  for (let y = 0, left = pixels; left > 0; y++, left -= width) {
    const n = min(width, left),
      row = mask ? mask + (<usize>((y & 63) << 6) << 2) : 0;
    let x = kind == 3 ? 0 : developFours(src, n, dst, kind, matrix, curve, extra, row);
    src += <usize>x * 12;
    dst += <usize>x * 4;
    for (; x < n; x++) {
    const a = load<f32>(src),
      c = load<f32>(src, 4),
      d = load<f32>(src, 8);
    let r = m0 * a + m1 * c + m2 * d,
      g = m3 * a + m4 * c + m5 * d,
      b = m6 * a + m7 * c + m8 * d;
    if (kind == 1) {
      const least = min(r, min(g, b));
      const offset: f32 = least < 0.08 ? least - <f32>6.25 * least * least : 0.04;
      r -= offset;
      g -= offset;
      b -= offset;
      const peak = max(r, max(g, b));
      if (peak >= 0.76) {
        const newPeak = <f32>1 - <f32>0.0576 / (peak + <f32>0.24 - <f32>0.76);
        const k = newPeak / peak;
        const w = <f32>1 - <f32>1 / (<f32>0.15 * (peak - newPeak) + <f32>1);
        r = r * k + (newPeak - r * k) * w;
        g = g * k + (newPeak - g * k) * w;
        b = b * k + (newPeak - b * k) * w;
      }
    } else if (kind == 2) {
      const l = <f32>0.2126 * r + <f32>0.7152 * g + <f32>0.0722 * b;
      if (l > 0) {
        const k = curveAt(extra, l) / l;
        r *= k;
        g *= k;
        b *= k;
      }
    }
    r = curveAt(curve, r);
    g = curveAt(curve, g);
    b = curveAt(curve, b);
    if (kind == 3) {
      const k: f32 = 1.0 / 255.0;
      const p = r * k,
        q = g * k,
        s = b * k;
      r = lutAt(extra, size, p, q, s, 0) * 255;
      g = lutAt(extra, size, p, q, s, 4) * 255;
      b = lutAt(extra, size, p, q, s, 8) * 255;
    }
    let h: f32 = 0.5;
    if (row) h += load<f32>(row + (<usize>(x & 63) << 2));
    store<u8>(dst, <u8>min(max(r + h, 0), 255));
    store<u8>(dst, <u8>min(max(g + h, 0), 255), 1);
    store<u8>(dst, <u8>min(max(b + h, 0), 255), 2);
    store<u8>(dst, 255, 3);
    src += 12;
    dst += 4;
    }
  }
}
