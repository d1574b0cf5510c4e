// Rectangle lights: samples towards them, and rays of the walk that meet them.
import {
  CELL,
  DENSITY,
  DEPTH,
  EXTRA,
  FAR2,
  LABEL,
  LB,
  LD,
  LG,
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
  SMALL,
  TB,
  TG,
  TR,
  acos4,
  add,
  at,
  cosTurn4,
  div,
  dot3,
  mul,
  shifted4,
  splat,
  sub,
} from './fields';

/**
 * One sample of a one-sided rectangle for every surface point: by solid angle (Ureña, Fajardo, King 2013), by area where it
 * is small or far. Plain surfaces that turn away from all of it take none. `light`: corner, then unit axes x y z, lengths of x
 * and y (14 floats). `dim`: words a b, then ax ay bx by.
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
    zero = splat(0),
    half = splat(0.5);
  const area = mul(lx, ly),
    reach = mul(splat(FAR2 * <f32>0.25), add(mul(lx, lx), mul(ly, ly)));
  for (let i = 0; i < count; i += 4) {
    const o = <usize>i << 2;
    const dx = sub(sx, v128.load(at(batch, stride, PX) + o)),
      dy = sub(sy, v128.load(at(batch, stride, PY) + o)),
      dz = sub(sz, v128.load(at(batch, stride, PZ) + o));
    const z0 = dot3(dx, dy, dz, zx, zy, zz);
    // the point sees the front when the plane's normal faces it; THROUGH (2) takes no sample
    let ok = v128.and(f32x4.lt(z0, splat(-1e-6)), i32x4.ne(v128.load(at(batch, stride, PASS) + o), i32x4.splat(2)));
    const x0 = dot3(dx, dy, dz, xx, xy, xz),
      y0 = dot3(dx, dy, dz, yx, yy, yz);
    const x1 = add(x0, lx),
      y1 = add(y0, ly);
    // the cosine is largest at a corner; fibres are lit from behind too
    const nx = v128.load(at(batch, stride, NX) + o),
      ny = v128.load(at(batch, stride, NY) + o),
      nz = v128.load(at(batch, stride, NZ) + o);
    const alongX = dot3(nx, ny, nz, xx, xy, xz),
      alongY = dot3(nx, ny, nz, yx, yy, yz),
      alongZ = dot3(nx, ny, nz, zx, zy, zz);
    const most = add(
      add(f32x4.pmax(mul(x0, alongX), mul(x1, alongX)), f32x4.pmax(mul(y0, alongY), mul(y1, alongY))),
      mul(z0, alongZ),
    );
    ok = v128.and(ok, v128.or(f32x4.gt(most, zero), i32x4.ne(v128.load(at(batch, stride, EXTRA) + o), i32x4.splat(0))));
    if (!v128.any_true(ok)) {
      v128.store(at(batch, stride, LW) + o, zero);
      continue;
    }
    const z2 = mul(z0, z0);
    const cells = v128.load(at(batch, stride, CELL) + o);
    const u = shifted4(mask, a, cells, ax, ay),
      v = shifted4(mask, b, cells, bx, by);
    let xu = add(x0, mul(u, lx)),
      yv = add(y0, mul(v, ly)),
      S = zero;
    const mx = add(x0, mul(half, lx)),
      my = add(y0, mul(half, ly));
    let byArea = f32x4.gt(add(add(mul(mx, mx), mul(my, my)), z2), reach);
    if (v128.any_true(v128.andnot(ok, byArea))) {
      const b0 = div(f32x4.neg(y0), f32x4.sqrt(add(z2, mul(y0, y0)))),
        n1 = div(x1, f32x4.sqrt(add(z2, mul(x1, x1)))),
        b1 = div(y1, f32x4.sqrt(add(z2, mul(y1, y1)))),
        n3 = div(f32x4.neg(x0), f32x4.sqrt(add(z2, mul(x0, x0))));
      const g0 = acos4(f32x4.neg(mul(b0, n1))),
        g1 = acos4(f32x4.neg(mul(n1, b1))),
        g2 = acos4(f32x4.neg(mul(b1, n3))),
        g3 = acos4(f32x4.neg(mul(n3, b0)));
      const k = sub(splat(6.2831855), add(g2, g3));
      S = sub(add(g0, g1), k);
      byArea = v128.or(byArea, v128.not(f32x4.ge(S, splat(SMALL))));
      const turn = mul(add(mul(u, S), k), splat(0.15915494));
      const sin = cosTurn4(sub(turn, splat(0.25)));
      const fu = div(sub(mul(cosTurn4(turn), b0), b1), sin);
      let cu = div(one, f32x4.sqrt(add(mul(fu, fu), mul(b0, b0))));
      cu = f32x4.pmin(cu, splat(0.9999999));
      cu = v128.xor(cu, v128.and(fu, i32x4.splat(0x80000000)));
      let xs = div(f32x4.neg(mul(cu, z0)), f32x4.sqrt(f32x4.pmax(splat(1e-14), sub(one, mul(cu, cu)))));
      xs = f32x4.pmin(x1, f32x4.pmax(x0, xs));
      const d2 = add(mul(xs, xs), z2);
      const h0 = div(y0, f32x4.sqrt(add(d2, mul(y0, y0)))),
        h1 = div(y1, f32x4.sqrt(add(d2, mul(y1, y1))));
      const hv = add(h0, mul(v, sub(h1, h0))),
        hv2 = mul(hv, hv);
      let ys = div(mul(hv, f32x4.sqrt(d2)), f32x4.sqrt(f32x4.pmax(splat(1e-7), sub(one, hv2))));
      ys = f32x4.pmin(y1, f32x4.pmax(y0, ys));
      xu = v128.bitselect(xu, xs, byArea);
      yv = v128.bitselect(yv, ys, byArea);
    }
    const dd = add(add(mul(xu, xu), mul(yv, yv)), z2),
      d = f32x4.sqrt(dd),
      inverse = div(one, d);
    const even = mul(mul(area, f32x4.neg(z0)), mul(inverse, mul(inverse, inverse)));
    const wx = mul(add(add(mul(xu, xx), mul(yv, yx)), mul(z0, zx)), inverse),
      wy = mul(add(add(mul(xu, xy), mul(yv, yy)), mul(z0, zy)), inverse),
      wz = mul(add(add(mul(xu, xz), mul(yv, yz)), mul(z0, zz)), inverse);
    v128.store(at(batch, stride, LX) + o, wx);
    v128.store(at(batch, stride, LY) + o, wy);
    v128.store(at(batch, stride, LZ) + o, wz);
    v128.store(at(batch, stride, LD) + o, d);
    v128.store(at(batch, stride, LW) + o, v128.and(ok, v128.bitselect(even, S, byArea)));
    v128.store(at(batch, stride, LR) + o, one);
    v128.store(at(batch, stride, LG) + o, one);
    v128.store(at(batch, stride, LB) + o, one);
  }
}

/**
 * One over the density of a sample of the rectangle towards a point `t` away, as `aimRectangle` has it. `facing`: cosine at the
 * light, negative.
 */
