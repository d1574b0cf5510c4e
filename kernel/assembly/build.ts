// Builds the hierarchy: binned surface area heuristic, then two levels folded into one.
import { FAR, LEAF, NODE, PACKET } from './layout';

const BINS: i32 = 16;
/** Deepest level at which the surface area heuristic still chooses; below it, halves bound the recursion. */
const MAX_DEPTH: i32 = 60;

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
