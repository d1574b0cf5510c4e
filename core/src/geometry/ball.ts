import type { MeshData } from './sweep.ts';

/** A sphere of rings and sectors with its own normals; the seam and poles share no vertices, which nobody sees. */
export function buildBall(centre: [number, number, number], radius: number, rings = 40): MeshData {
  const sectors = rings * 2;
  const positions = new Float32Array((rings + 1) * (sectors + 1) * 3),
    normals = new Float32Array(positions.length);
  const indices: number[] = [];
  for (let i = 0, o = 0; i <= rings; i++) {
    const t = (i / rings) * Math.PI;
    for (let j = 0; j <= sectors; j++, o += 3) {
      const p = (j / sectors) * 2 * Math.PI;
      const n = [Math.sin(t) * Math.cos(p), Math.cos(t), Math.sin(t) * Math.sin(p)];
      for (let k = 0; k < 3; k++) {
        normals[o + k] = n[k]!;
        positions[o + k] = centre[k]! + n[k]! * radius;
      }
      if (i < rings && j < sectors) {
        const a = i * (sectors + 1) + j,
          b = a + sectors + 1;
        if (i > 0) indices.push(a, a + 1, b + 1);
        if (i < rings - 1) indices.push(a, b + 1, b);
      }
    }
  }
  return { positions, normals, indices: Uint32Array.from(indices) };
}