function spread(light: usize, px: f32, py: f32, pz: f32, facing: f32, t: f32): f32 {
  const lx = load<f32>(light, 48),
    ly = load<f32>(light, 52);
  const dx = load<f32>(light) - px,
    dy = load<f32>(light, 4) - py,
    dz = load<f32>(light, 8) - pz;
  const z0 = dx * load<f32>(light, 36) + dy * load<f32>(light, 40) + dz * load<f32>(light, 44);
  const x0 = dx * load<f32>(light, 12) + dy * load<f32>(light, 16) + dz * load<f32>(light, 20),
    y0 = dx * load<f32>(light, 24) + dy * load<f32>(light, 28) + dz * load<f32>(light, 32);
  const z2 = z0 * z0,
    even = (lx * ly * -facing) / (t * t);
  const mx = x0 + <f32>0.5 * lx,
    my = y0 + <f32>0.5 * ly;
  if (mx * mx + my * my + z2 > FAR2 * <f32>0.25 * (lx * lx + ly * ly)) return even;
  const x1 = x0 + lx,
    y1 = y0 + ly;
  const b0 = -y0 / sqrt(z2 + y0 * y0),
    n1 = x1 / sqrt(z2 + x1 * x1),
    b1 = y1 / sqrt(z2 + y1 * y1),
    n3 = -x0 / sqrt(z2 + x0 * x0);
  let v = splat(-b0 * n1);
  v = f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(v, 1, -n1 * b1), 2, -b1 * n3), 3, -n3 * b0);
  const g = acos4(v);
  const S = f32x4.extract_lane(g, 0) + f32x4.extract_lane(g, 1) + f32x4.extract_lane(g, 2) + f32x4.extract_lane(g, 3) - <f32>6.2831855;
  return S >= SMALL ? S : even;
}

/** Bytes of four rectangles side by side: the fourteen floats of each, lane by lane, then the slot of each. */
// @ts-ignore: decorator
@inline
const GROUP: usize = 240;

