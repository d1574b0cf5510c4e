import { mix } from '../math/index.ts';
import { smoothNormals } from './normals.ts';
import type { MeshData } from './sweep.ts';

/** What a figure stands on: its foot stands at the position. */
export interface PlinthShape {
  shape: 'round' | 'square' | 'rock';
  position: [number, number, number];
  width: number;
  height: number;
}

/** Share of the height that the edge is rounded by. */
const EDGE = 0.06;

/** Steady noise of a direction, −1…1: some waves of fixed phases. */
function roughness(x: number, y: number, z: number): number {
  let sum = 0;
  for (let i = 0; i < 7; i++) {
    const p = (k: number) => ((mix(i, k) >>> 0) / 4294967296) * 2 - 1;
    sum += Math.sin((x * p(1) + y * p(2) + z * p(3)) * (3 + i * 1.7) + p(4) * 6) / (1 + i * 0.6);
  }
  return sum / 2.6;
}

/** Builds a plinth: a drum, a block with a softened edge, or a rock with a flat top. */
export function buildPlinth({ shape, position: [px, py, pz], width, height }: PlinthShape): MeshData {
  const r = width / 2,
    edge = Math.min(height, r) * EDGE;
  // profile from the foot up over the edge to the middle of the top: distance from the axis, height
  const profile: [number, number][] = [[r, 0]];
  for (let i = 0; i <= 6; i++) {
    const a = ((i / 6) * Math.PI) / 2;
    profile.push([r - edge + edge * Math.cos(a), height - edge + edge * Math.sin(a)]);
  }
  profile.push([0, height]);
  const sectors = shape === 'square' ? 64 : 96;
  const positions: number[] = [],
    indices: number[] = [];
  const rows = shape === 'rock' ? rockProfile(r, height) : profile;
  rows.forEach(([d, y], j) => {
    for (let i = 0; i <= sectors; i++) {
      const a = (i / sectors) * 2 * Math.PI,
        c = Math.cos(a),
        s = Math.sin(a);
      // a square by the larger of both coordinates
      const k = shape === 'square' ? 1 / Math.max(Math.abs(c), Math.abs(s)) : 1;
      const rough = shape === 'rock' ? 1 + 0.13 * roughness(c, (y / height) * 1.4, s) * (d > r * 0.5 ? 1 : d / (r * 0.5)) : 1;
      positions.push(px + d * k * c * rough, py + y, pz + d * k * s * rough);
      if (j + 1 < rows.length && i < sectors) {
        const o = j * (sectors + 1) + i,
          up = o + sectors + 1;
        indices.push(o, up, o + 1);
        if (j + 2 < rows.length || shape === 'rock') indices.push(o + 1, up, up + 1);
      }
    }
  });
  const p = Float32Array.from(positions),
    index = Uint32Array.from(indices);
  return { positions: p, indices: index, normals: smoothNormals(p, index) };
}

/** A rock widens below its top and leans in at its foot. */
function rockProfile(r: number, height: number): [number, number][] {
  const rows: [number, number][] = [];
  for (let j = 0; j <= 14; j++) {
    const t = j / 14;
    rows.push([r * (0.93 + 0.09 * Math.sin(t * Math.PI) - 0.1 * t), t * height * 0.97]);
  }
  for (let j = 1; j <= 8; j++) rows.push([r * 0.83 * (1 - j / 8), height * (0.97 + 0.03 * Math.sin(((j / 8) * Math.PI) / 2))]);
  return rows;
}
