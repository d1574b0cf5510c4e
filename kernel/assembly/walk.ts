// Rays down the hierarchy: the nearest hit, and whether anything is in the way.
import { LEAF, PACKET } from './layout';

// @ts-ignore: decorator
@inline
function reciprocal(d: f32): f32 {
  // Directions along an axis stay finite: 0 * infinity would be NaN in the slab test.
  return <f32>1.0 / (abs(d) < <f32>1e-18 ? copysign<f32>(1e-18, d) : d);
}

/**
 * For each set of lanes, the bytes that bring its lanes to the front. With it children are pushed without a branch: how many of
 * four a ray meets cannot be foretold, and a wrong guess costs as much as testing a node.
 */
function fillTable(table: usize): void {
  for (let set = 0; set < 16; set++) {
    let to = table + (<usize>set << 4);
    memory.fill(to, 0, 16);
    for (let lane = 0; lane < 4; lane++) {
      if (!((set >> lane) & 1)) continue;
      store<u32>(to, 0x03020100 + 0x04040404 * lane);
      to += 4;
    }
  }
}

/** Nearest hit of `count` rays. `stack` needs 4 KiB of this thread's own. */
export function closest(root: u32, rays: usize, hits: usize, count: i32, stack: usize): void {
  const table = stack + 64,
    base = stack + 320,
    scratch = stack,
    lanes = i32x4(0, 1, 2, 3);
  fillTable(table);
  // no reference is 0: what lies deepest ends the ray
  store<u32>(base, 0);
  store<f32>(base, -1, 4);
  for (let i = 0; i < count; i++) {
    const dxs = load<f32>(rays, 16),
      dys = load<f32>(rays, 20),
      dzs = load<f32>(rays, 24);
    const ixs = reciprocal(dxs),
      iys = reciprocal(dys),
      izs = reciprocal(dzs);
    const ox = v128.load32_splat(rays),
      oy = v128.load32_splat(rays, 4),
      oz = v128.load32_splat(rays, 8);
    const dx = f32x4.splat(dxs),
      dy = f32x4.splat(dys),
      dz = f32x4.splat(dzs);
    const ix = f32x4.splat(ixs),
      iy = f32x4.splat(iys),
      iz = f32x4.splat(izs);
    const tMin = v128.load32_splat(rays, 12);
    const nx: usize = ixs < 0 ? 16 : 0,
      ny: usize = iys < 0 ? 48 : 32,
      nz: usize = izs < 0 ? 80 : 64;
    const fx: usize = 16 - nx,
      fy: usize = 80 - ny,
      fz: usize = 144 - nz;
    let best = load<f32>(rays, 28),
      bestV = f32x4.splat(best),
      hitU: f32 = 0,
      hitV: f32 = 0,
      id = -1;
    let sp = base + 8,
      cur = root;
    while (true) {
      if (!(cur & LEAF)) {
        const node = <usize>cur;
        const near = f32x4.pmax(
          f32x4.pmax(f32x4.mul(f32x4.sub(v128.load(node + nx), ox), ix), f32x4.mul(f32x4.sub(v128.load(node + ny), oy), iy)),
          f32x4.pmax(f32x4.mul(f32x4.sub(v128.load(node + nz), oz), iz), tMin),
        );
        const far = f32x4.pmin(
          f32x4.pmin(f32x4.mul(f32x4.sub(v128.load(node + fx), ox), ix), f32x4.mul(f32x4.sub(v128.load(node + fy), oy), iy)),
          f32x4.pmin(f32x4.mul(f32x4.sub(v128.load(node + fz), oz), iz), bestV),
        );
        const meets = f32x4.le(near, far);
        const m = i32x4.bitmask(meets);
        if (m) {
          // the nearest is next: bits of a positive float sort as its value does, the lane in the lowest two
          const keys = v128.bitselect(v128.or(v128.andnot(near, i32x4.splat(3)), lanes), i32x4.splat(0x7fffffff), meets);
          let k = i32x4.min_s(keys, v128.shuffle<i32>(keys, keys, 2, 3, 0, 1));
          k = i32x4.min_s(k, v128.shuffle<i32>(k, k, 1, 0, 3, 2));
          const first = i32x4.extract_lane(k, 0) & 3;
          cur = load<u32>(node + (<usize>first << 2), 96);
          // the others as they come; a stack entry is a reference and where its box begins
          const rest = m & ~(1 << first);
          const row = v128.load(table + (<usize>rest << 4));
          const refs = v128.swizzle(v128.load(node, 96), row),
            at = v128.swizzle(near, row);
          v128.store(sp, v128.shuffle<i32>(refs, at, 0, 4, 1, 5));
          v128.store(sp, v128.shuffle<i32>(refs, at, 2, 6, 3, 7), 16);
          sp += <usize>popcnt(rest) << 3;
          continue;
        }
      } else {
        let p = <usize>(cur & 0x7ffffff0);
        for (let e = p + <usize>(cur & 15) * PACKET; p < e; p += PACKET) {
          const nnx = v128.load(p, 144),
            nny = v128.load(p, 160),
            nnz = v128.load(p, 176);
          const cx = f32x4.sub(v128.load(p), ox),
            cy = f32x4.sub(v128.load(p, 16), oy),
            cz = f32x4.sub(v128.load(p, 32), oz);
          const rx = f32x4.sub(f32x4.mul(cy, dz), f32x4.mul(cz, dy)),
            ry = f32x4.sub(f32x4.mul(cz, dx), f32x4.mul(cx, dz)),
            rz = f32x4.sub(f32x4.mul(cx, dy), f32x4.mul(cy, dx));
          const den = f32x4.add(f32x4.add(f32x4.mul(nnx, dx), f32x4.mul(nny, dy)), f32x4.mul(nnz, dz));
          const sign = v128.and(den, i32x4.splat(0x80000000)),
            size = v128.xor(den, sign);
          const U = v128.xor(
            f32x4.add(f32x4.add(f32x4.mul(rx, v128.load(p, 96)), f32x4.mul(ry, v128.load(p, 112))), f32x4.mul(rz, v128.load(p, 128))),
            sign,
          );
          const V = v128.xor(
            f32x4.add(f32x4.add(f32x4.mul(rx, v128.load(p, 48)), f32x4.mul(ry, v128.load(p, 64))), f32x4.mul(rz, v128.load(p, 80))),
            sign,
          );
          const zero = f32x4.splat(0);
          const inside = v128.and(v128.and(f32x4.ge(U, zero), f32x4.ge(V, zero)), f32x4.le(f32x4.add(U, V), size));
          const T = v128.xor(f32x4.add(f32x4.add(f32x4.mul(nnx, cx), f32x4.mul(nny, cy)), f32x4.mul(nnz, cz)), sign);
          let m = i32x4.bitmask(v128.and(inside, v128.and(f32x4.gt(T, f32x4.mul(size, tMin)), f32x4.lt(T, f32x4.mul(size, bestV)))));
          if (!m) continue;
          const rcp = f32x4.div(f32x4.splat(1), size);
          v128.store(scratch, f32x4.mul(T, rcp));
          v128.store(scratch, f32x4.mul(U, rcp), 16);
          v128.store(scratch, f32x4.mul(V, rcp), 32);
          do {
            const c = <usize>ctz(m) << 2;
            m &= m - 1;
            const t = load<f32>(scratch + c);
            if (t < best) {
              best = t;
              hitU = load<f32>(scratch + c, 16);
              hitV = load<f32>(scratch + c, 32);
              id = load<i32>(p + c, 192);
            }
          } while (m);
          bestV = f32x4.splat(best);
        }
      }
      do {
        sp -= 8;
      } while (load<f32>(sp, 4) > best);
      cur = load<u32>(sp);
      if (!cur) break;
    }
    store<f32>(hits, id < 0 ? Infinity : best);
    store<f32>(hits, hitU, 4);
    store<f32>(hits, hitV, 8);
    store<i32>(hits, id, 12);
    rays += 32;
    hits += 16;
  }
}

