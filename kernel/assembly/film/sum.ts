// Sums of films, four floats at a time.

/** Gains of r g b repeated over twelve lanes, the k-th four of them. */
// @ts-ignore: decorator
@inline
function gains(k: i32, r: f32, g: f32, b: f32): v128 {
  const first = k == 0 ? r : k == 1 ? g : b,
    second = k == 0 ? g : k == 1 ? b : r,
    third = k == 0 ? b : k == 1 ? r : g;
  return f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(first), 1, second), 2, third);
}

/** out[i] += a[i] · gain of its channel + b[i] · gain of its channel; r g b interleaved, `floats` a multiple of 3. */
export function accumulate(out: usize, a: usize, b: usize, floats: i32, ar: f32, ag: f32, ab: f32, br: f32, bg: f32, bb: f32): void {
  const a0 = gains(0, ar, ag, ab),
    a1 = gains(1, ar, ag, ab),
    a2 = gains(2, ar, ag, ab),
    b0 = gains(0, br, bg, bb),
    b1 = gains(1, br, bg, bb),
    b2 = gains(2, br, bg, bb);
  const whole = floats / 12;
  for (let i = 0; i < whole; i++) {
    v128.store(out, f32x4.add(v128.load(out), f32x4.add(f32x4.mul(v128.load(a), a0), f32x4.mul(v128.load(b), b0))));
    v128.store(out, f32x4.add(v128.load(out, 16), f32x4.add(f32x4.mul(v128.load(a, 16), a1), f32x4.mul(v128.load(b, 16), b1))), 16);
    v128.store(out, f32x4.add(v128.load(out, 32), f32x4.add(f32x4.mul(v128.load(a, 32), a2), f32x4.mul(v128.load(b, 32), b2))), 32);
    out += 48;
    a += 48;
    b += 48;
  }
  for (let i = whole * 12; i < floats; i += 3) {
    store<f32>(out, load<f32>(out) + (load<f32>(a) * ar + load<f32>(b) * br));
    store<f32>(out, load<f32>(out, 4) + (load<f32>(a, 4) * ag + load<f32>(b, 4) * bg), 4);
    store<f32>(out, load<f32>(out, 8) + (load<f32>(a, 8) * ab + load<f32>(b, 8) * bb), 8);
    out += 12;
    a += 12;
    b += 12;
  }
}

/** One float of `mixBlock`. */
// @ts-ignore: decorator
@inline
function mixOne(to: usize, from: usize, keep: f32, gain: f32): void {
  store<f32>(to, load<f32>(to) * keep + load<f32>(from) * gain);
}

/**
 * to = to · keep + from · gain over `rows` rows of `columns` floats; those of `to` lie `stride` floats apart, those of `from` one
 * after the other.
 */
export function mixBlock(to: usize, stride: i32, from: usize, columns: i32, rows: i32, keep: f32, gain: f32): void {
  const keep4 = f32x4.splat(keep),
    gain4 = f32x4.splat(gain);
  const whole = columns & ~3;
  for (let j = 0; j < rows; j++) {
    for (let i = 0; i < whole; i += 4) {
      const o = <usize>i << 2;
      v128.store(to + o, f32x4.add(f32x4.mul(v128.load(to + o), keep4), f32x4.mul(v128.load(from + o), gain4)));
    }
    for (let i = whole; i < columns; i++) mixOne(to + (<usize>i << 2), from + (<usize>i << 2), keep, gain);
    to += <usize>stride << 2;
    from += <usize>columns << 2;
  }
}
