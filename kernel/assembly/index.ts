// Rays against triangles: a 4-wide bounding volume hierarchy with 4-triangle packets in SIMD.
//
// The module owns no memory: every address comes from the host (see ../src/wasm.ts), so that several threads can
// walk one hierarchy in one shared memory, each with its own block of rays and its own stack.
//
// Node, 128 bytes:   f32x4 minX@0 maxX@16 minY@32 maxY@48 minZ@64 maxZ@80, u32 child[4]@96
//   child with high bit clear = address of a node; high bit set = leaf: packet address | packet count (1..15)
// Packet, 208 bytes: f32x4 v0.xyz@0, e1.xyz@48 (v0-v1), e2.xyz@96 (v2-v0), n.xyz@144 (e2 x e1), i32x4 triangle id@192
// Ray, 32 bytes:     ox oy oz tMin dx dy dz tMax
// Hit, 16 bytes:     t u v id (i32, -1 = nothing)

const LEAF: u32 = 0x80000000;
const FAR: f32 = 1e30;
const BINS: i32 = 16;
const NODE: usize = 128;
const PACKET: usize = 208;
/** Deepest level at which the surface area heuristic still chooses; below it, halves bound the recursion. */
const MAX_DEPTH: i32 = 60;

// ------------------------------------------------------------------ build

// Triangle record, 32 bytes: v128 lower corner (lane 3 = triangle id), v128 upper corner. The records themselves are
// partitioned, so that every pass over a range reads memory in order.
let records: usize = 0;
let binBoxes: usize = 0;
let binCounts: usize = 0;
let sweep: usize = 0;
// Binary node, 48 bytes: v128 lower, v128 upper, i32 a, i32 b. Inner: children a, b. Leaf: first a, -count b.
let binary: usize = 0;
let binaryCount: i32 = 0;
let positions: usize = 0;
let indices: usize = 0;
let nodeTop: usize = 0;
let packetTop: usize = 0;
let firstId: i32 = 0;
let nodes: i32 = 0;
let packets: i32 = 0;

export function nodeCount(): i32 {
  return nodes;
}
export function packetCount(): i32 {
  return packets;
}
/** Where the last build left its root's box (lower x y z, then 16 bytes on the upper), an address. */
export function rootBox(): usize {
  return binary;
}
/** Bytes of scratch memory that a build of this many triangles needs. */
export function scratchBytes(triangles: i32): usize {
  return <usize>triangles * (32 + 96) + 3 * BINS * 36 + BINS * 8 + 256;
}

// @ts-ignore: decorator
@inline
function halfArea(lower: v128, upper: v128): f32 {
  const d = f32x4.sub(upper, lower);
  const x = f32x4.extract_lane(d, 0),
    y = f32x4.extract_lane(d, 1),
    z = f32x4.extract_lane(d, 2);
  return x * y + y * z + z * x;
}

// @ts-ignore: decorator
@inline
function packetsFor(triangles: i32): i32 {
  return (triangles + 3) >> 2;
}

// @ts-ignore: decorator
@inline
function growBin(bin: i32, lower: v128, upper: v128): void {
  const box = binBoxes + (<usize>bin << 5);
  v128.store(box, f32x4.pmin(v128.load(box), lower));
  v128.store(box, f32x4.pmax(v128.load(box, 16), upper), 16);
  const count = binCounts + (<usize>bin << 2);
  store<i32>(count, load<i32>(count) + 1);
}

// @ts-ignore: decorator
@inline
function clearBins(): void {
  memory.fill(binCounts, 0, 3 * BINS * 4);
  for (let b = binBoxes; b < binCounts; b += 32) {
    v128.store(b, f32x4.splat(FAR));
    v128.store(b, f32x4.splat(-FAR), 16);
  }
}

let bestCost: f32 = 0;
let bestAxis: i32 = -1;
let bestBin: i32 = 0;

/** Sweeps the filled bins for the cheapest split by area x packets (Wald 2007, binned surface area heuristic). */
function chooseSplit(): void {
  bestCost = f32.MAX_VALUE;
  bestAxis = -1;
  bestBin = 0;
  for (let axis = 0; axis < 3; axis++) {
    const boxes = binBoxes + <usize>(axis * BINS) * 32;
    const counts = binCounts + <usize>(axis * BINS) * 4;
    let lower = f32x4.splat(FAR),
      upper = f32x4.splat(-FAR),
      count = 0;
    for (let b = BINS - 1; b > 0; b--) {
      const box = boxes + (<usize>b << 5);
      lower = f32x4.pmin(lower, v128.load(box));
      upper = f32x4.pmax(upper, v128.load(box, 16));
      count += load<i32>(counts + (<usize>b << 2));
      const entry = sweep + (<usize>b << 3);
      store<f32>(entry, count > 0 ? halfArea(lower, upper) : 0);
      store<i32>(entry, count, 4);
    }
    lower = f32x4.splat(FAR);
    upper = f32x4.splat(-FAR);
    count = 0;
    for (let b = 0; b < BINS - 1; b++) {
      const box = boxes + (<usize>b << 5);
      lower = f32x4.pmin(lower, v128.load(box));
      upper = f32x4.pmax(upper, v128.load(box, 16));
      count += load<i32>(counts + (<usize>b << 2));
      const entry = sweep + (<usize>(b + 1) << 3);
      const rest = load<i32>(entry, 4);
      if (count == 0 || rest == 0) continue;
      const cost = halfArea(lower, upper) * <f32>packetsFor(count) + load<f32>(entry) * <f32>packetsFor(rest);
      if (cost < bestCost) {
        bestCost = cost;
        bestAxis = axis;
        bestBin = b;
      }
    }
  }
}