/** Both kinds of shadow rays. With `linked`, a constant, lanes that hit ask `table`, by the number of their object, whether it casts. */
// @ts-ignore: decorator
@inline
function shadowRays(
  root: u32,
  rays: usize,
  out: usize,
  count: i32,
  clearFrom: i32,
  stack: usize,
  linked: bool,
  objects: usize,
  table: usize,
): void {
  const fronts = stack + 64,
    base = stack + 320;
  fillTable(fronts);
  const clear = i32x4.splat(clearFrom);
  store<u32>(base, 0);
  for (let i = 0; i < count; i++) {
    const dxs = load<f32>(rays, 16),
      dys = load<f32>(rays, 20),
      dzs = load<f32>(rays, 24);
    const ixs = reciprocal(dxs),
      iys = reciprocal(dys),
      izs = reciprocal(dzs);
    const ox = v128.load32_splat(rays),
      oy = v128.load32_splat(rays, 4),
      oz = v128.load32_splat(rays, 8);
    const dx = f32x4.splat(dxs),
      dy = f32x4.splat(dys),
      dz = f32x4.splat(dzs);
    const ix = f32x4.splat(ixs),
      iy = f32x4.splat(iys),
      iz = f32x4.splat(izs);
    const tMin = v128.load32_splat(rays, 12),
      tMax = v128.load32_splat(rays, 28);
    const nx: usize = ixs < 0 ? 16 : 0,
      ny: usize = iys < 0 ? 48 : 32,
      nz: usize = izs < 0 ? 80 : 64;
    const fx: usize = 16 - nx,
      fy: usize = 80 - ny,
      fz: usize = 144 - nz;
    let sp = base + 4,
      cur = root,
      hit: u32 = 0;
    while (true) {
      if (!(cur & LEAF)) {
        const node = <usize>cur;
        const near = f32x4.pmax(
          f32x4.pmax(f32x4.mul(f32x4.sub(v128.load(node + nx), ox), ix), f32x4.mul(f32x4.sub(v128.load(node + ny), oy), iy)),
          f32x4.pmax(f32x4.mul(f32x4.sub(v128.load(node + nz), oz), iz), tMin),
        );
        const far = f32x4.pmin(
          f32x4.pmin(f32x4.mul(f32x4.sub(v128.load(node + fx), ox), ix), f32x4.mul(f32x4.sub(v128.load(node + fy), oy), iy)),
          f32x4.pmin(f32x4.mul(f32x4.sub(v128.load(node + fz), oz), iz), tMax),
        );
        const m = i32x4.bitmask(f32x4.le(near, far));
        if (m) {
          cur = load<u32>(node + (<usize>ctz(m) << 2), 96);
          const rest = m & (m - 1);
          v128.store(sp, v128.swizzle(v128.load(node, 96), v128.load(fronts + (<usize>rest << 4))));
          sp += <usize>popcnt(rest) << 2;
          continue;
        }
      } else {
        let p = <usize>(cur & 0x7ffffff0);
        for (let e = p + <usize>(cur & 15) * PACKET; p < e; p += PACKET) {
          const nnx = v128.load(p, 144),
            nny = v128.load(p, 160),
            nnz = v128.load(p, 176);
          const cx = f32x4.sub(v128.load(p), ox),
            cy = f32x4.sub(v128.load(p, 16), oy),
            cz = f32x4.sub(v128.load(p, 32), oz);
          const rx = f32x4.sub(f32x4.mul(cy, dz), f32x4.mul(cz, dy)),
            ry = f32x4.sub(f32x4.mul(cz, dx), f32x4.mul(cx, dz)),
            rz = f32x4.sub(f32x4.mul(cx, dy), f32x4.mul(cy, dx));
          const den = f32x4.add(f32x4.add(f32x4.mul(nnx, dx), f32x4.mul(nny, dy)), f32x4.mul(nnz, dz));
          const sign = v128.and(den, i32x4.splat(0x80000000)),
            size = v128.xor(den, sign);
          const U = v128.xor(
            f32x4.add(f32x4.add(f32x4.mul(rx, v128.load(p, 96)), f32x4.mul(ry, v128.load(p, 112))), f32x4.mul(rz, v128.load(p, 128))),
            sign,
          );
          const V = v128.xor(
            f32x4.add(f32x4.add(f32x4.mul(rx, v128.load(p, 48)), f32x4.mul(ry, v128.load(p, 64))), f32x4.mul(rz, v128.load(p, 80))),
            sign,
          );
          const zero = f32x4.splat(0);
          const inside = v128.and(v128.and(f32x4.ge(U, zero), f32x4.ge(V, zero)), f32x4.le(f32x4.add(U, V), size));
          const T = v128.xor(f32x4.add(f32x4.add(f32x4.mul(nnx, cx), f32x4.mul(nny, cy)), f32x4.mul(nnz, cz)), sign);
          const within = v128.and(inside, v128.and(f32x4.gt(T, f32x4.mul(size, tMin)), f32x4.lt(T, f32x4.mul(size, tMax))));
          const stops = v128.and(within, i32x4.lt_s(v128.load(p, 192), clear));
          if (linked) {
            for (let m = i32x4.bitmask(stops); m; m &= m - 1) {
              const id = load<u32>(p + (<usize>ctz(m) << 2), 192);
              if (load<u8>(table + <usize>load<u16>(objects + (<usize>id << 1)))) {
                hit = 1;
                break;
              }
            }
            if (hit) break;
          } else if (v128.any_true(stops)) {
            hit = 1;
            break;
          }
        }
        if (hit) break;
      }
      sp -= 4;
      cur = load<u32>(sp);
      if (!cur) break;
    }
    store<u8>(out, hit);
    rays += 32;
    out++;
  }
}

/**
 * One byte a ray: 1 where a triangle with an id below `clearFrom` stands in the way. Triangles from `clearFrom` on are
 * clear (corneas, glass): a shadow ray passes through them.
 */
export function occluded(root: u32, rays: usize, out: usize, count: i32, clearFrom: i32, stack: usize): void {
  shadowRays(root, rays, out, count, clearFrom, stack, false, 0, 0);
}

/** The same, asking only for objects that cast: `objects` is two bytes a triangle, `table` one byte an object. */
export function occludedBy(
  root: u32,
  rays: usize,
  out: usize,
  count: i32,
  clearFrom: i32,
  stack: usize,
  objects: usize,
  table: usize,
): void {
  shadowRays(root, rays, out, count, clearFrom, stack, true, objects, table);
}
