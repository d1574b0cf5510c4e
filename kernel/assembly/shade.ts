// The hot half of shading: plain opaque surfaces under rectangle lights, over a batch of paths in the kernel's memory.
// What is rarer (coats, sheen, fibres, pictures, clear surfaces, other lights) is left to the host, which also has a twin of
// all of this (core/src/trace). Fields of the batch lie one after the other, `stride` bytes each; see ../src/batch.ts.

// @ts-ignore: decorator
@inline
const PIXEL = 0, CELL = 1, LABEL = 2, DEPTH = 3, TR = 4, TG = 5, TB = 6, DENSITY = 7, TRAVELLED = 8;
// @ts-ignore: decorator
@inline
const PX = 9, PY = 10, PZ = 11, GX = 12, GY = 13, GZ = 14, NX = 15, NY = 16, NZ = 17, VX = 18, VY = 19, VZ = 20;
// @ts-ignore: decorator
@inline
const OX = 21, OY = 22, OZ = 23, GAP = 24, TRIANGLE = 25, MATERIAL = 26, DR = 27, DG = 28, DB = 29, FR = 30, FG = 31, FB = 32;
// @ts-ignore: decorator
@inline
const F90 = 33, LOST = 34, ALPHA = 35, ROW = 36, CHANCE = 37, PASS = 38, EXTRA = 39;
// @ts-ignore: decorator
@inline
const LX = 40, LY = 41, LZ = 42, LD = 43, LW = 44, LR = 45, LG = 46, LB = 47, WAITING_PIXEL = 48;

// @ts-ignore: decorator
@inline
const PI: f32 = 3.14159265;
// @ts-ignore: decorator
@inline
const COLUMNS: i32 = 32;
/** Below this solid angle a rectangle is sampled by its area, which single precision can do well. */
// @ts-ignore: decorator
@inline
const SMALL: f32 = 0.05;

// @ts-ignore: decorator
@inline
function at(batch: usize, stride: usize, field: i32): usize {
  return batch + stride * <usize>field;
}

// @ts-ignore: decorator
@inline
function abs4(x: v128): v128 {
  return f32x4.abs(x);
}
// @ts-ignore: decorator
@inline
function splat(x: f32): v128 {
  return f32x4.splat(x);
}
// @ts-ignore: decorator
@inline
function mul(a: v128, b: v128): v128 {
  return f32x4.mul(a, b);
}
// @ts-ignore: decorator
@inline
function add(a: v128, b: v128): v128 {
  return f32x4.add(a, b);
}
// @ts-ignore: decorator
@inline
function sub(a: v128, b: v128): v128 {
  return f32x4.sub(a, b);
}
// @ts-ignore: decorator
@inline
function div(a: v128, b: v128): v128 {
  return f32x4.div(a, b);
}
// @ts-ignore: decorator
@inline
function dot3(ax: v128, ay: v128, az: v128, bx: v128, by: v128, bz: v128): v128 {
  return add(add(mul(ax, bx), mul(ay, by)), mul(az, bz));
}