function buildBinary(first: i32, last: i32, depth: i32): i32 {
  const id = binaryCount++;
  const me = binary + <usize>id * 48;
  const begin = records + (<usize>first << 5),
    end = records + (<usize>last << 5);
  let lower = f32x4.splat(FAR),
    upper = f32x4.splat(-FAR),
    centreLow = lower,
    centreHigh = upper;
  for (let p = begin; p < end; p += 32) {
    const a = v128.load(p),
      b = v128.load(p, 16),
      c = f32x4.add(a, b);
    lower = f32x4.pmin(lower, a);
    upper = f32x4.pmax(upper, b);
    centreLow = f32x4.pmin(centreLow, c);
    centreHigh = f32x4.pmax(centreHigh, c);
  }
  v128.store(me, lower);
  v128.store(me, upper, 16);
  const count = last - first;
  if (count <= 4) {
    store<i32>(me, first, 32);
    store<i32>(me, -count, 36);
    return id;
  }
  // An axis without extent gets scale 0: all in bin 0, which no split ever chooses.
  const extent = f32x4.sub(centreHigh, centreLow);
  const scale = v128.and(f32x4.div(f32x4.splat(<f32>BINS * 0.999), extent), f32x4.gt(extent, f32x4.splat(1e-20)));
  clearBins();
  for (let p = begin; p < end; p += 32) {
    const a = v128.load(p),
      b = v128.load(p, 16);
    const q = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(f32x4.add(a, b), centreLow), scale));
    growBin(i32x4.extract_lane(q, 0), a, b);
    growBin(i32x4.extract_lane(q, 1) + BINS, a, b);
    growBin(i32x4.extract_lane(q, 2) + 2 * BINS, a, b);
  }
  chooseSplit();
  const area = halfArea(lower, upper);
  if (count <= 16 && (bestAxis < 0 || <f32>packetsFor(count) * area <= area + bestCost)) {
    store<i32>(me, first, 32);
    store<i32>(me, -count, 36);
    return id;
  }
  let middle = (first + last) >> 1;
  if (bestAxis >= 0 && depth < MAX_DEPTH) {
    const axis = bestAxis,
      bin = bestBin;
    let i = begin,
      j = end - 32;
    while (i <= j) {
      const a = v128.load(i),
        b = v128.load(i, 16);
      const q = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(f32x4.add(a, b), centreLow), scale));
      const k = axis == 0 ? i32x4.extract_lane(q, 0) : axis == 1 ? i32x4.extract_lane(q, 1) : i32x4.extract_lane(q, 2);
      if (k <= bin) {
        i += 32;
      } else {
        v128.store(i, v128.load(j));
        v128.store(i, v128.load(j, 16), 16);
        v128.store(j, a);
        v128.store(j, b, 16);
        j -= 32;
      }
    }
    middle = <i32>((i - records) >> 5);
  }
  const left = buildBinary(first, middle, depth + 1),
    right = buildBinary(middle, last, depth + 1);
  store<i32>(me, left, 32);
  store<i32>(me, right, 36);
  return id;
}

function emitLeaf(first: i32, count: i32): u32 {
  const start = packetTop,
    n = packetsFor(count);
  packetTop += <usize>n * PACKET;
  packets += n;
  memory.fill(start, 0, <usize>n * PACKET);
  for (let i = 0; i < count; i++) {
    const id = load<i32>(records + (<usize>(first + i) << 5), 12);
    const corner = indices + <usize>id * 12;
    const a = positions + <usize>load<i32>(corner) * 12,
      b = positions + <usize>load<i32>(corner, 4) * 12,
      c = positions + <usize>load<i32>(corner, 8) * 12;
    const o = start + <usize>(i >> 2) * PACKET + (<usize>(i & 3) << 2);
    const ax = load<f32>(a),
      ay = load<f32>(a, 4),
      az = load<f32>(a, 8);
    const e1x = ax - load<f32>(b),
      e1y = ay - load<f32>(b, 4),
      e1z = az - load<f32>(b, 8);
    const e2x = load<f32>(c) - ax,
      e2y = load<f32>(c, 4) - ay,
      e2z = load<f32>(c, 8) - az;
    store<f32>(o, ax);
    store<f32>(o, ay, 16);
    store<f32>(o, az, 32);
    store<f32>(o, e1x, 48);
    store<f32>(o, e1y, 64);
    store<f32>(o, e1z, 80);
    store<f32>(o, e2x, 96);
    store<f32>(o, e2y, 112);
    store<f32>(o, e2z, 128);
    store<f32>(o, e2y * e1z - e2z * e1y, 144);
    store<f32>(o, e2z * e1x - e2x * e1z, 160);
    store<f32>(o, e2x * e1y - e2y * e1x, 176);
    store<i32>(o, firstId + id, 192);
  }
  return LEAF | <u32>start | <u32>n;
}

