// How paths go on from plain opaque surfaces.
import {
  ALPHA,
  CELL,
  CHANCE,
  COVER,
  COVER90,
  DB,
  DENSITY,
  DEPTH,
  DG,
  DR,
  EXTRA,
  F90,
  FB,
  FG,
  FR,
  GAP,
  GX,
  GY,
  GZ,
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
  PASS,
  PIXEL,
  PX,
  PY,
  PZ,
  ROW,
  TB,
  TG,
  TR,
  TRAVELLED,
  VX,
  VY,
  VZ,
  WHOLE,
  add,
  at,
  cosTurn4,
  curve4,
  div,
  dot3,
  move,
  mul,
  shifted4,
  splat,
  sub,
} from './fields';

/** Roulette starts after so many bounces. */
// @ts-ignore: decorator
@inline
const ROULETTE_FROM = 2;

/**
 * Chooses how paths on plain opaque surfaces go on: direction in `lx ly lz`, throughput in `lr lg lb`, density in `ld`, and in
 * `lw` whether they do (1) or end (0). Label and depth are brought forward. `dims`: two dimensions of six words each; `table`: as
 * `curve4` reads it.
 */
export function scatterPlain(
  batch: usize,
  stride: usize,
  count: i32,
  mask: usize,
  dims: usize,
  table: usize,
  lastDepth: i32,
): void {
  const one = splat(1),
    zero = splat(0),
    half = splat(0.5);
  const choiceA = load<u32>(dims),
    choiceB = load<u32>(dims, 4),
    wayA = load<u32>(dims, 24),
    wayB = load<u32>(dims, 28);
  for (let i = 0; i < count; i += 4) {
    const o = <usize>i << 2;
    const depth = v128.load(at(batch, stride, DEPTH) + o);
    const plain = i32x4.eq(
      v128.or(v128.load(at(batch, stride, PASS) + o), v128.load(at(batch, stride, EXTRA) + o)),
      i32x4.splat(0),
    );
    let live = v128.and(plain, i32x4.lt_s(depth, i32x4.splat(lastDepth)));
    if (!v128.any_true(live)) {
      v128.store(at(batch, stride, LW) + o, zero);
      continue;
    }
    const cells = v128.load(at(batch, stride, CELL) + o);
    const choice = shifted4(mask, choiceA, cells, load<i32>(dims, 8), load<i32>(dims, 12)),
      u1 = shifted4(mask, wayA, cells, load<i32>(dims, 32), load<i32>(dims, 36)),
      u2 = shifted4(mask, wayB, cells, load<i32>(dims, 40), load<i32>(dims, 44));
    const x = v128.load(at(batch, stride, NX) + o),
      y = v128.load(at(batch, stride, NY) + o),
      z = v128.load(at(batch, stride, NZ) + o);
    // a frame around the normal (Duff et al. 2017)
    const s = v128.or(one, v128.and(z, i32x4.splat(0x80000000))),
      a0 = div(splat(-1), add(s, z)),
      b0 = mul(mul(x, y), a0);
    const t1x = add(one, mul(mul(s, mul(x, x)), a0)),
      t1y = mul(s, b0),
      t1z = f32x4.neg(mul(s, x)),
      t2x = b0,
      t2y = add(s, mul(mul(y, y), a0)),
      t2z = f32x4.neg(y);
    const fr = v128.load(at(batch, stride, FR) + o),
      fg = v128.load(at(batch, stride, FG) + o),
      fb = v128.load(at(batch, stride, FB) + o),
      f90 = v128.load(at(batch, stride, F90) + o);
    const c = v128.load(at(batch, stride, CHANCE) + o),
      sharp = f32x4.lt(choice, c);
    const r = f32x4.sqrt(u1),
      cos = mul(r, cosTurn4(u2)),
      sin = mul(r, cosTurn4(sub(u2, splat(0.25))));
    // by the cosine
    let wx = cos,
      wy = sin,
      wz = f32x4.sqrt(f32x4.pmax(zero, sub(one, u1)));
    const rest = div(one, sub(one, c));
    const under = curve4(
      table,
      wz,
      v128.load(at(batch, stride, ROW) + o),
      v128.load(at(batch, stride, COVER) + o),
      v128.load(at(batch, stride, COVER90) + o),
    );
    const k = mul(sub(one, under), rest);
    let R = mul(v128.load(at(batch, stride, DR) + o), k),
      G = mul(v128.load(at(batch, stride, DG) + o), k),
      B = mul(v128.load(at(batch, stride, DB) + o), k);
    let density = mul(mul(sub(one, c), wz), splat(0.31830989));
    let label = i32x4.splat(0);
    if (v128.any_true(v128.and(live, sharp))) {
      const ex = v128.load(at(batch, stride, VX) + o),
        ey = v128.load(at(batch, stride, VY) + o),
        ez = v128.load(at(batch, stride, VZ) + o);
      const a = v128.load(at(batch, stride, ALPHA) + o);
      const vx = dot3(t1x, t1y, t1z, ex, ey, ez),
        vy = dot3(t2x, t2y, t2z, ex, ey, ez),
        nv = f32x4.pmax(splat(1e-4), dot3(x, y, z, ex, ey, ez));
      // visible normals of GGX (Heitz 2018, listing 1)
      let hx = mul(a, vx),
        hy = mul(a, vy),
        hz = nv;
      const l = div(one, f32x4.sqrt(dot3(hx, hy, hz, hx, hy, hz)));
      hx = mul(hx, l);
      hy = mul(hy, l);
      hz = mul(hz, l);
      const l2 = add(mul(hx, hx), mul(hy, hy));
      const tilted = f32x4.gt(l2, splat(1e-14)),
        q = div(one, f32x4.sqrt(l2));
      const p1x = v128.bitselect(f32x4.neg(mul(hy, q)), one, tilted),
        p1y = v128.and(mul(hx, q), tilted);
      const p2x = f32x4.neg(mul(hz, p1y)),
        p2y = mul(hz, p1x),
        p2z = sub(mul(hx, p1y), mul(hy, p1x));
      const blend = mul(half, add(one, hz));
      const d1 = cos,
        d2 = add(mul(sub(one, blend), f32x4.sqrt(f32x4.pmax(zero, sub(one, mul(d1, d1))))), mul(blend, sin)),
        d3 = f32x4.sqrt(f32x4.pmax(zero, sub(sub(one, mul(d1, d1)), mul(d2, d2))));
      let mx = mul(a, add(add(mul(d1, p1x), mul(d2, p2x)), mul(d3, hx))),
        my = mul(a, add(add(mul(d1, p1y), mul(d2, p2y)), mul(d3, hy))),
        mz = f32x4.pmax(splat(1e-9), add(mul(d2, p2z), mul(d3, hz)));
      const ml = div(one, f32x4.sqrt(dot3(mx, my, mz, mx, my, mz)));
      mx = mul(mx, ml);
      my = mul(my, ml);
      mz = mul(mz, ml);
      const vh = dot3(vx, vy, nv, mx, my, mz),
        twice = add(vh, vh);
      const sx = sub(mul(twice, mx), vx),
        sy = sub(mul(twice, my), vy),
        sz = sub(mul(twice, mz), nv);
      // a reflection into the surface ends the path
      live = v128.and(live, v128.or(v128.not(sharp), f32x4.gt(sz, splat(1e-6))));
      const a2 = mul(a, a),
        left = sub(one, a2);
      const gv = f32x4.sqrt(add(mul(mul(nv, nv), left), a2)),
        g1 = div(add(nv, nv), add(nv, gv));
      const V = div(half, add(mul(sz, gv), mul(nv, f32x4.sqrt(add(mul(mul(sz, sz), left), a2)))));
      const m1 = sub(one, vh),
        m2 = mul(m1, m1),
        m5 = mul(mul(m2, m2), m1),
        u = sub(one, m5),
        g5 = mul(f90, m5);
      const f = div(mul(mul(mul(V, splat(4)), sz), nv), mul(g1, c)),
        more = mul(v128.load(at(batch, stride, LOST) + o), f);
      R = v128.bitselect(mul(add(mul(fr, u), g5), add(f, mul(fr, more))), R, sharp);
      G = v128.bitselect(mul(add(mul(fg, u), g5), add(f, mul(fg, more))), G, sharp);
      B = v128.bitselect(mul(add(mul(fb, u), g5), add(f, mul(fb, more))), B, sharp);
      const kd = add(add(mul(mx, mx), mul(my, my)), mul(mul(mz, mz), a2));
      density = v128.bitselect(
        div(mul(mul(c, g1), a2), mul(mul(mul(kd, kd), nv), splat(12.566371))),
        density,
        sharp,
      );
      wx = v128.bitselect(sx, wx, sharp);
      wy = v128.bitselect(sy, wy, sharp);
      wz = v128.bitselect(sz, wz, sharp);
      label = v128.and(i32x4.splat(1), sharp);
    }
    R = mul(R, v128.load(at(batch, stride, TR) + o));
    G = mul(G, v128.load(at(batch, stride, TG) + o));
    B = mul(B, v128.load(at(batch, stride, TB) + o));
    const lx = add(add(mul(wx, t1x), mul(wy, t2x)), mul(wz, x)),
      ly = add(add(mul(wx, t1y), mul(wy, t2y)), mul(wz, y)),
      lz = add(add(mul(wx, t1z), mul(wy, t2z)), mul(wz, z));
    const over = dot3(
      lx,
      ly,
      lz,
      v128.load(at(batch, stride, GX) + o),
      v128.load(at(batch, stride, GY) + o),
      v128.load(at(batch, stride, GZ) + o),
    );
    live = v128.and(live, f32x4.gt(over, zero));
    // roulette: what brings little goes on seldom, and for the more
    const next = i32x4.add(depth, i32x4.splat(1));
    const most = f32x4.pmax(R, f32x4.pmax(G, B));
    const asked = v128.and(i32x4.ge_s(next, i32x4.splat(ROULETTE_FROM)), f32x4.lt(most, one));
    if (v128.any_true(v128.and(live, asked))) {
      const stays = v128.bitselect(f32x4.pmax(most, splat(0.05)), one, asked),
        roulette = shifted4(mask, choiceB, cells, load<i32>(dims, 16), load<i32>(dims, 20));
      live = v128.and(live, f32x4.lt(roulette, stays));
      const k = div(one, stays);
      R = mul(R, k);
      G = mul(G, k);
      B = mul(B, k);
    }
    v128.store(at(batch, stride, LX) + o, lx);
    v128.store(at(batch, stride, LY) + o, ly);
    v128.store(at(batch, stride, LZ) + o, lz);
    v128.store(at(batch, stride, LD) + o, density);
    v128.store(at(batch, stride, LW) + o, v128.and(one, live));
    v128.store(at(batch, stride, LR) + o, R);
    v128.store(at(batch, stride, LG) + o, G);
    v128.store(at(batch, stride, LB) + o, B);
    // the host finds label and depth of its own paths as they were
    const was = v128.load(at(batch, stride, LABEL) + o);
    v128.store(at(batch, stride, LABEL) + o, v128.bitselect(label, was, v128.and(live, i32x4.eq(was, i32x4.splat(WHOLE)))));
    v128.store(at(batch, stride, DEPTH) + o, v128.bitselect(next, depth, live));
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