/** Arc cosine, Abramowitz and Stegun 4.4.46. */
// @ts-ignore: decorator
@inline
function acos4(x: v128): v128 {
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
function cosTurn4(u: v128): v128 {
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

function cosTurn(u: f32): f32 {
  const x: f32 = <f32>0.25 - abs(u - floor(u + <f32>0.5));
  const y: f32 = <f32>6.2831855 * x,
    s: f32 = y * y;
  let p: f32 = -2.5052108e-8;
  p = p * s + <f32>2.7557319e-6;
  p = p * s - <f32>1.984127e-4;
  p = p * s + <f32>8.3333333e-3;
  p = p * s - <f32>0.16666667;
  p = p * s + <f32>1;
  return y * p;
}

/** A point of the mask's digital shift, 0…1. */
// @ts-ignore: decorator
@inline
function shifted(mask: usize, word: u32, cell: i32, dx: i32, dy: i32): f32 {
  const i = ((cell + (dy << 6)) & 0xfc0) | ((cell + dx) & 63);
  return <f32>((word ^ load<u32>(mask + (<usize>i << 2))) >> 8) * <f32>5.9604645e-8;
}

/** Four shifted points from four cells. */
// @ts-ignore: decorator
@inline
function shifted4(mask: usize, word: u32, cells: usize, dx: i32, dy: i32): v128 {
  let r = splat(shifted(mask, word, load<i32>(cells), dx, dy));
  r = f32x4.replace_lane(r, 1, shifted(mask, word, load<i32>(cells, 4), dx, dy));
  r = f32x4.replace_lane(r, 2, shifted(mask, word, load<i32>(cells, 8), dx, dy));
  return f32x4.replace_lane(r, 3, shifted(mask, word, load<i32>(cells, 12), dx, dy));
}

/**
 * One sample of a one-sided rectangle for every surface point: by solid angle (Ureña, Fajardo, King 2013), by area where it
 * is small. `light`: corner, then unit axes x y z, lengths of x and y (14 floats). `dim`: words a b, then ax ay bx by.
 */
export function aimRectangle(batch: usize, stride: usize, count: i32, light: usize, mask: usize, dim: usize): void {
  const sx = v128.load32_splat(light),
    sy = v128.load32_splat(light, 4),
    sz = v128.load32_splat(light, 8);
  const xx = v128.load32_splat(light, 12),
    xy = v128.load32_splat(light, 16),
    xz = v128.load32_splat(light, 20);
  const yx = v128.load32_splat(light, 24),
    yy = v128.load32_splat(light, 28),
    yz = v128.load32_splat(light, 32);
  const zx = v128.load32_splat(light, 36),
    zy = v128.load32_splat(light, 40),
    zz = v128.load32_splat(light, 44);
  const lx = v128.load32_splat(light, 48),
    ly = v128.load32_splat(light, 52);
  const a = load<u32>(dim),
    b = load<u32>(dim, 4),
    ax = load<i32>(dim, 8),
    ay = load<i32>(dim, 12),
    bx = load<i32>(dim, 16),
    by = load<i32>(dim, 20);
  const one = splat(1),
    zero = splat(0);
  for (let i = 0; i < count; i += 4) {
    const o = <usize>i << 2;
    const px = v128.load(at(batch, stride, PX) + o),
      py = v128.load(at(batch, stride, PY) + o),
      pz = v128.load(at(batch, stride, PZ) + o);
    const dx = sub(sx, px),
      dy = sub(sy, py),
      dz = sub(sz, pz);
    const z0 = dot3(dx, dy, dz, zx, zy, zz);
    // the point sees the front when the plane's normal faces it; THROUGH (2) takes no sample
    let ok = v128.and(f32x4.lt(z0, splat(-1e-6)), i32x4.ne(v128.load(at(batch, stride, PASS) + o), i32x4.splat(2)));
    if (!v128.any_true(ok)) {
      v128.store(at(batch, stride, LW) + o, zero);
      continue;
    }
    const x0 = dot3(dx, dy, dz, xx, xy, xz),
      y0 = dot3(dx, dy, dz, yx, yy, yz);
    const x1 = add(x0, lx),
      y1 = add(y0, ly),
      z2 = mul(z0, z0);
    const b0 = div(f32x4.neg(y0), f32x4.sqrt(add(z2, mul(y0, y0)))),
      n1 = div(x1, f32x4.sqrt(add(z2, mul(x1, x1)))),
      b1 = div(y1, f32x4.sqrt(add(z2, mul(y1, y1)))),
      n3 = div(f32x4.neg(x0), f32x4.sqrt(add(z2, mul(x0, x0))));
    const g0 = acos4(f32x4.neg(mul(b0, n1))),
      g1 = acos4(f32x4.neg(mul(n1, b1))),
      g2 = acos4(f32x4.neg(mul(b1, n3))),
      g3 = acos4(f32x4.neg(mul(n3, b0)));
    const k = sub(splat(6.2831855), add(g2, g3));
    const S = sub(add(g0, g1), k);
    const u = shifted4(mask, a, at(batch, stride, CELL) + o, ax, ay),
      v = shifted4(mask, b, at(batch, stride, CELL) + o, bx, by);
    // by solid angle
    const turn = mul(add(mul(u, S), k), splat(0.15915494));
    const sin = cosTurn4(sub(turn, splat(0.25)));
    const fu = div(sub(mul(cosTurn4(turn), b0), b1), sin);
    let cu = div(one, f32x4.sqrt(add(mul(fu, fu), mul(b0, b0))));
    cu = f32x4.pmin(cu, splat(0.9999999));
    cu = v128.xor(cu, v128.and(fu, i32x4.splat(0x80000000)));
    let xu = div(f32x4.neg(mul(cu, z0)), f32x4.sqrt(f32x4.pmax(splat(1e-14), sub(one, mul(cu, cu)))));
    xu = f32x4.pmin(x1, f32x4.pmax(x0, xu));
    const d2 = add(mul(xu, xu), z2);
    const h0 = div(y0, f32x4.sqrt(add(d2, mul(y0, y0)))),
      h1 = div(y1, f32x4.sqrt(add(d2, mul(y1, y1))));
    const hv = add(h0, mul(v, sub(h1, h0))),
      hv2 = mul(hv, hv);
    let yv = div(mul(hv, f32x4.sqrt(d2)), f32x4.sqrt(f32x4.pmax(splat(1e-7), sub(one, hv2))));
    yv = f32x4.pmin(y1, f32x4.pmax(y0, yv));
    // by area
    const small = v128.not(f32x4.ge(S, splat(SMALL)));
    xu = v128.bitselect(add(x0, mul(u, lx)), xu, small);
    yv = v128.bitselect(add(y0, mul(v, ly)), yv, small);
    const dd = add(add(mul(xu, xu), mul(yv, yv)), z2),
      d = f32x4.sqrt(dd),
      inverse = div(one, d);
    const byArea = mul(mul(mul(lx, ly), f32x4.neg(z0)), div(inverse, dd));
    const wx = mul(add(add(mul(xu, xx), mul(yv, yx)), mul(z0, zx)), inverse),
      wy = mul(add(add(mul(xu, xy), mul(yv, yy)), mul(z0, zy)), inverse),
      wz = mul(add(add(mul(xu, xz), mul(yv, yz)), mul(z0, zz)), inverse);
    v128.store(at(batch, stride, LX) + o, wx);
    v128.store(at(batch, stride, LY) + o, wy);
    v128.store(at(batch, stride, LZ) + o, wz);
    v128.store(at(batch, stride, LD) + o, d);
    v128.store(at(batch, stride, LW) + o, v128.and(ok, v128.bitselect(byArea, S, small)));
    v128.store(at(batch, stride, LR) + o, one);
    v128.store(at(batch, stride, LG) + o, one);
    v128.store(at(batch, stride, LB) + o, one);
  }
}

// @ts-ignore: decorator
@inline
function table4(table: usize, index: v128, fraction: v128): v128 {
  const i0 = table + (<usize>i32x4.extract_lane(index, 0) << 2),
    i1 = table + (<usize>i32x4.extract_lane(index, 1) << 2),
    i2 = table + (<usize>i32x4.extract_lane(index, 2) << 2),
    i3 = table + (<usize>i32x4.extract_lane(index, 3) << 2);
  let a = splat(load<f32>(i0)),
    b = splat(load<f32>(i0, 4));
  a = f32x4.replace_lane(a, 1, load<f32>(i1));
  b = f32x4.replace_lane(b, 1, load<f32>(i1, 4));
  a = f32x4.replace_lane(a, 2, load<f32>(i2));
  b = f32x4.replace_lane(b, 2, load<f32>(i2, 4));
  a = f32x4.replace_lane(a, 3, load<f32>(i3));
  b = f32x4.replace_lane(b, 3, load<f32>(i3, 4));
  return add(a, mul(sub(b, a), fraction));
}

/**
 * Puts the light samples of plain opaque surfaces through them and writes shadow rays and what waits for them, from entry
 * `begin` on. `alone`: the walk cannot meet this light. `limit`: depth at which the walk ends. Answers the end.
 */
export function lightPlain(
  batch: usize,
  stride: usize,
  count: i32,
  tableA: usize,
  tableB: usize,
  waiting: usize,
  shadowRays: usize,
  begin: i32,
  limit: i32,
  alone: i32,
): i32 {
  const one = splat(1),
    zero = splat(0),
    inversePi = splat(0.31830989);
  let w = begin;
  for (let i = 0; i < count; i += 4) {
    const o = <usize>i << 2;
    const S = v128.load(at(batch, stride, LW) + o);
    const x = v128.load(at(batch, stride, LX) + o),
      y = v128.load(at(batch, stride, LY) + o),
      z = v128.load(at(batch, stride, LZ) + o);
    const nx = v128.load(at(batch, stride, NX) + o),
      ny = v128.load(at(batch, stride, NY) + o),
      nz = v128.load(at(batch, stride, NZ) + o);
    const nl = dot3(nx, ny, nz, x, y, z);
    let ok = v128.and(f32x4.gt(S, zero), f32x4.gt(nl, zero));
    ok = v128.and(ok, i32x4.eq(v128.or(v128.load(at(batch, stride, PASS) + o), v128.load(at(batch, stride, EXTRA) + o)), i32x4.splat(0)));
    let lanes = i32x4.bitmask(ok);
    if (count - i < 4) lanes &= (1 << (count - i)) - 1;
    if (!lanes) continue;
    const vx = v128.load(at(batch, stride, VX) + o),
      vy = v128.load(at(batch, stride, VY) + o),
      vz = v128.load(at(batch, stride, VZ) + o);
    const nv = dot3(nx, ny, nz, vx, vy, vz);
    let hx = add(x, vx),
      hy = add(y, vy),
      hz = add(z, vz);
    const hl = div(one, f32x4.sqrt(dot3(hx, hy, hz, hx, hy, hz)));
    hx = mul(hx, hl);
    hy = mul(hy, hl);
    hz = mul(hz, hl);
    const vh = dot3(vx, vy, vz, hx, hy, hz);
    // sin² by the cross product: 1 − cos² would cancel where the lobe is narrow
    const cx = sub(mul(ny, hz), mul(nz, hy)),
      cy = sub(mul(nz, hx), mul(nx, hz)),
      cz = sub(mul(nx, hy), mul(ny, hx));
    const sin2 = dot3(cx, cy, cz, cx, cy, cz);
    const a = v128.load(at(batch, stride, ALPHA) + o),
      a2 = mul(a, a);
    const kd = add(sin2, mul(sub(one, sin2), a2));
    const D = div(mul(a2, inversePi), mul(kd, kd));
    const rest = sub(one, a2);
    const gv = f32x4.sqrt(add(mul(mul(nv, nv), rest), a2)),
      gl = f32x4.sqrt(add(mul(mul(nl, nl), rest), a2));
    const V = div(splat(0.5), add(mul(nl, gv), mul(nv, gl)));
    let wd = one,
      ws = one;
    if (!alone) {
      const c = v128.load(at(batch, stride, CHANCE) + o);
      const pd = mul(mul(mul(sub(one, c), nl), inversePi), S);
      // c · G1(v) D / (4 nv) · S with G1 = 2 nv / (nv + √…)
      const ps = mul(mul(mul(c, D), S), div(splat(0.5), add(nv, gv)));
      const meets = i32x4.lt_s(v128.load(at(batch, stride, DEPTH) + o), i32x4.splat(limit));
      wd = v128.bitselect(div(one, add(one, mul(pd, pd))), one, meets);
      ws = v128.bitselect(div(one, add(one, mul(ps, ps))), one, meets);
    }
    const q = f32x4.pmin(mul(nl, splat(<f32>(COLUMNS - 1))), splat(<f32>(COLUMNS - 1) - 0.0001));
    const j = i32x4.trunc_sat_f32x4_s(f32x4.pmax(q, zero)),
      f = sub(q, f32x4.convert_i32x4_s(j));
    const index = i32x4.add(j, v128.load(at(batch, stride, ROW) + o));
    const ea = table4(tableA, index, f),
      e9 = table4(tableB, index, f);
    const fr = v128.load(at(batch, stride, FR) + o),
      fg = v128.load(at(batch, stride, FG) + o),
      fb = v128.load(at(batch, stride, FB) + o),
      f90 = v128.load(at(batch, stride, F90) + o);
    const mean = mul(add(add(fr, fg), fb), splat(0.33333333));
    const nS = mul(nl, S);
    const ed = mul(mul(mul(sub(sub(one, mul(mean, ea)), mul(f90, e9)), inversePi), nS), wd);
    const es = mul(mul(mul(D, V), nS), ws);
    const m = sub(one, vh),
      m2 = mul(m, m),
      m5 = mul(mul(m2, m2), m);
    const more = mul(v128.load(at(batch, stride, LOST) + o), es),
      u = sub(one, m5),
      g5 = mul(f90, m5);
    const R = mul(v128.load(at(batch, stride, TR) + o), v128.load(at(batch, stride, LR) + o)),
      G = mul(v128.load(at(batch, stride, TG) + o), v128.load(at(batch, stride, LG) + o)),
      B = mul(v128.load(at(batch, stride, TB) + o), v128.load(at(batch, stride, LB) + o));
    const sr = mul(R, mul(add(mul(fr, u), g5), add(es, mul(fr, more)))),
      sg = mul(G, mul(add(mul(fg, u), g5), add(es, mul(fg, more)))),
      sb = mul(B, mul(add(mul(fb, u), g5), add(es, mul(fb, more))));
    const dr = mul(R, mul(v128.load(at(batch, stride, DR) + o), ed)),
      dg = mul(G, mul(v128.load(at(batch, stride, DG) + o), ed)),
      db = mul(B, mul(v128.load(at(batch, stride, DB) + o), ed));
    // lanes need constant indices; the stack of six vectors is read back one lane at a time
    const stack = waiting + <usize>w * 24 + 96;
    v128.store(stack, dr);
    v128.store(stack, dg, 16);
    v128.store(stack, db, 32);
    v128.store(stack, sr, 48);
    v128.store(stack, sg, 64);
    v128.store(stack, sb, 80);
    do {
      const lane = <usize>ctz(lanes);
      lanes &= lanes - 1;
      const p = stack + (lane << 2),
        e = o + (lane << 2);
      const label = load<i32>(at(batch, stride, LABEL) + e);
      const d0 = load<f32>(p),
        d1 = load<f32>(p, 16),
        d2 = load<f32>(p, 32),
        s0 = load<f32>(p, 48),
        s1 = load<f32>(p, 64),
        s2 = load<f32>(p, 80);
      const to = waiting + <usize>w * 24;
      if (label == 2) {
        store<f32>(to, d0);
        store<f32>(to, d1, 4);
        store<f32>(to, d2, 8);
        store<f32>(to, s0, 12);
        store<f32>(to, s1, 16);
        store<f32>(to, s2, 20);
      } else {
        const first = to + (<usize>label * 12),
          second = to + (<usize>(1 - label) * 12);
        store<f32>(first, d0 + s0);
        store<f32>(first, d1 + s1, 4);
        store<f32>(first, d2 + s2, 8);
        store<f32>(second, 0);
        store<f32>(second, 0, 4);
        store<f32>(second, 0, 8);
      }
      store<i32>(at(batch, stride, WAITING_PIXEL) + (<usize>w << 2), load<i32>(at(batch, stride, PIXEL) + e));
      const r = shadowRays + (<usize>w << 5);
      store<f32>(r, load<f32>(at(batch, stride, OX) + e));
      store<f32>(r, load<f32>(at(batch, stride, OY) + e), 4);
      store<f32>(r, load<f32>(at(batch, stride, OZ) + e), 8);
      store<f32>(r, 0, 12);
      store<f32>(r, load<f32>(at(batch, stride, LX) + e), 16);
      store<f32>(r, load<f32>(at(batch, stride, LY) + e), 20);
      store<f32>(r, load<f32>(at(batch, stride, LZ) + e), 24);
      store<f32>(r, load<f32>(at(batch, stride, LD) + e) * <f32>0.9999, 28);
      w++;
    } while (lanes);
  }
  return w;
}

/** Adds what waited for shadow rays that nothing stopped to a film of two planes, the second `second` floats in. */
export function addUnblocked(batch: usize, stride: usize, waiting: usize, blocked: usize, film: usize, second: i32, count: i32): void {
  const plane = <usize>second << 2;
  for (let i = 0; i < count; i++) {
    if (load<u8>(blocked + <usize>i)) continue;
    const f = film + <usize>load<i32>(at(batch, stride, WAITING_PIXEL) + (<usize>i << 2)) * 12,
      s = f + plane,
      q = waiting + <usize>i * 24;
    store<f32>(f, load<f32>(f) + load<f32>(q));
    store<f32>(f, load<f32>(f, 4) + load<f32>(q, 4), 4);
    store<f32>(f, load<f32>(f, 8) + load<f32>(q, 8), 8);
    store<f32>(s, load<f32>(s) + load<f32>(q, 12));
    store<f32>(s, load<f32>(s, 4) + load<f32>(q, 16), 4);
    store<f32>(s, load<f32>(s, 8) + load<f32>(q, 20), 8);
  }
}

/** Solid angle of the rectangle from a point, as `aimRectangle` has it. */
function solidAngle(light: usize, px: f32, py: f32, pz: f32): f32 {
  const dx = load<f32>(light) - px,
    dy = load<f32>(light, 4) - py,
    dz = load<f32>(light, 8) - pz;
  const z0 = dx * load<f32>(light, 36) + dy * load<f32>(light, 40) + dz * load<f32>(light, 44);
  const x0 = dx * load<f32>(light, 12) + dy * load<f32>(light, 16) + dz * load<f32>(light, 20),
    y0 = dx * load<f32>(light, 24) + dy * load<f32>(light, 28) + dz * load<f32>(light, 32);
  const x1 = x0 + load<f32>(light, 48),
    y1 = y0 + load<f32>(light, 52),
    z2 = z0 * z0;
  const b0 = -y0 / sqrt(z2 + y0 * y0),
    n1 = x1 / sqrt(z2 + x1 * x1),
    b1 = y1 / sqrt(z2 + y1 * y1),
    n3 = -x0 / sqrt(z2 + x0 * x0);
  let v = splat(-b0 * n1);
  v = f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(v, 1, -n1 * b1), 2, -b1 * n3), 3, -n3 * b0);
  const g = acos4(v);
  return f32x4.extract_lane(g, 0) + f32x4.extract_lane(g, 1) + f32x4.extract_lane(g, 2) + f32x4.extract_lane(g, 3) - <f32>6.2831855;
}

