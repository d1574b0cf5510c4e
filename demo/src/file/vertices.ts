import type { Skinned } from '../cast/character.ts';

/** Leaves out vertices that no triangle uses. */
export function compact(s: Skinned): Skinned {
  const to = new Map<number, number>();
  const indices = s.indices.map((v) => {
    if (!to.has(v)) to.set(v, to.size);
    return to.get(v)!;
  });
  return withVertices(s, Uint32Array.from(to.keys()), indices);
}

/** A surface of chosen vertices of another. */
export function withVertices(s: Skinned, vertices: Uint32Array, indices: Uint32Array): Skinned {
  const pick = <T extends Float32Array | Uint8Array>(from: T, width: number, out: T): T => {
    vertices.forEach((v, i) => out.set(from.subarray(v * width, (v + 1) * width), i * width));
    return out;
  };
  const n = vertices.length;
  return {
    name: s.name,
    indices,
    positions: pick(s.positions, 3, new Float32Array(n * 3)),
    normals: pick(s.normals, 3, new Float32Array(n * 3)),
    ...(s.colours ? { colours: pick(s.colours, 3, new Float32Array(n * 3)) } : {}),
    joints: pick(s.joints, 4, new Uint8Array(n * 4)),
    weights: pick(s.weights, 4, new Float32Array(n * 4)),
    ...(s.maps ? { maps: s.maps } : {}),
  };
}