/** Folds two levels of the binary tree into one 4-wide node, opening the widest inner child first. */
function collapse(id: i32): u32 {
  const me = binary + <usize>id * 48;
  if (load<i32>(me, 36) < 0) return emitLeaf(load<i32>(me, 32), -load<i32>(me, 36));
  const node = nodeTop;
  nodeTop += NODE;
  nodes++;
  let c0 = load<i32>(me, 32),
    c1 = load<i32>(me, 36),
    c2 = -1,
    c3 = -1,
    count = 2;
  while (count < 4) {
    let open = -1,
      widest: f32 = -1;
    for (let i = 0; i < count; i++) {
      const p = binary + <usize>(i == 0 ? c0 : i == 1 ? c1 : c2) * 48;
      if (load<i32>(p, 36) < 0) continue;
      const area = halfArea(v128.load(p), v128.load(p, 16));
      if (area > widest) {
        widest = area;
        open = i;
      }
    }
    if (open < 0) break;
    const p = binary + <usize>(open == 0 ? c0 : open == 1 ? c1 : c2) * 48;
    const left = load<i32>(p, 32),
      right = load<i32>(p, 36);
    if (open == 0) c0 = left;
    else if (open == 1) c1 = left;
    else c2 = left;
    if (count == 2) c2 = right;
    else c3 = right;
    count++;
  }
  for (let i = 0; i < 4; i++) {
    const c = i == 0 ? c0 : i == 1 ? c1 : i == 2 ? c2 : c3,
      o = node + (<usize>i << 2);
    if (c < 0) {
      for (let k: usize = 0; k < 3; k++) {
        store<f32>(o + (k << 5), FAR);
        store<f32>(o + (k << 5), -FAR, 16);
      }
      store<u32>(o, LEAF, 96);
      continue;
    }
    const p = binary + <usize>c * 48;
    for (let k: usize = 0; k < 3; k++) {
      store<f32>(o + (k << 5), load<f32>(p + (k << 2)));
      store<f32>(o + (k << 5), load<f32>(p + (k << 2), 16), 16);
    }
    store<u32>(o, collapse(c), 96);
  }
  return <u32>node;
}

/**
 * Builds the hierarchy of one part and returns the reference of its root; its box is then at `rootBox()`.
 * `first` is the number of the part's first triangle in the whole mesh. `nodeAt` needs triangles*64+128 bytes, `packetAt` triangles*208, `scratch` scratchBytes(triangles); 16 bytes must be
 * readable behind the positions.
 */
export function build(
  positionsAt: usize,
  indicesAt: usize,
  first: i32,
  triangles: i32,
  nodeAt: usize,
  packetAt: usize,
  scratch: usize,
): u32 {
  firstId = first;
  positions = positionsAt;
  indices = indicesAt;
  nodeTop = nodeAt;
  packetTop = packetAt;
  nodes = 0;
  packets = 0;
  records = scratch;
  binBoxes = records + <usize>triangles * 32;
  binCounts = binBoxes + 3 * BINS * 32;
  sweep = binCounts + 3 * BINS * 4;
  binary = sweep + BINS * 8;
  binaryCount = 0;
  if (triangles == 0) return LEAF | <u32>packetAt; // a leaf of no packets
  for (let i = 0; i < triangles; i++) {
    const q = indicesAt + <usize>i * 12;
    const a = v128.load(positionsAt + <usize>load<i32>(q) * 12),
      b = v128.load(positionsAt + <usize>load<i32>(q, 4) * 12),
      c = v128.load(positionsAt + <usize>load<i32>(q, 8) * 12);
    const o = records + (<usize>i << 5);
    v128.store(o, i32x4.replace_lane(f32x4.pmin(a, f32x4.pmin(b, c)), 3, i));
    v128.store(o, f32x4.replace_lane(f32x4.pmax(a, f32x4.pmax(b, c)), 3, 0), 16);
  }
  return collapse(buildBinary(0, triangles, 0));
}

// ------------------------------------------------------------------ walk

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

/**
 * One byte a ray: 1 where a triangle with an id below `clearFrom` stands in the way. Triangles from `clearFrom` on are
 * clear (corneas, glass): a shadow ray passes through them.
 */
export function occluded(root: u32, rays: usize, out: usize, count: i32, clearFrom: i32, stack: usize): void {
  const table = stack + 64,
    base = stack + 320;
  fillTable(table);
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
          v128.store(sp, v128.swizzle(v128.load(node, 96), v128.load(table + (<usize>rest << 4))));
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
          if (v128.any_true(v128.and(within, i32x4.lt_s(v128.load(p, 192), clear)))) {
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

export * from './shade';