/** The walk's own rays that meet the front of a rectangle before anything else, weighed against its samples. */
export function meetRectangle(
  batch: usize,
  stride: usize,
  count: i32,
  light: usize,
  rays: usize,
  hits: usize,
  film: usize,
  second: i32,
  bounces: i32,
): void {
  const sx = load<f32>(light),
    sy = load<f32>(light, 4),
    sz = load<f32>(light, 8);
  const zx = load<f32>(light, 36),
    zy = load<f32>(light, 40),
    zz = load<f32>(light, 44);
  const lx = load<f32>(light, 48),
    ly = load<f32>(light, 52);
  for (let i = 0; i < count; i++) {
    const e = <usize>i << 2;
    const r = rays + (<usize>i << 5);
    const dx = load<f32>(r, 16),
      dy = load<f32>(r, 20),
      dz = load<f32>(r, 24);
    const facing = dx * zx + dy * zy + dz * zz;
    if (!(facing < 0)) continue;
    const p = load<f32>(at(batch, stride, DENSITY) + e);
    if (p == 0 || load<i32>(at(batch, stride, DEPTH) + e) > bounces) continue;
    const ox = load<f32>(r),
      oy = load<f32>(r, 4),
      oz = load<f32>(r, 8);
    const qx = sx - ox,
      qy = sy - oy,
      qz = sz - oz;
    const height = qx * zx + qy * zy + qz * zz;
    const t = height / facing;
    if (!(t > 0) || !(t < load<f32>(hits + (<usize>i << 4)))) continue;
    const hx = dx * t - qx,
      hy = dy * t - qy,
      hz = dz * t - qz;
    const u = hx * load<f32>(light, 12) + hy * load<f32>(light, 16) + hz * load<f32>(light, 20),
      v = hx * load<f32>(light, 24) + hy * load<f32>(light, 28) + hz * load<f32>(light, 32);
    if (!(u >= 0 && u <= lx && v >= 0 && v <= ly) || !(height < -1e-6)) continue;
    let S = solidAngle(light, ox, oy, oz);
    if (!(S >= SMALL)) S = (lx * ly * -facing) / (t * t);
    const ps = p * S;
    const weight = (ps * ps) / (<f32>1 + ps * ps);
    const f =
      film + <usize>load<i32>(at(batch, stride, PIXEL) + e) * 12 + <usize>(load<i32>(at(batch, stride, LABEL) + e) * second * 4);
    store<f32>(f, load<f32>(f) + load<f32>(at(batch, stride, TR) + e) * weight);
    store<f32>(f, load<f32>(f, 4) + load<f32>(at(batch, stride, TG) + e) * weight, 4);
    store<f32>(f, load<f32>(f, 8) + load<f32>(at(batch, stride, TB) + e) * weight, 8);
  }
}

