// Where the fields of a batch of paths lie, and the arithmetic that the steps of shading share. Fields lie one after the other,
// `stride` bytes each; see ../../src/batch.ts.

// @ts-ignore: decorator
@inline
export const PIXEL = 0, CELL = 1, LABEL = 2, DEPTH = 3, TR = 4, TG = 5, TB = 6, DENSITY = 7, TRAVELLED = 8;
// @ts-ignore: decorator
@inline
export const PX = 9, PY = 10, PZ = 11, GX = 12, GY = 13, GZ = 14, NX = 15, NY = 16, NZ = 17, VX = 18, VY = 19, VZ = 20;
// @ts-ignore: decorator
@inline
export const OX = 21, OY = 22, OZ = 23, GAP = 24, TRIANGLE = 25, MATERIAL = 26, DR = 27, DG = 28, DB = 29, FR = 30, FG = 31, FB = 32;
// @ts-ignore: decorator
@inline
export const F90 = 33, LOST = 34, ALPHA = 35, ROW = 36, CHANCE = 37, PASS = 38, EXTRA = 39;
// @ts-ignore: decorator
@inline
export const LX = 40, LY = 41, LZ = 42, LD = 43, LW = 44, LR = 45, LG = 46, LB = 47, WAITING_PIXEL = 48;
// @ts-ignore: decorator
@inline
export const COVER = 49, COVER90 = 50;

/** Label of a path that has not been scattered. */
// @ts-ignore: decorator
@inline
export const WHOLE: i32 = 2;
// @ts-ignore: decorator
@inline
export const PI: f32 = 3.14159265;
// @ts-ignore: decorator
@inline
export const COLUMNS: i32 = 32;
/** Bytes of one vertex: position, normal and colour side by side, so that one is one cache line or two. */
// @ts-ignore: decorator
@inline
export const VERTEX: usize = 48;
/** A rectangle whose half diagonal is less than a third of its distance is sampled by its area: its solid angle is even there. */
// @ts-ignore: decorator
@inline
export const FAR2: f32 = 9;
/** And below this solid angle, where single precision can do no better. */
// @ts-ignore: decorator
@inline
export const SMALL: f32 = 0.05;

// @ts-ignore: decorator
@inline
export function at(batch: usize, stride: usize, field: i32): usize {
  return batch + stride * <usize>field;
}

// @ts-ignore: decorator
@inline
export function abs4(x: v128): v128 {
  return f32x4.abs(x);
}
// @ts-ignore: decorator
@inline
export function splat(x: f32): v128 {
  return f32x4.splat(x);
}
// @ts-ignore: decorator
@inline
export function mul(a: v128, b: v128): v128 {
  return f32x4.mul(a, b);
}
// @ts-ignore: decorator
@inline
export function add(a: v128, b: v128): v128 {
  return f32x4.add(a, b);
}
// @ts-ignore: decorator
@inline
export function sub(a: v128, b: v128): v128 {
  return f32x4.sub(a, b);
}
// @ts-ignore: decorator
@inline
export function div(a: v128, b: v128): v128 {
  return f32x4.div(a, b);
}
// @ts-ignore: decorator
@inline
export function dot3(ax: v128, ay: v128, az: v128, bx: v128, by: v128, bz: v128): v128 {
  return add(add(mul(ax, bx), mul(ay, by)), mul(az, bz));
}

// Four rows of four to four columns: low and high of two rows each, then the first or last two lanes of those.
// @ts-ignore: decorator
@inline
export function low(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 0, 4, 1, 5);
}
// @ts-ignore: decorator
@inline
export function high(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 2, 6, 3, 7);
}
// @ts-ignore: decorator
@inline
export function first2(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 0, 1, 4, 5);
}
// @ts-ignore: decorator
@inline
export function last2(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 2, 3, 6, 7);
}

/** Arc cosine, Abramowitz and Stegun 4.4.46. */
// @ts-ignore: decorator
@inline
export function acos4(x: v128): v128 {
  const a = f32x4.pmin(abs4(x), splat(1));
  let p = splat(-0.0012624911);
  p = add(mul(p, a), splat(0.0066700901));
  p = add(mul(p, a), splat(-0.0170881256));
  p = add(mul(p, a), splat(0.030891881));
  p = add(mul(p, a), splat(-0.0501743046));
  p = add(mul(p, a), splat(0.0889789874));
  p = add(mul(p, a), splat(-0.2145988016));
  p = add(mul(p, a), splat(1.570796305));
  const r = mul(f32x4.sqrt(sub(splat(1), a)), p);
  return v128.bitselect(sub(splat(PI), r), r, f32x4.lt(x, splat(0)));
}

