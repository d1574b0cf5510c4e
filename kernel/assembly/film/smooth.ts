// Noise removal. Edge-avoiding à-trous wavelets (Dammertz, Sewtz, Hanika, Lensch 2010) over planes of floats with a margin all round, so
// that no tap needs a test. What depends on the guides alone is computed once for each step and shared by all films.

/** Taps of half a 3 × 3 window; the other half is its mirror. */
const TAPS: i32 = 4;

// @ts-ignore: decorator
@inline
function tapX(t: i32): i32 {
  return t == 0 ? 1 : t - 2;
}
// @ts-ignore: decorator
@inline
function tapY(t: i32): i32 {
  return t == 0 ? 0 : 1;
}
// @ts-ignore: decorator
@inline
function share(t: i32): f32 {
  return t == 0 || t == 2 ? 0.125 : 0.0625;
}

/**
 * Weights between every pixel and its neighbours at distance `step`, four of eight. `guides`: ten planes one after the other (normal
 * x y z, position x y z, albedo r g b, inside); `out`: 4 planes. Planes are `stride` floats a row and `plane` bytes large.
 * `reach`: metres at which a neighbour off the pixel's plane counts half, `albedo`: difference at which it does.
 */
export function guideWeights(
  guides: usize,
  out: usize,
  stride: i32,
  plane: i32,
  first: i32,
  rows: i32,
  columns: i32,
  step: i32,
  reach: f32,
  albedo: f32,
): void {
  const kd = f32x4.splat(1 / (reach * reach)),
    ka = f32x4.splat(1 / (albedo * albedo)),
    one = f32x4.splat(1),
    zero = f32x4.splat(0);
  const P = <usize>plane;
  for (let t = 0; t < TAPS; t++) {
    const h = f32x4.splat(share(t));
    const shift = <usize>((tapY(t) * stride + tapX(t)) * step * 4);
    for (let y = 0; y < rows; y++) {
      let p = guides + <usize>((first + y * stride) << 2),
        o = out + <usize>t * P + <usize>((first + y * stride) << 2);
      for (let x = 0; x < columns; x += 4) {
        const q = p + shift;
        const nx = v128.load(p),
          ny = v128.load(p + P),
          nz = v128.load(p + P * 2),
          mx = v128.load(q),
          my = v128.load(q + P),
          mz = v128.load(q + P * 2);
        let n = f32x4.add(f32x4.add(f32x4.mul(nx, mx), f32x4.mul(ny, my)), f32x4.mul(nz, mz));
        n = f32x4.pmax(n, zero);
        n = f32x4.mul(n, n);
        n = f32x4.mul(n, n);
        n = f32x4.mul(n, n);
        n = f32x4.mul(n, n);
        n = f32x4.mul(n, n);
        const dx = f32x4.sub(v128.load(q + P * 3), v128.load(p + P * 3)),
          dy = f32x4.sub(v128.load(q + P * 4), v128.load(p + P * 4)),
          dz = f32x4.sub(v128.load(q + P * 5), v128.load(p + P * 5));
        const off = f32x4.add(
          f32x4.add(f32x4.mul(f32x4.add(nx, mx), dx), f32x4.mul(f32x4.add(ny, my), dy)),
          f32x4.mul(f32x4.add(nz, mz), dz),
        );
        const ar = f32x4.sub(v128.load(q + P * 6), v128.load(p + P * 6)),
          ag = f32x4.sub(v128.load(q + P * 7), v128.load(p + P * 7)),
          ab = f32x4.sub(v128.load(q + P * 8), v128.load(p + P * 8));
        const a = f32x4.add(f32x4.add(f32x4.mul(ar, ar), f32x4.mul(ag, ag)), f32x4.mul(ab, ab));
        const rest = f32x4.mul(
          f32x4.add(one, f32x4.mul(f32x4.mul(off, off), kd)),
          f32x4.add(one, f32x4.mul(a, ka)),
        );
        const w = f32x4.div(f32x4.mul(f32x4.mul(h, n), v128.load(q + P * 9)), rest);
        v128.store(o, f32x4.mul(w, v128.load(p + P * 9)));
        p += 16;
        o += 16;
      }
    }
  }
}