// @ts-ignore: decorator
@inline
function move(batch: usize, stride: usize, field: i32, from: usize, to: usize): void {
  const p = at(batch, stride, field);
  store<u32>(p + to, load<u32>(p + from));
}

// @ts-ignore: decorator
@inline
function lookUp(table: usize, row: i32, mu: f32): f32 {
  const x = mu * <f32>(COLUMNS - 1);
  const i = min(<i32>x, COLUMNS - 2);
  const p = table + (<usize>(row * COLUMNS + i) << 2);
  const a = load<f32>(p);
  return a + (load<f32>(p, 4) - a) * (x - <f32>i);
}

/**
 * Stands every path that met something on its surface point, closing up the ranks; answers how many there are. Plain
 * opaque surfaces are finished; of others EXTRA is 1, the colour at the vertices stands in `dr dg db`, the hit's weights in
 * `lx ly`, and PASS says whether the surface is met from inside: the host finishes them.
 * `materials`: 16 floats each: base r g b, metallic, roughness, F0 r g b, their mean, specular, plain (1), row, alpha, 1 / what
 * the reflection leaves in the mean.
 */
export function stand(
  batch: usize,
  stride: usize,
  count: i32,
  rays: usize,
  hits: usize,
  positions: usize,
  indices: usize,
  normals: usize,
  colours: usize,
  triangleMaterial: usize,
  materials: usize,
  tableA: usize,
  tableB: usize,
  lastDepth: i32,
): i32 {
  let n = 0;
  for (let i = 0; i < count; i++) {
    const h = hits + (<usize>i << 4);
    const id = load<i32>(h, 12);
    const from = <usize>i << 2,
      to = <usize>n << 2;
    if (id < 0 || load<i32>(at(batch, stride, DEPTH) + from) > lastDepth) continue;
    const r = rays + (<usize>i << 5);
    const t = load<f32>(h),
      u = load<f32>(h, 4),
      v = load<f32>(h, 8),
      w = <f32>1 - u - v;
    const dx = load<f32>(r, 16),
      dy = load<f32>(r, 20),
      dz = load<f32>(r, 24);
    const c = indices + <usize>id * 12;
    const ia = <usize>load<i32>(c) * 12,
      ib = <usize>load<i32>(c, 4) * 12,
      ic = <usize>load<i32>(c, 8) * 12;
    const ax = load<f32>(positions + ia),
      ay = load<f32>(positions + ia, 4),
      az = load<f32>(positions + ia, 8);
    const bx = load<f32>(positions + ib),
      by = load<f32>(positions + ib, 4),
      bz = load<f32>(positions + ib, 8);
    const cx = load<f32>(positions + ic),
      cy = load<f32>(positions + ic, 4),
      cz = load<f32>(positions + ic, 8);
    const ux = bx - ax,
      uy = by - ay,
      uz = bz - az;
    const wx = cx - ax,
      wy = cy - ay,
      wz = cz - az;
    let gx = uy * wz - uz * wy,
      gy = uz * wx - ux * wz,
      gz = ux * wy - uy * wx;
    const inside = gx * dx + gy * dy + gz * dz > 0;
    const gl = (inside ? <f32>-1 : <f32>1) / sqrt(gx * gx + gy * gy + gz * gz);
    gx *= gl;
    gy *= gl;
    gz *= gl;
    const nax = load<f32>(normals + ia),
      nay = load<f32>(normals + ia, 4),
      naz = load<f32>(normals + ia, 8);
    const nbx = load<f32>(normals + ib),
      nby = load<f32>(normals + ib, 4),
      nbz = load<f32>(normals + ib, 8);
    const ncx = load<f32>(normals + ic),
      ncy = load<f32>(normals + ic, 4),
      ncz = load<f32>(normals + ic, 8);
    let nx = nax * w + nbx * u + ncx * v,
      ny = nay * w + nby * u + ncy * v,
      nz = naz * w + nbz * u + ncz * v;
    // a shading normal that turns away from its own triangle is not believed
    const flip: f32 = nx * gx + ny * gy + nz * gz < 0 ? -1 : 1;
    const nl = flip / sqrt(nx * nx + ny * ny + nz * nz);
    nx *= nl;
    ny *= nl;
    nz *= nl;
    // positions are taken from the triangle, which is more exact than along the ray
    const x = ax * w + bx * u + cx * v,
      y = ay * w + by * u + cy * v,
      z = az * w + bz * u + cz * v;
    const gap = <f32>2e-5 + <f32>5e-7 * max(abs(x), max(abs(y), abs(z)));
    const k = <i32>load<u16>(triangleMaterial + (<usize>id << 1));
    const m = materials + (<usize>k << 6);
    const red = load<f32>(m) * (load<f32>(colours + ia) * w + load<f32>(colours + ib) * u + load<f32>(colours + ic) * v),
      green = load<f32>(m, 4) * (load<f32>(colours + ia, 4) * w + load<f32>(colours + ib, 4) * u + load<f32>(colours + ic, 4) * v),
      blue = load<f32>(m, 8) * (load<f32>(colours + ia, 8) * w + load<f32>(colours + ib, 8) * u + load<f32>(colours + ic, 8) * v);
    if (load<f32>(m, 40) != 0) {
      if (!(nx * dx + ny * dy + nz * dz < <f32>-1e-3)) {
        nx = gx;
        ny = gy;
        nz = gz;
      }
      const cos = min(<f32>1, -(nx * dx + ny * dy + nz * dz));
      const metallic = load<f32>(m, 12),
        solid = <f32>1 - metallic,
        specular = load<f32>(m, 36),
        f0Mean = load<f32>(m, 32);
      const fr = load<f32>(m, 20) * solid + red * metallic,
        fg = load<f32>(m, 24) * solid + green * metallic,
        fb = load<f32>(m, 28) * solid + blue * metallic;
      const f90 = specular * solid + metallic;
      const roughness = min(<f32>1, max(<f32>0, load<f32>(m, 16))) * 31;
      const j = min(<i32>roughness, 30),
        f = roughness - <f32>j;
      const ea0 = lookUp(tableA, j, cos),
        eb0 = lookUp(tableB, j, cos);
      const ea = ea0 + (lookUp(tableA, j + 1, cos) - ea0) * f,
        eb = eb0 + (lookUp(tableB, j + 1, cos) - eb0) * f;
      const leaves = (<f32>1 - f0Mean * ea - specular * eb) * load<f32>(m, 52) * solid;
      store<f32>(at(batch, stride, LOST) + to, <f32>1 / max(<f32>0.05, ea + eb) - <f32>1);
      store<f32>(at(batch, stride, DR) + to, red * leaves);
      store<f32>(at(batch, stride, DG) + to, green * leaves);
      store<f32>(at(batch, stride, DB) + to, blue * leaves);
      store<f32>(at(batch, stride, FR) + to, fr);
      store<f32>(at(batch, stride, FG) + to, fg);
      store<f32>(at(batch, stride, FB) + to, fb);
      store<f32>(at(batch, stride, F90) + to, f90);
      store<f32>(at(batch, stride, ALPHA) + to, load<f32>(m, 48));
      store<i32>(at(batch, stride, ROW) + to, <i32>load<f32>(m, 44) * COLUMNS);
      const sharp = (fr + fg + fb) * ea + <f32>3 * f90 * eb,
        broad = (red + green + blue) * solid;
      store<f32>(
        at(batch, stride, CHANCE) + to,
        broad <= 0 ? <f32>1 : min(<f32>0.9, max(<f32>0.1, sharp / (sharp + broad))),
      );
      store<i32>(at(batch, stride, PASS) + to, 0);
      store<i32>(at(batch, stride, EXTRA) + to, 0);
    } else {
      store<f32>(at(batch, stride, DR) + to, red);
      store<f32>(at(batch, stride, DG) + to, green);
      store<f32>(at(batch, stride, DB) + to, blue);
      store<f32>(at(batch, stride, LX) + to, u);
      store<f32>(at(batch, stride, LY) + to, v);
      store<i32>(at(batch, stride, PASS) + to, inside ? 1 : 0);
      store<i32>(at(batch, stride, EXTRA) + to, 1);
    }
    store<f32>(at(batch, stride, PX) + to, x);
    store<f32>(at(batch, stride, PY) + to, y);
    store<f32>(at(batch, stride, PZ) + to, z);
    store<f32>(at(batch, stride, GX) + to, gx);
    store<f32>(at(batch, stride, GY) + to, gy);
    store<f32>(at(batch, stride, GZ) + to, gz);
    store<f32>(at(batch, stride, NX) + to, nx);
    store<f32>(at(batch, stride, NY) + to, ny);
    store<f32>(at(batch, stride, NZ) + to, nz);
    store<f32>(at(batch, stride, VX) + to, -dx);
    store<f32>(at(batch, stride, VY) + to, -dy);
    store<f32>(at(batch, stride, VZ) + to, -dz);
    store<f32>(at(batch, stride, GAP) + to, gap);
    store<i32>(at(batch, stride, TRIANGLE) + to, id);
    store<i32>(at(batch, stride, MATERIAL) + to, k);
    // Hanika 2021, "Hacking the Shadow Terminator"
    const sa = min(<f32>0, ((x - ax) * nax + (y - ay) * nay + (z - az) * naz) * flip) * flip * w,
      sb = min(<f32>0, ((x - bx) * nbx + (y - by) * nby + (z - bz) * nbz) * flip) * flip * u,
      sc = min(<f32>0, ((x - cx) * ncx + (y - cy) * ncy + (z - cz) * ncz) * flip) * flip * v;
    store<f32>(at(batch, stride, OX) + to, x - (sa * nax + sb * nbx + sc * ncx) + gx * gap);
    store<f32>(at(batch, stride, OY) + to, y - (sa * nay + sb * nby + sc * ncy) + gy * gap);
    store<f32>(at(batch, stride, OZ) + to, z - (sa * naz + sb * nbz + sc * ncz) + gz * gap);
    if (from != to) for (let f = PIXEL; f <= DENSITY; f++) move(batch, stride, f, from, to);
    store<f32>(at(batch, stride, TRAVELLED) + to, load<f32>(at(batch, stride, TRAVELLED) + from) + t);
    n++;
  }
  return n;
}

