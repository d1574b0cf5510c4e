// Where paths stand: surface points of what they met.
import {
  ALPHA,
  CHANCE,
  COLUMNS,
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
  LOST,
  LX,
  LY,
  MATERIAL,
  NX,
  NY,
  NZ,
  OX,
  OY,
  OZ,
  PASS,
  PIXEL,
  PX,
  PY,
  PZ,
  ROW,
  TRAVELLED,
  TRIANGLE,
  VERTEX,
  VX,
  VY,
  VZ,
  WAITING_PIXEL,
  add,
  at,
  div,
  dot3,
  first2,
  high,
  last2,
  low,
  move,
  mul,
  splat,
  sub,
} from './fields';

/** Lists the paths that met something and may stand, moving their state up; answers how many. The list stands in a field that is free here. */
function gather(batch: usize, stride: usize, count: i32, hits: usize, lastDepth: i32): i32 {
  const list = at(batch, stride, WAITING_PIXEL);
  let n = 0;
  for (let i = 0; i < count; i++) {
    const h = hits + (<usize>i << 4);
    const from = <usize>i << 2,
      to = <usize>n << 2;
    if (load<i32>(h, 12) < 0 || load<i32>(at(batch, stride, DEPTH) + from) > lastDepth) continue;
    store<i32>(list + to, i);
    if (from != to) for (let f = PIXEL; f <= DENSITY; f++) move(batch, stride, f, from, to);
    store<f32>(at(batch, stride, TRAVELLED) + to, load<f32>(at(batch, stride, TRAVELLED) + from) + load<f32>(h));
    n++;
  }
  // four are done at a time: the last one stands in for those that are missing
  for (let k = n; k & 3 && n; k++) store<i32>(list + (<usize>k << 2), load<i32>(list + (<usize>(n - 1) << 2)));
  return n;
}

// @ts-ignore: decorator
@inline
function blend(a: v128, b: v128, c: v128, w: v128, u: v128, v: v128): v128 {
  return add(add(mul(a, w), mul(b, u)), mul(c, v));
}
// @ts-ignore: decorator
@inline
function put(batch: usize, stride: usize, field: i32, o: usize, value: v128): void {
  v128.store(at(batch, stride, field) + o, value);
}

/**
 * Stands every path that met something on its surface point, closing up the ranks; answers how many there are. Plain
 * opaque surfaces are finished; of others EXTRA is 1, the colour at the vertices stands in `dr dg db`, the hit's weights in
 * `lx ly`, and PASS says whether the surface is met from inside: the host finishes them.
 *
 * Four paths at a time: what each needs lies in lines of sixteen bytes, which are turned into lanes.
 * `vertices`: 12 floats each: x y z, normal, colour, each with one to spare. `corners`: for each triangle its three vertices
 * and its material. `materials`: 16 floats each: base r g b, metallic, roughness, F0 r g b, their mean, specular, plain (1), row,
 * alpha, 1 / what the reflection leaves in the mean. `curves`: for each material 32 pairs of A and B over the cosine.
 */