/** Tukey's biweight: 1 where nothing differs, 0 beyond the slack, without a division. */
// @ts-ignore: decorator
@inline
function closeness(difference: v128, slack2: v128): v128 {
  const rest = f32x4.pmax(f32x4.splat(0), f32x4.sub(f32x4.splat(1), f32x4.mul(f32x4.mul(difference, difference), slack2)));
  return f32x4.mul(rest, rest);
}

/**
 * One step of the filter on one layer: `src` and `dst` are five planes (r g b, luminance, variance of its mean).
 * `sigma`: how many standard deviations of luminance a neighbour may differ.
 */
export function atrous(
  src: usize,
  dst: usize,
  weights: usize,
  stride: i32,
  plane: i32,
  first: i32,
  rows: i32,
  columns: i32,
  step: i32,
  sigma: f32,
): void {
  const P = <usize>plane;
  const s = f32x4.splat(sigma),
    tiny = f32x4.splat(1e-14);
  for (let y = 0; y < rows; y++) {
    const at = <usize>((first + y * stride) << 2);
    for (let x = 0; x < columns; x += 4) {
      const p = src + at + <usize>(x << 2),
        g = weights + at + <usize>(x << 2);
      const l = v128.load(p + P * 3);
      // the variance is noisy itself: the mean of a cross of five
      const row = <usize>(stride << 2);
      const v = f32x4.mul(
        f32x4.add(
          f32x4.add(f32x4.add(v128.load(p + P * 4 - 4), v128.load(p + P * 4 + 4)), f32x4.add(v128.load(p + P * 4 - row), v128.load(p + P * 4 + row))),
          f32x4.add(v128.load(p + P * 4), v128.load(p + P * 4)),
        ),
        f32x4.splat(1.0 / 6.0),
      );
      const slack = f32x4.div(f32x4.splat(1), f32x4.add(f32x4.mul(f32x4.mul(s, s), v), tiny));
      const c = f32x4.splat(0.25);
      let sum = c,
        r = f32x4.mul(c, v128.load(p)),
        gr = f32x4.mul(c, v128.load(p + P)),
        b = f32x4.mul(c, v128.load(p + P * 2)),
        variance = f32x4.mul(f32x4.mul(c, c), v128.load(p + P * 4));
      for (let t = 0; t < TAPS; t++) {
        const shift = <usize>((tapY(t) * stride + tapX(t)) * step * 4);
        let q = p + shift;
        let w = f32x4.mul(v128.load(g + <usize>t * P), closeness(f32x4.sub(v128.load(q + P * 3), l), slack));
        sum = f32x4.add(sum, w);
        r = f32x4.add(r, f32x4.mul(w, v128.load(q)));
        gr = f32x4.add(gr, f32x4.mul(w, v128.load(q + P)));
        b = f32x4.add(b, f32x4.mul(w, v128.load(q + P * 2)));
        variance = f32x4.add(variance, f32x4.mul(f32x4.mul(w, w), v128.load(q + P * 4)));
        q = p - shift;
        w = f32x4.mul(v128.load(g + <usize>t * P - shift), closeness(f32x4.sub(v128.load(q + P * 3), l), slack));
        sum = f32x4.add(sum, w);
        r = f32x4.add(r, f32x4.mul(w, v128.load(q)));
        gr = f32x4.add(gr, f32x4.mul(w, v128.load(q + P)));
        b = f32x4.add(b, f32x4.mul(w, v128.load(q + P * 2)));
        variance = f32x4.add(variance, f32x4.mul(f32x4.mul(w, w), v128.load(q + P * 4)));
      }
      const k = f32x4.div(f32x4.splat(1), sum);
      r = f32x4.mul(r, k);
      gr = f32x4.mul(gr, k);
      b = f32x4.mul(b, k);
      const o = dst + at + <usize>(x << 2);
      v128.store(o, r);
      v128.store(o + P, gr);
      v128.store(o + P * 2, b);
      v128.store(
        o + P * 3,
        f32x4.add(f32x4.add(f32x4.mul(r, f32x4.splat(0.2126)), f32x4.mul(gr, f32x4.splat(0.7152))), f32x4.mul(b, f32x4.splat(0.0722))),
      );
      v128.store(o + P * 4, f32x4.mul(variance, f32x4.mul(k, k)));
    }
  }
}