/** Roulette starts after so many bounces. */
// @ts-ignore: decorator
@inline
const ROULETTE_FROM = 2;

/**
 * Chooses how paths on plain opaque surfaces go on: direction in `lx ly lz`, throughput in `lr lg lb`, density in `ld`, and in
 * `lw` whether they do (1) or end (0). Label and depth are brought forward. `dims`: two dimensions of six words each.
 */
export function scatterPlain(
  batch: usize,
  stride: usize,
  count: i32,
  mask: usize,
  dims: usize,
  tableA: usize,
  tableB: usize,
  lastDepth: i32,
): void {
  for (let i = 0; i < count; i++) {
    const e = <usize>i << 2;
    if (load<i32>(at(batch, stride, PASS) + e) != 0 || load<i32>(at(batch, stride, EXTRA) + e) != 0) continue;
    store<f32>(at(batch, stride, LW) + e, 0);
    let depth = load<i32>(at(batch, stride, DEPTH) + e);
    if (depth >= lastDepth) continue;
    const cell = load<i32>(at(batch, stride, CELL) + e);
    const choice = shifted(mask, load<u32>(dims), cell, load<i32>(dims, 8), load<i32>(dims, 12)),
      u1 = shifted(mask, load<u32>(dims, 24), cell, load<i32>(dims, 32), load<i32>(dims, 36)),
      u2 = shifted(mask, load<u32>(dims, 28), cell, load<i32>(dims, 40), load<i32>(dims, 44));
    const x = load<f32>(at(batch, stride, NX) + e),
      y = load<f32>(at(batch, stride, NY) + e),
      z = load<f32>(at(batch, stride, NZ) + e);
    const ex = load<f32>(at(batch, stride, VX) + e),
      ey = load<f32>(at(batch, stride, VY) + e),
      ez = load<f32>(at(batch, stride, VZ) + e);
    const c = load<f32>(at(batch, stride, CHANCE) + e);
    // a frame around the normal (Duff et al. 2017)
    const s: f32 = z >= 0 ? 1 : -1,
      a0 = <f32>-1 / (s + z),
      b0 = x * y * a0;
    const t1x = <f32>1 + s * x * x * a0,
      t1y = s * b0,
      t1z = -s * x,
      t2x = b0,
      t2y = s + y * y * a0,
      t2z = -y;
    let R = load<f32>(at(batch, stride, TR) + e),
      G = load<f32>(at(batch, stride, TG) + e),
      B = load<f32>(at(batch, stride, TB) + e);
    const fr = load<f32>(at(batch, stride, FR) + e),
      fg = load<f32>(at(batch, stride, FG) + e),
      fb = load<f32>(at(batch, stride, FB) + e),
      f90 = load<f32>(at(batch, stride, F90) + e);
    let lx: f32, ly: f32, lz: f32, density: f32;
    let label = load<i32>(at(batch, stride, LABEL) + e);
    if (choice >= c) {
      const r = sqrt(u1),
        a = r * cosTurn(u2),
        b = r * cosTurn(u2 - <f32>0.25),
        h = sqrt(max(<f32>0, <f32>1 - u1));
      lx = a * t1x + b * t2x + h * x;
      ly = a * t1y + b * t2y + h * y;
      lz = a * t1z + b * t2z + h * z;
      const row = load<i32>(at(batch, stride, ROW) + e) / COLUMNS;
      const k =
        (<f32>1 - (fr + fg + fb) * <f32>0.33333333 * lookUp(tableA, row, h) - f90 * lookUp(tableB, row, h)) / (<f32>1 - c);
      R *= load<f32>(at(batch, stride, DR) + e) * k;
      G *= load<f32>(at(batch, stride, DG) + e) * k;
      B *= load<f32>(at(batch, stride, DB) + e) * k;
      density = (<f32>1 - c) * h * <f32>0.31830989;
      if (label == 2) label = 0;
    } else {
      const a = load<f32>(at(batch, stride, ALPHA) + e);
      const nv = max(<f32>1e-4, x * ex + y * ey + z * ez);
      const vx = t1x * ex + t1y * ey + t1z * ez,
        vy = t2x * ex + t2y * ey + t2z * ez;
      // visible normals of GGX (Heitz 2018, listing 1)
      let hx = a * vx,
        hy = a * vy,
        hz = nv;
      const l = <f32>1 / sqrt(hx * hx + hy * hy + hz * hz);
      hx *= l;
      hy *= l;
      hz *= l;
      const l2 = hx * hx + hy * hy;
      let p1x: f32 = 1,
        p1y: f32 = 0;
      if (l2 > <f32>1e-14) {
        const q = <f32>1 / sqrt(l2);
        p1x = -hy * q;
        p1y = hx * q;
      }
      const p2x = -hz * p1y,
        p2y = hz * p1x,
        p2z = hx * p1y - hy * p1x;
      const r = sqrt(u1),
        d1 = r * cosTurn(u2),
        blend = <f32>0.5 * (<f32>1 + hz);
      const d2 = (<f32>1 - blend) * sqrt(max(<f32>0, <f32>1 - d1 * d1)) + blend * r * cosTurn(u2 - <f32>0.25),
        d3 = sqrt(max(<f32>0, <f32>1 - d1 * d1 - d2 * d2));
      let mx = a * (d1 * p1x + d2 * p2x + d3 * hx),
        my = a * (d1 * p1y + d2 * p2y + d3 * hy),
        mz = max(<f32>1e-9, d2 * p2z + d3 * hz);
      const ml = <f32>1 / sqrt(mx * mx + my * my + mz * mz);
      mx *= ml;
      my *= ml;
      mz *= ml;
      const vh = vx * mx + vy * my + nv * mz;
      const wx = <f32>2 * vh * mx - vx,
        wy = <f32>2 * vh * my - vy,
        wz = <f32>2 * vh * mz - nv;
      if (wz <= <f32>1e-6) continue;
      lx = wx * t1x + wy * t2x + wz * x;
      ly = wx * t1y + wy * t2y + wz * y;
      lz = wx * t1z + wy * t2z + wz * z;
      const a2 = a * a,
        rest = <f32>1 - a2;
      const gv = sqrt(nv * nv * rest + a2),
        g1 = (<f32>2 * nv) / (nv + gv);
      const V = <f32>0.5 / (wz * gv + nv * sqrt(wz * wz * rest + a2));
      const q = <f32>1 - vh,
        q2 = q * q,
        m5 = q2 * q2 * q,
        u = <f32>1 - m5,
        g5 = f90 * m5;
      const f = (V * <f32>4 * wz * nv) / (g1 * c),
        more = load<f32>(at(batch, stride, LOST) + e) * f;
      R *= (fr * u + g5) * (f + fr * more);
      G *= (fg * u + g5) * (f + fg * more);
      B *= (fb * u + g5) * (f + fb * more);
      const sin2 = mx * mx + my * my,
        kd = sin2 + mz * mz * a2;
      density = (c * g1 * a2) / (PI * kd * kd * <f32>4 * nv);
      if (label == 2) label = 1;
    }
    if (
      lx * load<f32>(at(batch, stride, GX) + e) + ly * load<f32>(at(batch, stride, GY) + e) + lz * load<f32>(at(batch, stride, GZ) + e) <= 0
    )
      continue;
    depth++;
    if (depth >= ROULETTE_FROM) {
      const q = max(R, max(G, B));
      if (q < 1) {
        const live = max(q, <f32>0.05);
        const roulette = shifted(mask, load<u32>(dims, 4), cell, load<i32>(dims, 16), load<i32>(dims, 20));
        if (roulette >= live) continue;
        R /= live;
        G /= live;
        B /= live;
      }
    }
    store<f32>(at(batch, stride, LX) + e, lx);
    store<f32>(at(batch, stride, LY) + e, ly);
    store<f32>(at(batch, stride, LZ) + e, lz);
    store<f32>(at(batch, stride, LD) + e, density);
    store<f32>(at(batch, stride, LW) + e, 1);
    store<f32>(at(batch, stride, LR) + e, R);
    store<f32>(at(batch, stride, LG) + e, G);
    store<f32>(at(batch, stride, LB) + e, B);
    store<i32>(at(batch, stride, LABEL) + e, label);
    store<i32>(at(batch, stride, DEPTH) + e, depth);
  }
}

