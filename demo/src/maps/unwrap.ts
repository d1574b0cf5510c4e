// Lays a mesh flat for pictures: charts seen along the axes, packed into a square. Millimetres.
import potpack from 'potpack';
import type { Surface } from '../form/nets.ts';

/** The six ways that a chart is seen from outside: which way its picture's right and down run. */
const VIEWS = [
  { out: [1, 0, 0], right: [0, 0, -1] },
  { out: [-1, 0, 0], right: [0, 0, 1] },
  { out: [0, 1, 0], right: [1, 0, 0] },
  { out: [0, -1, 0], right: [1, 0, 0] },
  { out: [0, 0, 1], right: [1, 0, 0] },
  { out: [0, 0, -1], right: [-1, 0, 0] },
].map(({ out, right }) => {
  const [a, b, c] = right as [number, number, number],
    [x, y, z] = out as [number, number, number];
  // right × out, so that right, up and out are right-handed and no picture is mirrored
  return { out, right, down: [b * z - c * y, c * x - a * z, a * y - b * x] };
});

export interface Unwrapped<T extends Surface> {
  /** With its tangents x y z w: the way that U runs on the surface (glTF 2.0, 3.7.2.1). */
  surface: T & { uvs: Float32Array; tangents: Float32Array };
  /** Side of the square, mm: what U and V of 1 stand for. */
  side: number;
}

/** A triangle may lie in a chart whose way it leans from by so much (cosine), if its neighbours do. */
const LEAN = 0.35;
/** Charts of fewer triangles join a neighbour's where they can. */
const SMALL = 40;
/** Free space round a chart, of the square's side. */
const GAP = 0.004;

/**
 * Gives a surface texture coordinates: every triangle lies in a chart that sees it from outside, none is turned over, and all
 * charts have one scale. Vertices on a border are doubled. `carry` copies what else a vertex has.
 */
export function unwrap<T extends Surface>(surface: T, carry: (from: T, vertices: Uint32Array, indices: Uint32Array) => T): Unwrapped<T> {
  const { positions, indices } = surface;
  const count = indices.length / 3;
  const facing = faceNormals(surface);
  const lean = (t: number, v: number): number =>
    facing[t * 3]! * VIEWS[v]!.out[0]! + facing[t * 3 + 1]! * VIEWS[v]!.out[1]! + facing[t * 3 + 2]! * VIEWS[v]!.out[2]!;
  const view = new Uint8Array(count);
  for (let t = 0; t < count; t++) {
    let best = 0;
    for (let v = 1; v < 6; v++) if (lean(t, v) > lean(t, best)) best = v;
    view[t] = best;
  }
  const beside = neighbours(indices);
  for (let round = 0; round < 3; round++) {
    const charts = chartsOf(view, beside);
    for (const chart of charts) {
      if (chart.length >= SMALL) continue;
      for (const t of chart) {
        const near = [0, 1, 2].map((k) => beside[t * 3 + k]!).filter((n) => n >= 0 && view[n] !== view[t] && lean(t, view[n]!) > LEAN);
        if (near.length) view[t] = view[near[0]!]!;
      }
    }
  }
  const charts = chartsOf(view, beside);
  const chartOf = new Int32Array(count);
  charts.forEach((chart, c) => chart.forEach((t) => (chartOf[t] = c)));
  // flat coordinates of every corner, in millimetres, and a box round each chart
  const flat = new Float64Array(count * 6);
  const boxes = charts.map((chart, c) => {
    const { right, down } = VIEWS[view[chart[0]!]!]!;
    let [left, top, far, low] = [Infinity, Infinity, -Infinity, -Infinity];
    for (const t of chart)
      for (let k = 0; k < 3; k++) {
        const p = indices[t * 3 + k]! * 3;
        const x = positions[p]! * right[0]! + positions[p + 1]! * right[1]! + positions[p + 2]! * right[2]!,
          y = positions[p]! * down[0]! + positions[p + 1]! * down[1]! + positions[p + 2]! * down[2]!;
        flat[t * 6 + k * 2] = x;
        flat[t * 6 + k * 2 + 1] = y;
        left = Math.min(left, x);
        far = Math.max(far, x);
        top = Math.min(top, y);
        low = Math.max(low, y);
      }
    return { c, left, top, w: far - left, h: low - top, x: 0, y: 0 };
  });
  const gap = GAP * Math.sqrt(boxes.reduce((s, b) => s + b.w * b.h, 0));
  for (const b of boxes) {
    b.w += 2 * gap;
    b.h += 2 * gap;
  }
  const packed = potpack(boxes),
    side = Math.max(packed.w, packed.h);
  const at = new Array<(typeof boxes)[number]>(charts.length);
  for (const b of boxes) at[b.c] = b;
  // a vertex for each chart that it lies in
  const known = new Map<number, number>(),
    from: number[] = [],
    uvs: number[] = [],
    rights: number[] = [];
  const corners = new Uint32Array(indices.length);
  for (let i = 0; i < indices.length; i++) {
    const t = (i / 3) | 0,
      c = chartOf[t]!,
      key = indices[i]! * charts.length + c;
    let v = known.get(key);
    if (v === undefined) {
      v = from.push(indices[i]!) - 1;
      known.set(key, v);
      rights.push(...VIEWS[view[t]!]!.right);
      const b = at[c]!;
      uvs.push((flat[i * 2]! - b.left + gap + b.x) / side, (flat[i * 2 + 1]! - b.top + gap + b.y) / side);
    }
    corners[i] = v;
  }
  const laid = carry(surface, Uint32Array.from(from), corners);
  return { surface: { ...laid, uvs: Float32Array.from(uvs), tangents: tangentsOf(laid.normals, rights) }, side };
}