/**
 * The walk's own rays that meet the front of a rectangle before anything else, weighed against its samples. Rectangles are
 * asked four at a time. `groups`: `rectangles` / 4 of them, rounded up; `lights`: 64 bytes each by slot; `film`: films of `size`
 * floats by slot, their second planes `second` floats in. `left`: two bytes a path, the object that it left last. At byte 56 of a light stands 0, or where
 * one byte in 64 says of each object whether it lights that.
 */
export function meetRectangles(
  batch: usize,
  stride: usize,
  count: i32,
  groups: usize,
  rectangles: i32,
  lights: usize,
  rays: usize,
  hits: usize,
  film: usize,
  size: i32,
  second: i32,
  bounces: i32,
  left: usize,
): void {
  const end = groups + <usize>((rectangles + 3) >> 2) * GROUP;
  const zero = splat(0);
  for (let i = 0; i < count; i++) {
    const e = <usize>i << 2;
    const p = load<f32>(at(batch, stride, DENSITY) + e);
    if (p == 0 || load<i32>(at(batch, stride, DEPTH) + e) > bounces) continue;
    const r = rays + (<usize>i << 5);
    const ox = v128.load32_splat(r),
      oy = v128.load32_splat(r, 4),
      oz = v128.load32_splat(r, 8);
    const dx = v128.load32_splat(r, 16),
      dy = v128.load32_splat(r, 20),
      dz = v128.load32_splat(r, 24);
    const most = v128.load32_splat(hits + (<usize>i << 4));
    for (let g = groups; g < end; g += GROUP) {
      const zx = v128.load(g, 144),
        zy = v128.load(g, 160),
        zz = v128.load(g, 176);
      const qx = sub(v128.load(g), ox),
        qy = sub(v128.load(g, 16), oy),
        qz = sub(v128.load(g, 32), oz);
      const facing = dot3(dx, dy, dz, zx, zy, zz),
        height = dot3(qx, qy, qz, zx, zy, zz),
        t = div(height, facing);
      const seen = v128.and(
        v128.and(f32x4.lt(facing, zero), f32x4.lt(height, splat(-1e-6))),
        v128.and(f32x4.gt(t, zero), f32x4.lt(t, most)),
      );
      if (!v128.any_true(seen)) continue;
      const hx = sub(mul(dx, t), qx),
        hy = sub(mul(dy, t), qy),
        hz = sub(mul(dz, t), qz);
      const u = dot3(hx, hy, hz, v128.load(g, 48), v128.load(g, 64), v128.load(g, 80)),
        v = dot3(hx, hy, hz, v128.load(g, 96), v128.load(g, 112), v128.load(g, 128));
      const within = v128.and(
        v128.and(f32x4.ge(u, zero), f32x4.le(u, v128.load(g, 192))),
        v128.and(f32x4.ge(v, zero), f32x4.le(v, v128.load(g, 208))),
      );
      for (let lanes = i32x4.bitmask(v128.and(seen, within)); lanes; lanes &= lanes - 1) {
        const slot = load<i32>(g + (<usize>ctz(lanes) << 2), 224);
        const light = lights + (<usize>slot << 6);
        // a light that does not light all is asked about the object that the path left
        const lit = load<u32>(light, 56);
        if (lit && !load<u8>(<usize>lit + (<usize>load<u16>(left + (<usize>i << 1)) << 6))) continue;
        const nx = load<f32>(r, 16),
          ny = load<f32>(r, 20),
          nz = load<f32>(r, 24);
        const cos = nx * load<f32>(light, 36) + ny * load<f32>(light, 40) + nz * load<f32>(light, 44);
        const px = load<f32>(r),
          py = load<f32>(r, 4),
          pz = load<f32>(r, 8);
        const far =
          ((load<f32>(light) - px) * load<f32>(light, 36) +
            (load<f32>(light, 4) - py) * load<f32>(light, 40) +
            (load<f32>(light, 8) - pz) * load<f32>(light, 44)) /
          cos;
        const ps = p * spread(light, px, py, pz, cos, far);
        const weight = (ps * ps) / (<f32>1 + ps * ps);
        const f =
          film +
          (<usize>(slot * size + load<i32>(at(batch, stride, LABEL) + e) * second) << 2) +
          <usize>load<i32>(at(batch, stride, PIXEL) + e) * 12;
        store<f32>(f, load<f32>(f) + load<f32>(at(batch, stride, TR) + e) * weight);
        store<f32>(f, load<f32>(f, 4) + load<f32>(at(batch, stride, TG) + e) * weight, 4);
        store<f32>(f, load<f32>(f, 8) + load<f32>(at(batch, stride, TB) + e) * weight, 8);
      }
    }
  }
}