/** Sends the paths on whose `lw` is 1 (−1: on the other side), closing up the ranks. Answers how many. */
export function depart(batch: usize, stride: usize, count: i32, rays: usize): i32 {
  let n = 0;
  for (let i = 0; i < count; i++) {
    const from = <usize>i << 2,
      to = <usize>n << 2;
    const way = load<f32>(at(batch, stride, LW) + from);
    if (way == 0) continue;
    const o = load<f32>(at(batch, stride, GAP) + from) * way;
    const r = rays + (<usize>n << 5);
    store<f32>(r, load<f32>(at(batch, stride, PX) + from) + load<f32>(at(batch, stride, GX) + from) * o);
    store<f32>(r, load<f32>(at(batch, stride, PY) + from) + load<f32>(at(batch, stride, GY) + from) * o, 4);
    store<f32>(r, load<f32>(at(batch, stride, PZ) + from) + load<f32>(at(batch, stride, GZ) + from) * o, 8);
    store<f32>(r, 0, 12);
    store<f32>(r, load<f32>(at(batch, stride, LX) + from), 16);
    store<f32>(r, load<f32>(at(batch, stride, LY) + from), 20);
    store<f32>(r, load<f32>(at(batch, stride, LZ) + from), 24);
    store<f32>(r, 1e30, 28);
    if (from != to) {
      for (let f = PIXEL; f <= DEPTH; f++) move(batch, stride, f, from, to);
      move(batch, stride, TRAVELLED, from, to);
    }
    store<f32>(at(batch, stride, TR) + to, load<f32>(at(batch, stride, LR) + from));
    store<f32>(at(batch, stride, TG) + to, load<f32>(at(batch, stride, LG) + from));
    store<f32>(at(batch, stride, TB) + to, load<f32>(at(batch, stride, LB) + from));
    store<f32>(at(batch, stride, DENSITY) + to, load<f32>(at(batch, stride, LD) + from));
    n++;
  }
  return n;
}

