// Light samples through plain opaque surfaces, and what their shadow rays let through onto the films.
import {
  ALPHA,
  CHANCE,
  COVER,
  COVER90,
  DB,
  DEPTH,
  DG,
  DR,
  EXTRA,
  F90,
  FB,
  FG,
  FR,
  LABEL,
  LB,
  LD,
  LG,
  LOST,
  LR,
  LW,
  LX,
  LY,
  LZ,
  NX,
  NY,
  NZ,
  OX,
  OY,
  OZ,
  PASS,
  PIXEL,
  ROW,
  TB,
  TG,
  TR,
  VX,
  VY,
  VZ,
  WAITING_PIXEL,
  WHOLE,
  add,
  at,
  curve4,
  div,
  dot3,
  mul,
  splat,
  sub,
} from './fields';

/**
 * Puts the light samples of plain opaque surfaces through them and writes shadow rays and what waits for them, from entry
 * `begin` on. `alone`: the walk cannot meet this light. `limit`: depth at which the walk ends. Answers the end.
 */
export function lightPlain(
  batch: usize,
  stride: usize,
  count: i32,
  table: usize,
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
    const fr = v128.load(at(batch, stride, FR) + o),
      fg = v128.load(at(batch, stride, FG) + o),
      fb = v128.load(at(batch, stride, FB) + o),
      f90 = v128.load(at(batch, stride, F90) + o);
    const nS = mul(nl, S);
    const under = curve4(
      table,
      nl,
      v128.load(at(batch, stride, ROW) + o),
      v128.load(at(batch, stride, COVER) + o),
      v128.load(at(batch, stride, COVER90) + o),
    );
    const ed = mul(mul(mul(sub(one, under), inversePi), nS), wd);
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
      if (label == WHOLE) {
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
