// Values as OpenEXR stores them: half floats, and the bytes of a block mixed as ZIP wants them before they are deflated.

/** Bits of four halves (IEEE 754-2008 binary16), in 32-bit lanes, nearest to four floats, ties to even; what is too large becomes 65504. */
// @ts-ignore: decorator
@inline
function halves4(x: v128): v128 {
  const size = v128.and(x, i32x4.splat(0x7fffffff)),
    sign = v128.and(i32x4.shr_u(x, 16), i32x4.splat(0x8000));
  const even = v128.and(i32x4.shr_u(size, 13), i32x4.splat(1));
  // the exponent's other bias, and half a step up, less a bit where the last one is even
  const large = i32x4.shr_u(i32x4.add(i32x4.add(size, i32x4.splat(<i32>0xc8000fff)), even), 13);
  // steps of 2⁻²⁴ for what has no leading one: the sum rounds them
  const magic = i32x4.splat(((127 - 15) + (23 - 10) + 1) << 23);
  const small = i32x4.sub(f32x4.add(size, magic), magic);
  let h = v128.bitselect(small, large, i32x4.lt_s(size, i32x4.splat(113 << 23)));
  h = i32x4.min_s(h, i32x4.splat(0x7bff));
  h = v128.bitselect(i32x4.splat(0x7e00), h, i32x4.gt_s(size, i32x4.splat(0x7f800000)));
  return v128.or(h, sign);
}

/** Halves of `count` floats. Both have room for whole eights. */
export function toHalves(src: usize, count: i32, dst: usize): void {
  for (let i = 0; i < count; i += 8) {
    v128.store(dst, i16x8.narrow_i32x4_u(halves4(v128.load(src)), halves4(v128.load(src, 16))));
    src += 32;
    dst += 16;
  }
}

/** Four floats from halves in 32-bit lanes. */
// @ts-ignore: decorator
@inline
function floats4(h: v128): v128 {
  const size = v128.and(h, i32x4.splat(0x7fff)),
    sign = i32x4.shl(v128.and(h, i32x4.splat(0x8000)), 16);
  const bits = i32x4.shl(size, 13);
  let f = i32x4.add(bits, i32x4.splat(112 << 23));
  f = v128.bitselect(f32x4.mul(f32x4.convert_i32x4_s(size), f32x4.splat(<f32>5.960464477539063e-8)), f, i32x4.lt_s(size, i32x4.splat(0x400)));
  f = v128.bitselect(v128.or(bits, i32x4.splat(0x7f800000)), f, i32x4.gt_s(size, i32x4.splat(0x7bff)));
  return v128.or(f, sign);
}

// @ts-ignore: decorator
@inline
function put4(v: v128, dst: usize, step: usize): void {
  if (step == 4) {
    v128.store(dst, v);
    return;
  }
  v128.store_lane<f32>(dst, v, 0);
  v128.store_lane<f32>(dst + step, v, 1);
  v128.store_lane<f32>(dst + step + step, v, 2);
  v128.store_lane<f32>(dst + step + step + step, v, 3);
}

/** One value as it is stored. type 0: 32-bit integer, 1: half, 2: float. */
// @ts-ignore: decorator
@inline
function valueAt(src: usize, type: i32): f32 {
  if (type == 1) return f32x4.extract_lane(floats4(i32x4.splat(<i32>load<u16>(src))), 0);
  return type == 2 ? load<f32>(src) : <f32>load<u32>(src);
}

/** `count` values as they are stored, times `factor`, to every `stride`-th float of `dst`. */
export function fromStored(src: usize, type: i32, count: i32, dst: usize, stride: i32, factor: f32): void {
  const step = <usize>stride << 2,
    k = f32x4.splat(factor),
    size: usize = type == 1 ? 2 : 4;
  let i = 0;
  for (; i + 4 <= count; i += 4) {
    const v = type == 1 ? floats4(v128.load16x4_u(src)) : type == 2 ? v128.load(src) : f32x4.convert_i32x4_u(v128.load(src));
    put4(f32x4.mul(v, k), dst, step);
    src += size << 2;
    dst += step << 2;
  }
  for (; i < count; i++) {
    store<f32>(dst, valueAt(src, type) * factor);
    src += size;
    dst += step;
  }
}

/**
 * The bytes of a block as ZIP wants them: first all even ones, then all odd ones, each as its difference from the one before plus 128. `size` is even; both
 * have 32 bytes of room behind them.
 */
export function mixBytes(src: usize, size: i32, dst: usize): void {
  const half = size >> 1,
    off = i8x16.splat(-128);
  let even = off,
    // the odd bytes go on from the last even one
    odd = i8x16.splat(load<i8>(src + size - 2));
  for (let i = 0; i < half; i += 16) {
    const a = v128.load(src + (i << 1)),
      b = v128.load(src + (i << 1), 16);
    const e = v128.shuffle<i8>(a, b, 0, 2, 4, 6, 8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 30),
      o = v128.shuffle<i8>(a, b, 1, 3, 5, 7, 9, 11, 13, 15, 17, 19, 21, 23, 25, 27, 29, 31);
    const de = i8x16.add(i8x16.sub(e, v128.shuffle<i8>(even, e, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30)), off),
      dd = i8x16.add(i8x16.sub(o, v128.shuffle<i8>(odd, o, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30)), off);
    if (i + 16 <= half) {
      v128.store(dst + i, de);
      v128.store(dst + half + i, dd);
    } else
      for (let j = i; j < half; j++) {
        // lanes by a number that is not known before go through memory, behind the block
        v128.store(dst + size, de);
        store<u8>(dst + j, load<u8>(dst + size + (j - i)));
        v128.store(dst + size, dd);
        store<u8>(dst + half + j, load<u8>(dst + size + (j - i)));
      }
    even = e;
    odd = o;
  }
}

/** The other way round: adds the differences up, where they are, and joins even and odd bytes in `dst`. Both have 32 bytes of room behind them. */
export function unmixBytes(src: usize, size: i32, dst: usize): void {
  const off = i8x16.splat(-128),
    zero = i8x16.splat(0),
    half = size >> 1;
  let before = off;
  for (let i = 0; i < size; i += 16) {
    let x = i8x16.add(v128.load(src + i), off);
    x = i8x16.add(x, v128.shuffle<i8>(zero, x, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30));
    x = i8x16.add(x, v128.shuffle<i8>(zero, x, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29));
    x = i8x16.add(x, v128.shuffle<i8>(zero, x, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27));
    x = i8x16.add(x, v128.shuffle<i8>(zero, x, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23));
    x = i8x16.add(x, before);
    v128.store(src + i, x);
    before = v128.shuffle<i8>(x, x, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15);
  }
  let i = 0;
  for (; i + 16 <= half; i += 16) {
    const e = v128.load(src + i),
      o = v128.load(src + half + i);
    v128.store(dst + (i << 1), v128.shuffle<i8>(e, o, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23));
    v128.store(dst + (i << 1), v128.shuffle<i8>(e, o, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31), 16);
  }
  for (; i < half; i++) {
    store<u8>(dst + (i << 1), load<u8>(src + i));
    store<u8>(dst + (i << 1), load<u8>(src + half + i), 1);
  }
}