/**
 * After a sample: adds the square of what it brought to each of `count` pixels of a plane (r g b), by luminance. `before` holds
 * the plane's luminances as they were.
 */
export function addSquares(film: usize, before: usize, squares: usize, count: i32): void {
  for (let i = 0; i < count; i++) {
    const now = <f32>0.2126 * load<f32>(film) + <f32>0.7152 * load<f32>(film, 4) + <f32>0.0722 * load<f32>(film, 8);
    const d = now - load<f32>(before);
    store<f32>(squares, load<f32>(squares) + d * d);
    store<f32>(before, now);
    film += 12;
    before += 4;
    squares += 4;
  }
}

/** Mixes two integers into one: murmur3's finaliser over a combination, as core/src/math has it. */
function mix(a: i32, b: i32): i32 {
  let h: u32 = <u32>(a ^ <i32>0x9e3779b9) * 0x85ebca6b ^ <u32>(b + 0x7f4a7c15) * 0xc2b2ae35;
  h ^= h >> 16;
  h *= 0x85ebca6b;
  h ^= h >> 13;
  h *= 0xc2b2ae35;
  return <i32>(h ^ (h >> 16));
}

/**
 * Starts one path for each pixel of a tile, through a pinhole. `camera`: origin, forward, right, up (12 floats), half width and
 * half height at distance 1, width and height of the picture.
 */
