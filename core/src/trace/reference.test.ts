// What rays meet, against a hierarchy that is not ours: the npm package three-mesh-bvh, in double precision.
import { readFileSync } from 'node:fs';
import { attachKernel, buildAccel, compileKernel } from '@plinket/kernel';
import { describe, expect, it } from '@jest/globals';
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { readGlb } from '../formats/index.ts';
import { mix } from '../math/index.ts';

const module = compileKernel(readFileSync(new URL('../../../kernel/build/kernel.wasm', import.meta.url)))!;
const SEGMENTS = 100_000;
const BATCH = 8192;

/** A number 0…1 that belongs to i and k. */
const chance = (i: number, k: number): number => (mix(i, k) >>> 0) / 4294967296;

describe('visibility of a hundred thousand random segments through the demo’s bust', () => {
  it('is what three-mesh-bvh says, but for a few that graze an edge', async () => {
    const asset = await readGlb(readFileSync(new URL('../../../demo/assets/keeper.glb', import.meta.url)), 'keeper.glb');
    const vertices = asset.parts.reduce((n, p) => n + p.positions.length, 0);
    const positions = new Float32Array(vertices),
      indices: number[] = [];
    let at = 0;
    for (const part of asset.parts) {
      positions.set(part.positions, at);
      for (const i of part.indices) indices.push(i + at / 3);
      at += part.positions.length;
    }
    const mesh = { positions, indices: Uint32Array.from(indices) };
    const kernel = attachKernel(module, buildAccel(module, mesh, { capacity: BATCH }));
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(positions.slice(), 3));
    geometry.setIndex(new BufferAttribute(mesh.indices.slice(), 1));
    const bvh = new MeshBVH(geometry);

    const { min, max } = asset.bounds;
    const from = new Vector3(),
      to = new Vector3(),
      ray = new Ray();
    let blocked = 0,
      differ = 0,
      further = 0;
    for (let begin = 0; begin < SEGMENTS; begin += BATCH) {
      const count = Math.min(BATCH, SEGMENTS - begin);
      for (let i = 0; i < count; i++) {
        // between two points of the bust's box, a little enlarged
        const p = [0, 1, 2].flatMap((k) => [0, 3].map((o) => min[k]! + (max[k]! - min[k]!) * (1.2 * chance(begin + i, k + o) - 0.1)));
        const d = [p[1]! - p[0]!, p[3]! - p[2]!, p[5]! - p[4]!];
        const l = Math.hypot(...d);
        const values = [p[0]!, p[2]!, p[4]!, 0, d[0]! / l, d[1]! / l, d[2]! / l, l];
        kernel.shadowRays.set(values, i * 8);
        kernel.rays.set(values, i * 8);
      }
      kernel.occluded(count);
      kernel.closest(count);
      for (let i = 0; i < count; i++) {
        const r = kernel.rays.subarray(i * 8, i * 8 + 8);
        from.set(r[0]!, r[1]!, r[2]!);
        to.set(r[4]!, r[5]!, r[6]!);
        ray.set(from, to);
        const hit = bvh.raycastFirst(ray, DoubleSide, 0, r[7]!);
        const there = hit !== null && hit.distance < r[7]!;
        if (there) blocked++;
        if (there !== (kernel.blocked[i] === 1)) differ++;
        // the nearest hit, in metres
        if (there && Math.abs(kernel.hits[i * 4]! - hit.distance) > 2e-5) further++;
      }
    }
    expect(blocked).toBeGreaterThan(SEGMENTS / 5);
    expect(blocked).toBeLessThan((SEGMENTS * 4) / 5);
    expect(differ).toBeLessThanOrEqual(SEGMENTS / 10_000);
    expect(further).toBeLessThanOrEqual(SEGMENTS / 10_000);
  });
});
