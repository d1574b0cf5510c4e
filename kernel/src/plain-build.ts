import type { RayMesh } from './mesh.ts';

const BINS = 16;
const MAX_LEAF = 8;
/** The fields of a node: both children's boxes in `boxes`, both references in `refs`. */
export const NODE_FLOATS = 12;

/**
 * A binary hierarchy in plain arrays.
 * A reference below 0 is a leaf: ~ref = first * 16 + count over `triangles`; otherwise the number of a node.
 */
export interface PlainTree {
  boxes: Float64Array;
  refs: Int32Array;
  root: number;
  /** Corner a, edge b-a, edge c-a of each triangle, in leaf order. */
  corners: Float64Array;
  /** The mesh's number of each triangle, in leaf order. */
  ids: Uint32Array;
}

interface Range {
  first: number;
  last: number;
  /** Where the parent keeps this child: node * 2 + side, or -1 for the root. */
  slot: number;
}

const halfArea = (b: Float64Array, o: number): number => {
  const x = b[o + 3]! - b[o]!,
    y = b[o + 4]! - b[o + 1]!,
    z = b[o + 5]! - b[o + 2]!;
  return x < 0 ? 0 : x * y + y * z + z * x;
};

function emptyBox(b: Float64Array, o: number): void {
  b.fill(Infinity, o, o + 3);
  b.fill(-Infinity, o + 3, o + 6);
}

function growBox(b: Float64Array, o: number, from: Float64Array, p: number): void {
  for (let k = 0; k < 3; k++) {
    if (from[p + k]! < b[o + k]!) b[o + k] = from[p + k]!;
    if (from[p + 3 + k]! > b[o + 3 + k]!) b[o + 3 + k] = from[p + 3 + k]!;
  }
}

function triangleBoxes(mesh: RayMesh): Float64Array {
  const { positions, indices } = mesh;
  const count = indices.length / 3;
  const boxes = new Float64Array(count * 6);
  for (let i = 0; i < count; i++) {
    emptyBox(boxes, i * 6);
    for (let c = 0; c < 3; c++) {
      const v = indices[i * 3 + c]! * 3;
      for (let k = 0; k < 3; k++) {
        const x = positions[v + k]!;
        if (x < boxes[i * 6 + k]!) boxes[i * 6 + k] = x;
        if (x > boxes[i * 6 + 3 + k]!) boxes[i * 6 + 3 + k] = x;
      }
    }
  }
  return boxes;
}

/** Binned surface area heuristic (Wald 2007) over one range; axis -1 when nothing can be split. */
function chooseSplit(order: Uint32Array, range: Range, tri: Float64Array, centres: Float64Array) {
  const bins = new Float64Array(BINS * 6),
    counts = new Int32Array(BINS),
    right = new Float64Array(BINS),
    rightCount = new Int32Array(BINS),
    running = new Float64Array(6);
  let best = { cost: Infinity, axis: -1, bin: 0, low: 0, scale: 0 };
  for (let axis = 0; axis < 3; axis++) {
    const low = centres[axis]!,
      extent = centres[axis + 3]! - low;
    if (!(extent > 0)) continue;
    const scale = (BINS * 0.9999) / extent;
    counts.fill(0);
    for (let b = 0; b < BINS; b++) emptyBox(bins, b * 6);
    for (let i = range.first; i < range.last; i++) {
      const o = order[i]! * 6;
      const b = Math.floor(((tri[o + axis]! + tri[o + 3 + axis]!) / 2 - low) * scale);
      counts[b]!++;
      growBox(bins, b * 6, tri, o);
    }
    emptyBox(running, 0);
    let n = 0;
    for (let b = BINS - 1; b > 0; b--) {
      growBox(running, 0, bins, b * 6);
      n += counts[b]!;
      right[b] = halfArea(running, 0);
      rightCount[b] = n;
    }
    emptyBox(running, 0);
    n = 0;
    for (let b = 0; b < BINS - 1; b++) {
      growBox(running, 0, bins, b * 6);
      n += counts[b]!;
      if (n === 0 || rightCount[b + 1] === 0) continue;
      const cost = halfArea(running, 0) * n + right[b + 1]! * rightCount[b + 1]!;
      if (cost < best.cost) best = { cost, axis, bin: b, low, scale };
    }
  }
  return best;
}

/** Builds the plain twin's hierarchy; the mesh has been checked. */
export function buildPlainTree(mesh: RayMesh): PlainTree {
  const count = mesh.indices.length / 3;
  const tri = triangleBoxes(mesh);
  const order = Uint32Array.from({ length: count }, (_, i) => i);
  const boxes = new Float64Array(Math.max(1, count) * NODE_FLOATS);
  const refs = new Int32Array(Math.max(1, count) * 2);
  const box = new Float64Array(6),
    centres = new Float64Array(6);
  const work: Range[] = [{ first: 0, last: count, slot: -1 }];
  let nodes = 0,
    root = ~0;
  for (let range = work.pop(); range; range = work.pop()) {
    const { first, last, slot } = range,
      n = last - first;
    emptyBox(box, 0);
    emptyBox(centres, 0);
    for (let i = first; i < last; i++) {
      const o = order[i]! * 6;
      growBox(box, 0, tri, o);
      for (let k = 0; k < 3; k++) {
        const c = (tri[o + k]! + tri[o + 3 + k]!) / 2;
        if (c < centres[k]!) centres[k] = c;
        if (c > centres[k + 3]!) centres[k + 3] = c;
      }
    }
    if (slot >= 0) boxes.set(box, (slot >> 1) * NODE_FLOATS + (slot & 1) * 6);
    const split = chooseSplit(order, range, tri, centres);
    const area = halfArea(box, 0);
    let ref: number;
    if (n <= 1 || (n <= MAX_LEAF && (split.axis < 0 || n * area <= area + split.cost))) ref = ~(first * 16 + n);
    else {
      let middle = (first + last) >> 1;
      if (split.axis >= 0) {
        let i = first,
          j = last - 1;
        while (i <= j) {
          const o = order[i]! * 6;
          const c = (tri[o + split.axis]! + tri[o + 3 + split.axis]!) / 2;
          if (Math.floor((c - split.low) * split.scale) <= split.bin) i++;
          else {
            const t = order[i]!;
            order[i] = order[j]!;
            order[j--] = t;
          }
        }
        middle = i;
      }
      ref = nodes++;
      work.push({ first: middle, last, slot: ref * 2 + 1 }, { first, last: middle, slot: ref * 2 });
    }
    if (slot < 0) root = ref;
    else refs[slot] = ref;
  }
  return { boxes, refs, root, ids: order, corners: leafCorners(mesh, order) };
}

function leafCorners(mesh: RayMesh, order: Uint32Array): Float64Array {
  const { positions, indices } = mesh;
  const out = new Float64Array(order.length * 9);
  for (let i = 0; i < order.length; i++) {
    const o = order[i]! * 3;
    const a = indices[o]! * 3,
      b = indices[o + 1]! * 3,
      c = indices[o + 2]! * 3;
    for (let k = 0; k < 3; k++) {
      out[i * 9 + k] = positions[a + k]!;
      out[i * 9 + 3 + k] = positions[b + k]! - positions[a + k]!;
      out[i * 9 + 6 + k] = positions[c + k]! - positions[a + k]!;
    }
  }
  return out;
}