export function cameraRays(
  batch: usize,
  stride: usize,
  rays: usize,
  camera: usize,
  mask: usize,
  dim: usize,
  left: i32,
  top: i32,
  columns: i32,
  rows: i32,
  seed: i32,
): void {
  const fx = load<f32>(camera, 12),
    fy = load<f32>(camera, 16),
    fz = load<f32>(camera, 20);
  const kx = (<f32>2 * load<f32>(camera, 48)) / load<f32>(camera, 56),
    ky = (<f32>2 * load<f32>(camera, 52)) / load<f32>(camera, 60);
  let n = 0;
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      const x = left + i,
        y = top + j;
      const h = mix(((y >> 6) << 16) | (x >> 6), seed);
      const cell = (((y + <i32>(<u32>h >> 6)) & 63) << 6) | ((x + h) & 63);
      const sx = (<f32>x + shifted(mask, load<u32>(dim), cell, load<i32>(dim, 8), load<i32>(dim, 12))) * kx - load<f32>(camera, 48),
        sy = load<f32>(camera, 52) - (<f32>y + shifted(mask, load<u32>(dim, 4), cell, load<i32>(dim, 16), load<i32>(dim, 20))) * ky;
      const dx = fx + load<f32>(camera, 24) * sx + load<f32>(camera, 36) * sy,
        dy = fy + load<f32>(camera, 28) * sx + load<f32>(camera, 40) * sy,
        dz = fz + load<f32>(camera, 32) * sx + load<f32>(camera, 44) * sy;
      const l = <f32>1 / sqrt(dx * dx + dy * dy + dz * dz);
      const r = rays + (<usize>n << 5),
        e = <usize>n << 2;
      store<f32>(r, load<f32>(camera));
      store<f32>(r, load<f32>(camera, 4), 4);
      store<f32>(r, load<f32>(camera, 8), 8);
      store<f32>(r, 0, 12);
      store<f32>(r, dx * l, 16);
      store<f32>(r, dy * l, 20);
      store<f32>(r, dz * l, 24);
      store<f32>(r, 1e30, 28);
      store<i32>(at(batch, stride, PIXEL) + e, n);
      store<i32>(at(batch, stride, CELL) + e, cell);
      store<i32>(at(batch, stride, LABEL) + e, 2);
      store<i32>(at(batch, stride, DEPTH) + e, 0);
      store<f32>(at(batch, stride, TR) + e, 1);
      store<f32>(at(batch, stride, TG) + e, 1);
      store<f32>(at(batch, stride, TB) + e, 1);
      store<f32>(at(batch, stride, DENSITY) + e, 0);
      store<f32>(at(batch, stride, TRAVELLED) + e, 0);
      n++;
    }
}