/** A chart's right laid into the surface at each vertex; no chart is mirrored, so that w is 1 everywhere. */
function tangentsOf(normals: Float32Array, rights: number[]): Float32Array {
  const out = new Float32Array((rights.length / 3) * 4).fill(1);
  for (let i = 0; i < rights.length; i += 3) {
    const into = rights[i]! * normals[i]! + rights[i + 1]! * normals[i + 1]! + rights[i + 2]! * normals[i + 2]!;
    const t = [0, 1, 2].map((k) => rights[i + k]! - into * normals[i + k]!);
    const l = Math.hypot(...t);
    // where the normal looks along it any way across will do
    const way = l > 1e-3 ? t.map((v) => v / l) : [normals[i + 1]!, normals[i + 2]!, normals[i]!];
    out.set(way, (i / 3) * 4);
  }
  return out;
}

function faceNormals({ positions, indices }: Surface): Float32Array {
  const out = new Float32Array(indices.length);
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i]! * 3, indices[i + 1]! * 3, indices[i + 2]! * 3];
    const u = [0, 1, 2].map((k) => positions[b + k]! - positions[a + k]!),
      v = [0, 1, 2].map((k) => positions[c + k]! - positions[a + k]!);
    const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
    const l = Math.hypot(...n) || 1;
    for (let k = 0; k < 3; k++) out[i + k] = n[k]! / l;
  }
  return out;
}

/** The triangle over each edge of a triangle; −1 where there is none. */
function neighbours(indices: Uint32Array): Int32Array {
  const out = new Int32Array(indices.length).fill(-1),
    open = new Map<string, number>();
  for (let i = 0; i < indices.length; i++) {
    const a = indices[i]!,
      b = indices[i % 3 === 2 ? i - 2 : i + 1]!;
    const other = open.get(`${b} ${a}`);
    if (other === undefined) open.set(`${a} ${b}`, i);
    else {
      out[i] = (other / 3) | 0;
      out[other] = (i / 3) | 0;
    }
  }
  return out;
}

/** Triangles of one view that hang together. */
function chartsOf(view: Uint8Array, beside: Int32Array): number[][] {
  const seen = new Uint8Array(view.length),
    out: number[][] = [];
  for (let t = 0; t < view.length; t++) {
    if (seen[t]) continue;
    const chart = [t];
    seen[t] = 1;
    for (let i = 0; i < chart.length; i++)
      for (let k = 0; k < 3; k++) {
        const n = beside[chart[i]! * 3 + k]!;
        if (n < 0 || seen[n] || view[n] !== view[t]) continue;
        seen[n] = 1;
        chart.push(n);
      }
    out.push(chart);
  }
  return out;
}
