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
  const open: number[] = [];
  for (const all of around.values()) {
    // what has no area has no direction: it goes with whatever else is there
    const corners = all.filter((c) => hasArea(faces, c)),
      before = groups;
    // where very many meet, as in a fan's middle, each looks only at those beyond its own edges
    const beyond = corners.length > FEW ? besideOf(place, indices, corners) : undefined;
    for (const first of corners) {
      if (group[first]! >= 0) continue;
      const g = groups++;
      open.push(first);
      group[first] = g;
      const take = (c: number, from: number[]): void => {
        // who has found a group is not looked at again
        let left = 0;
        for (const d of from) {
          if (group[d]! >= 0) continue;
          if (agree(faces, c, d) >= soft) {
            group[d] = g;
            open.push(d);
          } else from[left++] = d;
        }
        from.length = left;
      };
      for (let c = open.pop(); c !== undefined; c = open.pop()) {
        if (beyond) for (const p of othersOf(place, indices, c)) take(c, beyond.get(p)!);
        else
          for (const d of corners)
            if (group[d]! < 0 && joined(place, indices, c, d) && agree(faces, c, d) >= soft) {
              group[d] = g;
              open.push(d);
            }
      }
    }
    if (corners.length < all.length) {
      const g = corners.length ? before : groups++;
      for (const c of all) if (group[c]! < 0) group[c] = g;
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

/** Triangles around one place that are looked through one by one. */
const FEW = 32;

/** The places of a corner's triangle that are not its own. */
function othersOf(place: Uint32Array, indices: Uint32Array, corner: number): [number, number] {
  const t = corner - (corner % 3);
  return [place[indices[t + ((corner + 1) % 3)]!]!, place[indices[t + ((corner + 2) % 3)]!]!];
}

/** Corners at one place by the other places of their triangles: those with one in common share an edge. */
function besideOf(place: Uint32Array, indices: Uint32Array, corners: readonly number[]): Map<number, number[]> {
  const out = new Map<number, number[]>();
  for (const c of corners)
    for (const p of othersOf(place, indices, c)) {
      const list = out.get(p);
      if (list) list.push(c);
      else out.set(p, [c]);
    }
  return out;
}

/** Whether the triangles of two corners at one place share an edge there. */
function joined(place: Uint32Array, indices: Uint32Array, c: number, d: number): boolean {
  const [a, b] = othersOf(place, indices, c),
    [x, y] = othersOf(place, indices, d);
  return a === x || a === y || b === x || b === y;
}

const hasArea = (faces: Float64Array, c: number): boolean => {
  const s = Math.floor(c / 3) * 3;
  return faces[s] !== 0 || faces[s + 1] !== 0 || faces[s + 2] !== 0;
};

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