/** cos(2πu) by the sine's series on a quarter turn. */
// @ts-ignore: decorator
@inline
export function cosTurn4(u: v128): v128 {
  const x = sub(splat(0.25), abs4(sub(u, f32x4.floor(add(u, splat(0.5))))));
  const y = mul(splat(6.2831855), x),
    s = mul(y, y);
  let p = splat(-2.5052108e-8);
  p = add(mul(p, s), splat(2.7557319e-6));
  p = add(mul(p, s), splat(-1.9841270e-4));
  p = add(mul(p, s), splat(8.3333333e-3));
  p = add(mul(p, s), splat(-0.16666667));
  p = add(mul(p, s), splat(1));
  return mul(y, p);
}

/** A point of the mask's digital shift, 0…1. */
// @ts-ignore: decorator
@inline
export function shifted(mask: usize, word: u32, cell: i32, dx: i32, dy: i32): f32 {
  const i = ((cell + (dy << 6)) & 0xfc0) | ((cell + dx) & 63);
  return <f32>((word ^ load<u32>(mask + (<usize>i << 2))) >> 8) * <f32>5.9604645e-8;
}

/** Four shifted points from four cells. */
// @ts-ignore: decorator
@inline
export function shifted4(mask: usize, word: u32, cells: v128, dx: i32, dy: i32): v128 {
  const i = i32x4.shl(
    v128.or(
      v128.and(i32x4.add(cells, i32x4.splat(dy << 6)), i32x4.splat(0xfc0)),
      v128.and(i32x4.add(cells, i32x4.splat(dx)), i32x4.splat(63)),
    ),
    2,
  );
  let r = v128.load32_zero(mask + <usize>i32x4.extract_lane(i, 0));
  r = v128.load_lane<u32>(mask + <usize>i32x4.extract_lane(i, 1), r, 1);
  r = v128.load_lane<u32>(mask + <usize>i32x4.extract_lane(i, 2), r, 2);
  r = v128.load_lane<u32>(mask + <usize>i32x4.extract_lane(i, 3), r, 3);
  return mul(f32x4.convert_i32x4_s(i32x4.shr_u(v128.xor(r, i32x4.splat(word)), 8)), splat(5.9604645e-8));
}

// @ts-ignore: decorator
@inline
export function move(batch: usize, stride: usize, field: i32, from: usize, to: usize): void {
  const p = at(batch, stride, field);
  store<u32>(p + to, load<u32>(p + from));
}

/**
 * What the reflection takes of light that comes at a cosine, four paths at a time: `mean` A + `f90` B. `rows`: number of a row of
 * `table` times 32, by roughness; each entry is a pair of A and B.
 */
// @ts-ignore: decorator
@inline
export function curve4(table: usize, cosine: v128, rows: v128, mean: v128, f90: v128): v128 {
  const q = f32x4.pmin(mul(cosine, splat(<f32>(COLUMNS - 1))), splat(<f32>(COLUMNS - 1) - 0.0001));
  const j = i32x4.trunc_sat_f32x4_s(f32x4.pmax(q, splat(0))),
    f = sub(q, f32x4.convert_i32x4_s(j));
  const i = i32x4.shl(i32x4.add(j, rows), 3);
  const p0 = v128.load(table + <usize>i32x4.extract_lane(i, 0)),
    p1 = v128.load(table + <usize>i32x4.extract_lane(i, 1)),
    p2 = v128.load(table + <usize>i32x4.extract_lane(i, 2)),
    p3 = v128.load(table + <usize>i32x4.extract_lane(i, 3));
  const pLow = low(p0, p1),
    pHigh = low(p2, p3),
    qLow = high(p0, p1),
    qHigh = high(p2, p3);
  const a = first2(pLow, pHigh),
    b = last2(pLow, pHigh);
  return add(
    mul(mean, add(a, mul(sub(first2(qLow, qHigh), a), f))),
    mul(f90, add(b, mul(sub(last2(qLow, qHigh), b), f))),
  );
}