export function stand(
  batch: usize,
  stride: usize,
  count: i32,
  rays: usize,
  hits: usize,
  vertices: usize,
  corners: usize,
  materials: usize,
  curves: usize,
  lastDepth: i32,
): i32 {
  const n = gather(batch, stride, count, hits, lastDepth);
  const list = at(batch, stride, WAITING_PIXEL);
  const one = splat(1),
    zero = splat(0);
  for (let i = 0; i < n; i += 4) {
    const o = <usize>i << 2;
    const i0 = <usize>load<i32>(list + o),
      i1 = <usize>load<i32>(list + o, 4),
      i2 = <usize>load<i32>(list + o, 8),
      i3 = <usize>load<i32>(list + o, 12);
    // hits: t u v id
    const h0 = v128.load(hits + (i0 << 4)),
      h1 = v128.load(hits + (i1 << 4)),
      h2 = v128.load(hits + (i2 << 4)),
      h3 = v128.load(hits + (i3 << 4));
    const hLow = high(h0, h1),
      hHigh = high(h2, h3);
    const u = last2(low(h0, h1), low(h2, h3)),
      v = first2(hLow, hHigh),
      id = last2(hLow, hHigh);
    const w = sub(sub(one, u), v);
    // rays: direction, tMax
    const d0 = v128.load(rays + (i0 << 5), 16),
      d1 = v128.load(rays + (i1 << 5), 16),
      d2 = v128.load(rays + (i2 << 5), 16),
      d3 = v128.load(rays + (i3 << 5), 16);
    const dLow = low(d0, d1),
      dHigh = low(d2, d3);
    const dx = first2(dLow, dHigh),
      dy = last2(dLow, dHigh),
      dz = first2(high(d0, d1), high(d2, d3));
    // corners: vertices a b c, material
    const c0 = corners + (<usize>load<i32>(hits + (i0 << 4), 12) << 4),
      c1 = corners + (<usize>load<i32>(hits + (i1 << 4), 12) << 4),
      c2 = corners + (<usize>load<i32>(hits + (i2 << 4), 12) << 4),
      c3 = corners + (<usize>load<i32>(hits + (i3 << 4), 12) << 4);
    const a0 = vertices + <usize>load<i32>(c0) * VERTEX,
      a1 = vertices + <usize>load<i32>(c1) * VERTEX,
      a2 = vertices + <usize>load<i32>(c2) * VERTEX,
      a3 = vertices + <usize>load<i32>(c3) * VERTEX;
    const b0 = vertices + <usize>load<i32>(c0, 4) * VERTEX,
      b1 = vertices + <usize>load<i32>(c1, 4) * VERTEX,
      b2 = vertices + <usize>load<i32>(c2, 4) * VERTEX,
      b3 = vertices + <usize>load<i32>(c3, 4) * VERTEX;
    const e0 = vertices + <usize>load<i32>(c0, 8) * VERTEX,
      e1 = vertices + <usize>load<i32>(c1, 8) * VERTEX,
      e2 = vertices + <usize>load<i32>(c2, 8) * VERTEX,
      e3 = vertices + <usize>load<i32>(c3, 8) * VERTEX;
    const k0 = load<i32>(c0, 12),
      k1 = load<i32>(c1, 12),
      k2 = load<i32>(c2, 12),
      k3 = load<i32>(c3, 12);
    // positions
    let p0 = v128.load(a0),
      p1 = v128.load(a1),
      p2 = v128.load(a2),
      p3 = v128.load(a3);
    let pLow = low(p0, p1),
      pHigh = low(p2, p3);
    const ax = first2(pLow, pHigh),
      ay = last2(pLow, pHigh),
      az = first2(high(p0, p1), high(p2, p3));
    p0 = v128.load(b0);
    p1 = v128.load(b1);
    p2 = v128.load(b2);
    p3 = v128.load(b3);
    pLow = low(p0, p1);
    pHigh = low(p2, p3);
    const bx = first2(pLow, pHigh),
      by = last2(pLow, pHigh),
      bz = first2(high(p0, p1), high(p2, p3));
    p0 = v128.load(e0);
    p1 = v128.load(e1);
    p2 = v128.load(e2);
    p3 = v128.load(e3);
    pLow = low(p0, p1);
    pHigh = low(p2, p3);
    const cx = first2(pLow, pHigh),
      cy = last2(pLow, pHigh),
      cz = first2(high(p0, p1), high(p2, p3));
    const ux = sub(bx, ax),
      uy = sub(by, ay),
      uz = sub(bz, az),
      wx = sub(cx, ax),
      wy = sub(cy, ay),
      wz = sub(cz, az);
    let gx = sub(mul(uy, wz), mul(uz, wy)),
      gy = sub(mul(uz, wx), mul(ux, wz)),
      gz = sub(mul(ux, wy), mul(uy, wx));
    const inside = f32x4.gt(dot3(gx, gy, gz, dx, dy, dz), zero);
    const gl = div(v128.bitselect(splat(-1), one, inside), f32x4.sqrt(dot3(gx, gy, gz, gx, gy, gz)));
    gx = mul(gx, gl);
    gy = mul(gy, gl);
    gz = mul(gz, gl);
    // positions are taken from the triangle, which is more exact than along the ray
    const x = blend(ax, bx, cx, w, u, v),
      y = blend(ay, by, cy, w, u, v),
      z = blend(az, bz, cz, w, u, v);
    const gap = add(splat(2e-5), mul(splat(5e-7), f32x4.pmax(f32x4.abs(x), f32x4.pmax(f32x4.abs(y), f32x4.abs(z)))));
    put(batch, stride, PX, o, x);
    put(batch, stride, PY, o, y);
    put(batch, stride, PZ, o, z);
    put(batch, stride, GX, o, gx);
    put(batch, stride, GY, o, gy);
    put(batch, stride, GZ, o, gz);
    put(batch, stride, VX, o, f32x4.neg(dx));
    put(batch, stride, VY, o, f32x4.neg(dy));
    put(batch, stride, VZ, o, f32x4.neg(dz));
    put(batch, stride, GAP, o, gap);
    put(batch, stride, TRIANGLE, o, id);
    put(batch, stride, MATERIAL, o, i32x4(k0, k1, k2, k3));
    // normals
    p0 = v128.load(a0, 16);
    p1 = v128.load(a1, 16);
    p2 = v128.load(a2, 16);
    p3 = v128.load(a3, 16);
    pLow = low(p0, p1);
    pHigh = low(p2, p3);
    const nax = first2(pLow, pHigh),
      nay = last2(pLow, pHigh),
      naz = first2(high(p0, p1), high(p2, p3));
    p0 = v128.load(b0, 16);
    p1 = v128.load(b1, 16);
    p2 = v128.load(b2, 16);
    p3 = v128.load(b3, 16);
    pLow = low(p0, p1);
    pHigh = low(p2, p3);
    const nbx = first2(pLow, pHigh),
      nby = last2(pLow, pHigh),
      nbz = first2(high(p0, p1), high(p2, p3));
    p0 = v128.load(e0, 16);
    p1 = v128.load(e1, 16);
    p2 = v128.load(e2, 16);
    p3 = v128.load(e3, 16);
    pLow = low(p0, p1);
    pHigh = low(p2, p3);
    const ncx = first2(pLow, pHigh),
      ncy = last2(pLow, pHigh),
      ncz = first2(high(p0, p1), high(p2, p3));
    let nx = blend(nax, nbx, ncx, w, u, v),
      ny = blend(nay, nby, ncy, w, u, v),
      nz = blend(naz, nbz, ncz, w, u, v);
    // a shading normal that turns away from its own triangle is not believed
    const flip = v128.bitselect(splat(-1), one, f32x4.lt(dot3(nx, ny, nz, gx, gy, gz), zero));
    const nl = div(flip, f32x4.sqrt(dot3(nx, ny, nz, nx, ny, nz)));
    nx = mul(nx, nl);
    ny = mul(ny, nl);
    nz = mul(nz, nl);
    // Hanika 2021, "Hacking the Shadow Terminator"
    const sa = mul(mul(f32x4.pmin(zero, mul(dot3(sub(x, ax), sub(y, ay), sub(z, az), nax, nay, naz), flip)), flip), w),
      sb = mul(mul(f32x4.pmin(zero, mul(dot3(sub(x, bx), sub(y, by), sub(z, bz), nbx, nby, nbz), flip)), flip), u),
      sc = mul(mul(f32x4.pmin(zero, mul(dot3(sub(x, cx), sub(y, cy), sub(z, cz), ncx, ncy, ncz), flip)), flip), v);
    put(batch, stride, OX, o, add(sub(x, blend(nax, nbx, ncx, sa, sb, sc)), mul(gx, gap)));
    put(batch, stride, OY, o, add(sub(y, blend(nay, nby, ncy, sa, sb, sc)), mul(gy, gap)));
    put(batch, stride, OZ, o, add(sub(z, blend(naz, nbz, ncz, sa, sb, sc)), mul(gz, gap)));
    // colours; each corner's is weighed before lanes are made
    const m0 = materials + (<usize>k0 << 6),
      m1 = materials + (<usize>k1 << 6),
      m2 = materials + (<usize>k2 << 6),
      m3 = materials + (<usize>k3 << 6);
    p0 = v128.load(m0);
    p1 = v128.load(m1);
    p2 = v128.load(m2);
    p3 = v128.load(m3);
    const metallic = last2(high(p0, p1), high(p2, p3));
    p0 = mul(p0, blend(v128.load(a0, 32), v128.load(b0, 32), v128.load(e0, 32), lane(w, 0), lane(u, 0), lane(v, 0)));
    p1 = mul(p1, blend(v128.load(a1, 32), v128.load(b1, 32), v128.load(e1, 32), lane(w, 1), lane(u, 1), lane(v, 1)));
    p2 = mul(p2, blend(v128.load(a2, 32), v128.load(b2, 32), v128.load(e2, 32), lane(w, 2), lane(u, 2), lane(v, 2)));
    p3 = mul(p3, blend(v128.load(a3, 32), v128.load(b3, 32), v128.load(e3, 32), lane(w, 3), lane(u, 3), lane(v, 3)));
    pLow = low(p0, p1);
    pHigh = low(p2, p3);
    const red = first2(pLow, pHigh),
      green = last2(pLow, pHigh),
      blue = first2(high(p0, p1), high(p2, p3));
    // mean F0, specular, plain, row
    p0 = v128.load(m0, 32);
    p1 = v128.load(m1, 32);
    p2 = v128.load(m2, 32);
    p3 = v128.load(m3, 32);
    pLow = low(p0, p1);
    pHigh = low(p2, p3);
    const f0Mean = first2(pLow, pHigh),
      specular = last2(pLow, pHigh);
    pLow = high(p0, p1);
    pHigh = high(p2, p3);
    const plain = f32x4.ne(first2(pLow, pHigh), zero);
    put(batch, stride, EXTRA, o, v128.andnot(i32x4.splat(1), plain));
    put(batch, stride, PASS, o, v128.andnot(v128.and(i32x4.splat(1), inside), plain));
    if (!v128.all_true<i32>(plain)) {
      put(batch, stride, LX, o, u);
      put(batch, stride, LY, o, v);
    }
    if (!v128.any_true(plain)) {
      put(batch, stride, NX, o, nx);
      put(batch, stride, NY, o, ny);
      put(batch, stride, NZ, o, nz);
      put(batch, stride, DR, o, red);
      put(batch, stride, DG, o, green);
      put(batch, stride, DB, o, blue);
      continue;
    }
    put(batch, stride, ROW, o, i32x4.mul(i32x4.trunc_sat_f32x4_s(last2(pLow, pHigh)), i32x4.splat(COLUMNS)));
    let towards = f32x4.neg(dot3(nx, ny, nz, dx, dy, dz));
    const away = v128.andnot(plain, f32x4.gt(towards, splat(1e-3)));
    nx = v128.bitselect(gx, nx, away);
    ny = v128.bitselect(gy, ny, away);
    nz = v128.bitselect(gz, nz, away);
    put(batch, stride, NX, o, nx);
    put(batch, stride, NY, o, ny);
    put(batch, stride, NZ, o, nz);
    towards = v128.bitselect(f32x4.neg(dot3(gx, gy, gz, dx, dy, dz)), towards, away);
    // what the reflection takes at this angle: A and B of each material's own curve
    const column = mul(f32x4.pmin(one, f32x4.pmax(zero, towards)), splat(<f32>(COLUMNS - 1)));
    const j = i32x4.min_s(i32x4.trunc_sat_f32x4_s(column), i32x4.splat(COLUMNS - 2)),
      f = sub(column, f32x4.convert_i32x4_s(j));
    p0 = v128.load(curves + (<usize>k0 << 8) + (<usize>i32x4.extract_lane(j, 0) << 3));
    p1 = v128.load(curves + (<usize>k1 << 8) + (<usize>i32x4.extract_lane(j, 1) << 3));
    p2 = v128.load(curves + (<usize>k2 << 8) + (<usize>i32x4.extract_lane(j, 2) << 3));
    p3 = v128.load(curves + (<usize>k3 << 8) + (<usize>i32x4.extract_lane(j, 3) << 3));
    pLow = low(p0, p1);
    pHigh = low(p2, p3);
    let ea = first2(pLow, pHigh),
      eb = last2(pLow, pHigh);
    pLow = high(p0, p1);
    pHigh = high(p2, p3);
    ea = add(ea, mul(sub(first2(pLow, pHigh), ea), f));
    eb = add(eb, mul(sub(last2(pLow, pHigh), eb), f));
    // roughness, F0 r g b
    p0 = v128.load(m0, 16);
    p1 = v128.load(m1, 16);
    p2 = v128.load(m2, 16);
    p3 = v128.load(m3, 16);
    pLow = high(p0, p1);
    pHigh = high(p2, p3);
    const solid = sub(one, metallic);
    const fr = add(mul(last2(low(p0, p1), low(p2, p3)), solid), mul(red, metallic)),
      fg = add(mul(first2(pLow, pHigh), solid), mul(green, metallic)),
      fb = add(mul(last2(pLow, pHigh), solid), mul(blue, metallic));
    // alpha, 1 / what is left in the mean
    pLow = low(v128.load(m0, 48), v128.load(m1, 48));
    pHigh = low(v128.load(m2, 48), v128.load(m3, 48));
    put(batch, stride, ALPHA, o, first2(pLow, pHigh));
    const leaves = mul(mul(sub(sub(one, mul(f0Mean, ea)), mul(specular, eb)), last2(pLow, pHigh)), solid);
    const f90 = add(mul(specular, solid), metallic);
    put(batch, stride, DR, o, mul(red, v128.bitselect(leaves, one, plain)));
    put(batch, stride, DG, o, mul(green, v128.bitselect(leaves, one, plain)));
    put(batch, stride, DB, o, mul(blue, v128.bitselect(leaves, one, plain)));
    put(batch, stride, FR, o, fr);
    put(batch, stride, FG, o, fg);
    put(batch, stride, FB, o, fb);
    put(batch, stride, F90, o, f90);
    put(batch, stride, COVER, o, f0Mean);
    put(batch, stride, COVER90, o, specular);
    put(batch, stride, LOST, o, sub(div(one, f32x4.pmax(splat(0.05), add(ea, eb))), one));
    const sharp = add(mul(add(add(fr, fg), fb), ea), mul(mul(splat(3), f90), eb)),
      broad = mul(add(add(red, green), blue), solid);
    const chance = f32x4.pmin(splat(0.9), f32x4.pmax(splat(0.1), div(sharp, add(sharp, broad))));
    put(batch, stride, CHANCE, o, v128.bitselect(one, chance, f32x4.le(broad, zero)));
  }
  return n;
}

/** One lane in all four. */
// @ts-ignore: decorator
@inline
function lane(a: v128, k: i32): v128 {
  if (k == 0) return v128.shuffle<f32>(a, a, 0, 0, 0, 0);
  if (k == 1) return v128.shuffle<f32>(a, a, 1, 1, 1, 1);
  if (k == 2) return v128.shuffle<f32>(a, a, 2, 2, 2, 2);
  return v128.shuffle<f32>(a, a, 3, 3, 3, 3);
}
