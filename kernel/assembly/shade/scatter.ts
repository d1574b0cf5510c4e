// How paths go on from plain opaque surfaces.
import { ALPHA, CELL, CHANCE, COLUMNS, DB, DENSITY, DEPTH, DG, DR, EXTRA, F90, FB, FG, FR, GAP, GX, GY, GZ, LABEL, LB, LD, LG, LOST, LR, LW, LX, LY, LZ, NX, NY, NZ, PASS, PI, PIXEL, PX, PY, PZ, ROW, TB, TG, TR, TRAVELLED, VX, VY, VZ, at, cosTurn, lookUp, move, shifted } from './fields';

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
