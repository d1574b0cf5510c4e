import { weldedIds } from './weld.ts';

const DEGREE = Math.PI / 180;

/** A mesh whose vertices were split; `from` says which vertex each of them was. */
export interface SplitMesh {
  normals: Float32Array;
  indices: Uint32Array;
  from: Uint32Array;
}

/**
 * Normals that are smooth where triangles meet at less than `angle` degrees and hard where they meet at more: corners of one
 * place share a normal when their triangles are joined by a chain of soft edges. 180 smooths everything, 0 makes facets.
 * Each normal is weighted by the angle that a triangle has at the corner (Thürmer, Wüthrich 1998, "Computing Vertex Normals from
 * Polygonal Facets"). Seams of textures do not show: places are joined by position.
 */
export function creaseNormals(positions: Float32Array, indices: Uint32Array, angle: number): SplitMesh {
  const place = weldedIds(positions),
    count = indices.length / 3;
  const faces = new Float64Array(indices.length);
  for (let t = 0; t < count; t++) faces.set(faceNormal(positions, indices, t), t * 3);
  // triangles around each place
  const around = new Map<number, number[]>();
  for (let c = 0; c < indices.length; c++) {
    const p = place[indices[c]!]!;
    const list = around.get(p);
    if (list) list.push(c);
    else around.set(p, [c]);
  }
  const soft = Math.cos(Math.min(180, Math.max(0, angle)) * DEGREE) - 1e-9;
  const group = new Int32Array(indices.length).fill(-1);
  let groups = 0;
  for (const corners of around.values())
    for (const first of corners) {
      if (group[first]! >= 0) continue;
      const g = groups++;
      const open = [first];
      group[first] = g;
      for (let c = open.pop(); c !== undefined; c = open.pop())
        for (const d of corners)
          if (group[d]! < 0 && joined(place, indices, c, d) && agree(faces, c, d) >= soft) {
            group[d] = g;
            open.push(d);
          }
    }
  const sums = new Float64Array(groups * 3);
  for (let c = 0; c < indices.length; c++) {
    const w = cornerAngle(positions, indices, c),
      t = Math.floor(c / 3);
    for (let k = 0; k < 3; k++) sums[group[c]! * 3 + k]! += w * faces[t * 3 + k]!;
  }
  // one vertex for each pair of group and old vertex
  const known = new Map<string, number>();
  const from: number[] = [],
    normals: number[] = [];
  const out = new Uint32Array(indices.length);
  for (let c = 0; c < indices.length; c++) {
    const key = `${group[c]} ${indices[c]}`;
    let v = known.get(key);
    if (v === undefined) {
      v = from.push(indices[c]!) - 1;
      known.set(key, v);
      const g = group[c]! * 3,
        l = Math.hypot(sums[g]!, sums[g + 1]!, sums[g + 2]!);
      if (l > 0) normals.push(sums[g]! / l, sums[g + 1]! / l, sums[g + 2]! / l);
      else normals.push(0, 1, 0);
    }
    out[c] = v;
  }
  return { normals: Float32Array.from(normals), indices: out, from: Uint32Array.from(from) };
}

/** Whether the triangles of two corners at one place share an edge there. */
function joined(place: Uint32Array, indices: Uint32Array, c: number, d: number): boolean {
  const others = (e: number): [number, number] => {
    const t = e - (e % 3);
    return [place[indices[t + ((e + 1) % 3)]!]!, place[indices[t + ((e + 2) % 3)]!]!];
  };
  const [a, b] = others(c),
    [x, y] = others(d);
  return a === x || a === y || b === x || b === y;
}

const agree = (faces: Float64Array, c: number, d: number): number => {
  const s = Math.floor(c / 3) * 3,
    t = Math.floor(d / 3) * 3;
  return faces[s]! * faces[t]! + faces[s + 1]! * faces[t + 1]! + faces[s + 2]! * faces[t + 2]!;
};

function faceNormal(p: Float32Array, indices: Uint32Array, t: number): [number, number, number] {
  const [a, b, c] = [0, 1, 2].map((k) => indices[t * 3 + k]! * 3) as [number, number, number];
  const u = [0, 1, 2].map((k) => p[b + k]! - p[a + k]!),
    v = [0, 1, 2].map((k) => p[c + k]! - p[a + k]!);
  const n: [number, number, number] = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
  const l = Math.hypot(...n) || 1;
  return [n[0] / l, n[1] / l, n[2] / l];
}

function cornerAngle(p: Float32Array, indices: Uint32Array, c: number): number {
  const t = c - (c % 3);
  const [a, b, d] = [c, t + ((c + 1) % 3), t + ((c + 2) % 3)].map((e) => indices[e]! * 3) as [number, number, number];
  const u = [0, 1, 2].map((k) => p[b + k]! - p[a + k]!),
    v = [0, 1, 2].map((k) => p[d + k]! - p[a + k]!);
  const l = Math.hypot(...u) * Math.hypot(...v);
  return l > 0 ? Math.acos(Math.min(1, Math.max(-1, (u[0]! * v[0]! + u[1]! * v[1]! + u[2]! * v[2]!) / l))) : 0;
}
