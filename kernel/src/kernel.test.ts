import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { attachKernel, buildAccel, compileKernel, MeshError, plainKernel, rebuild, type RayKernel, type RayMesh } from './index.ts';

const load = (name: string) => compileKernel(readFileSync(new URL(`../build/${name}.wasm`, import.meta.url)))!;
const module = load('kernel');
const simd = (mesh: RayMesh) => attachKernel(module, buildAccel(module, mesh, { capacity: 4096 }));

/** mulberry32: small, seeded, good enough to scatter triangles. */
function random(seed: number): () => number {
  let s = seed;
  return () => {
    s = (s + 0x6d2b79f5) | 0;
    let t = Math.imul(s ^ (s >>> 15), 1 | s);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

function soup(count: number, seed: number, degenerate = 0): RayMesh {
  const rnd = random(seed);
  const positions = new Float32Array(count * 9);
  for (let i = 0; i < count; i++) {
    const c = [rnd() * 4 - 2, rnd() * 4 - 2, rnd() * 4 - 2];
    for (let k = 0; k < 9; k++) positions[i * 9 + k] = c[k % 3]! + (rnd() - 0.5) * 0.4;
    if (i < degenerate) positions.copyWithin(i * 9 + 3, i * 9, i * 9 + 3);
  }
  return { positions, indices: Uint32Array.from({ length: count * 3 }, (_, i) => i) };
}

function fire(kernels: RayKernel[], count: number, seed: number, axisAligned = false): void {
  const rnd = random(seed);
  for (let i = 0; i < count; i++) {
    let d = [rnd() - 0.5, rnd() - 0.5, rnd() - 0.5];
    if (axisAligned) d = [0, 0, 0].map((_, k) => (k === i % 3 ? (i & 8 ? 1 : -1) : 0));
    const l = Math.hypot(d[0]!, d[1]!, d[2]!);
    const ray = [rnd() * 6 - 3, rnd() * 6 - 3, rnd() * 6 - 3, 0, d[0]! / l, d[1]! / l, d[2]! / l, i % 5 === 0 ? 1.5 : 1e30];
    for (const k of kernels) {
      k.rays.set(ray, i * 8);
      k.shadowRays.set(ray, i * 8);
    }
  }
  for (const k of kernels) {
    k.closest(count);
    k.occluded(count);
  }
}

/** Every triangle tried in double precision: nearest t, or infinity. */
function bruteForce(mesh: RayMesh, ray: Float32Array, r: number): number {
  let best = ray[r + 7]!,
    any = false;
  const at = (i: number, k: number) => mesh.positions[mesh.indices[i]! * 3 + k]!;
  for (let i = 0; i < mesh.indices.length; i += 3) {
    const e = [0, 1, 2].map((k) => at(i + 1, k) - at(i, k)),
      f = [0, 1, 2].map((k) => at(i + 2, k) - at(i, k)),
      s = [0, 1, 2].map((k) => ray[r + k]! - at(i, k)),
      d = [ray[r + 4]!, ray[r + 5]!, ray[r + 6]!];
    const cross = (a: number[], b: number[]) => [
      a[1]! * b[2]! - a[2]! * b[1]!,
      a[2]! * b[0]! - a[0]! * b[2]!,
      a[0]! * b[1]! - a[1]! * b[0]!,
    ];
    const dot = (a: number[], b: number[]) => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!;
    const p = cross(d, f),
      det = dot(e, p),
      q = cross(s, e);
    const u = dot(s, p) / det,
      v = dot(d, q) / det,
      t = dot(f, q) / det;
    if (u >= 0 && v >= 0 && u + v <= 1 && t > ray[r + 3]! && t < best) {
      best = t;
      any = true;
    }
  }
  return any ? best : Infinity;
}

function agreement(a: RayKernel, b: RayKernel, count: number): { same: number; hits: number; blockedSame: number } {
  let same = 0,
    hits = 0,
    blockedSame = 0;
  for (let i = 0; i < count; i++) {
    const s = a.hits[i * 4]!,
      t = b.hits[i * 4]!;
    if (s === t || Math.abs(s - t) < 1e-4 * (1 + Math.abs(t))) same++;
    if (b.hitIds[i * 4 + 3]! >= 0) hits++;
    if (a.blocked[i] === b.blocked[i]) blockedSame++;
  }
  return { same, hits, blockedSame };
}

describe('the ray kernel', () => {
  it.each([1, 3, 5, 17, 300, 5000])('agrees with the plain twin on %i scattered triangles', (n) => {
    const mesh = soup(n, n);
    const a = simd(mesh),
      b = plainKernel(mesh, { capacity: 4096 });
    fire([a, b], 4000, n + 1);
    const { same, hits, blockedSame } = agreement(a, b, 4000);
    // single precision against double: a ray through an edge may differ, one in a thousand at most
    expect(same).toBeGreaterThanOrEqual(3996);
    expect(blockedSame).toBeGreaterThanOrEqual(3996);
    if (n > 100) expect(hits).toBeGreaterThan(50);
  });

  it('agrees with every triangle tried one by one', () => {
    const mesh = soup(400, 9);
    const a = simd(mesh),
      b = plainKernel(mesh, { capacity: 4096 });
    fire([a, b], 500, 10);
    let off = 0;
    for (let i = 0; i < 500; i++) {
      const t = bruteForce(mesh, b.rays, i * 8);
      if (t !== b.hits[i * 4] && Math.abs(t - b.hits[i * 4]!) > 1e-5) off++;
      if (t !== a.hits[i * 4] && Math.abs(t - a.hits[i * 4]!) > 1e-4) off++;
    }
    expect(off).toBeLessThanOrEqual(1);
  });

  it('follows rays along the axes', () => {
    const mesh = soup(3000, 4);
    const a = simd(mesh),
      b = plainKernel(mesh, { capacity: 4096 });
    fire([a, b], 3000, 5, true);
    const { same, hits } = agreement(a, b, 3000);
    expect(same).toBeGreaterThanOrEqual(2997);
    expect(hits).toBeGreaterThan(100);
  });

  it('lets degenerate triangles be, and the others are still met', () => {
    const mesh = soup(600, 21, 300);
    const a = simd(mesh),
      b = plainKernel(mesh, { capacity: 4096 });
    fire([a, b], 4000, 22);
    expect(agreement(a, b, 4000).same).toBeGreaterThanOrEqual(3996);
    for (let i = 0; i < 4000; i++) if (a.hitIds[i * 4 + 3]! >= 0) expect(a.hitIds[i * 4 + 3]).toBeGreaterThanOrEqual(300);
  });

  it('survives many copies of one triangle', () => {
    const one = [0, 0, 0, 1, 0, 0, 0, 1, 0];
    const mesh = { positions: Float32Array.from(one), indices: Uint32Array.from({ length: 900 }, (_, i) => i % 3) };
    for (const k of [simd(mesh), plainKernel(mesh)]) {
      k.rays.set([0.2, 0.2, 1, 0, 0, 0, -1, 10]);
      k.closest(1);
      expect(k.hits[0]).toBeCloseTo(1, 6);
    }
  });

  it('answers nothing for an empty mesh', () => {
    const mesh = { positions: new Float32Array(0), indices: new Uint32Array(0) };
    for (const k of [simd(mesh), plainKernel(mesh)]) {
      k.rays.set([0, 0, 5, 0, 0, 0, -1, 10]);
      k.shadowRays.set([0, 0, 5, 0, 0, 0, -1, 10]);
      k.closest(1);
      k.occluded(1);
      expect(k.hitIds[3]).toBe(-1);
      expect(k.hits[0]).toBe(Infinity);
      expect(k.blocked[0]).toBe(0);
    }
  });

  it('returns barycentric weights of the second and third corner', () => {
    const mesh = { positions: Float32Array.from([0, 0, 0, 2, 0, 0, 0, 4, 0]), indices: Uint32Array.from([0, 1, 2]) };
    for (const k of [simd(mesh), plainKernel(mesh)]) {
      k.rays.set([0.5, 2, 3, 0, 0, 0, -1, 10]);
      k.closest(1);
      expect([...k.hits.slice(0, 3)].map((x) => +x.toFixed(5))).toEqual([3, 0.25, 0.5]);
    }
  });

  it('lets shadow rays through clear triangles, camera rays not', () => {
    const mesh = {
      positions: Float32Array.from([0, 0, 0, 2, 0, 0, 0, 2, 0, 0, 0, -1, 2, 0, -1, 0, 2, -1]),
      indices: Uint32Array.from([3, 4, 5, 0, 1, 2]),
      clearFrom: 1,
    };
    for (const k of [simd(mesh), plainKernel(mesh)]) {
      const ray = [0.3, 0.3, 1, 0, 0, 0, -1, 1.5];
      k.rays.set(ray);
      k.closest(1);
      expect(k.hitIds[3]).toBe(1);
      k.shadowRays.set(ray);
      k.occluded(1);
      expect(k.blocked[0]).toBe(0);
      k.shadowRays[7] = 5;
      k.occluded(1);
      expect(k.blocked[0]).toBe(1);
    }
  });

  it.each([simd, plainKernel])('refuses a vertex that is not a number and names it', (make) => {
    const mesh = soup(10, 1);
    mesh.positions[9 * 4 + 1] = NaN;
    expect(() => make(mesh)).toThrow(MeshError);
    expect(() => make(mesh)).toThrow('Vertex 12 has the coordinate y = NaN.');
  });

  it('refuses an index outside the mesh', () => {
    const mesh = soup(2, 1);
    mesh.indices[4] = 99;
    expect(() => simd(mesh)).toThrow('Triangle 1 uses vertex 99 of 6.');
  });

  it('gives the same answers in shared memory from two seats', () => {
    const shared = load('kernel-shared');
    const mesh = soup(2000, 3);
    const accel = buildAccel(shared, mesh, { capacity: 4096, seats: 2, shared: true });
    const kernels = [attachKernel(shared, accel, 0), attachKernel(shared, accel, 1), simd(mesh)];
    fire(kernels, 3000, 8);
    expect(Buffer.from(kernels[0]!.hits.slice().buffer).equals(Buffer.from(kernels[2]!.hits.slice().buffer))).toBe(true);
    expect(kernels[1]!.blocked.slice(0, 3000)).toEqual(kernels[2]!.blocked.slice(0, 3000));
    expect(() => attachKernel(shared, accel, 2)).toThrow('Seat 2 of 2.');
  });
});

describe('a mesh in parts', () => {
  /** Scattered triangles in so many parts of unequal size. */
  function parted(count: number, cuts: number[], seed = 5): RayMesh {
    const bounds = [0, ...cuts, count];
    return {
      ...soup(count, seed),
      parts: bounds.slice(1).map((end, i) => ({ first: bounds[i]!, count: end - bounds[i]!, key: `${i}` })),
    };
  }
  const moved = (mesh: RayMesh, part: number): RayMesh => {
    const positions = mesh.positions.slice();
    const { first, count } = mesh.parts![part]!;
    for (let i = first * 9; i < (first + count) * 9; i += 3) positions[i] = positions[i]! + 1.5;
    return { ...mesh, positions, parts: mesh.parts!.map((p, i) => (i === part ? { ...p, key: `${p.key} moved` } : p)) };
  };

  it.each([
    ['two', [400]],
    ['an empty one among them', [300, 300, 700]],
    ['many', [10, 11, 40, 200, 500, 650, 900, 950, 990]],
  ])('traces as the whole does: %s', (_name, cuts) => {
    const mesh = parted(1000, cuts);
    const a = simd(mesh),
      b = plainKernel(mesh, { capacity: 4096 });
    fire([a, b], 4000, 17);
    const { same, blockedSame, hits } = agreement(a, b, 4000);
    expect(same).toBeGreaterThanOrEqual(3996);
    expect(blockedSame).toBeGreaterThanOrEqual(3996);
    expect(hits).toBeGreaterThan(100);
  });

  it('builds again only the part that moved, and traces as if built anew', () => {
    const mesh = parted(1200, [300, 800]);
    const accel = buildAccel(module, mesh, { capacity: 4096 });
    const next = moved(mesh, 1);
    expect(rebuild(module, accel, next)).toEqual([1]);
    const a = attachKernel(module, accel),
      b = simd(next);
    fire([a, b], 4000, 23);
    expect(Buffer.from(a.hits.slice().buffer).equals(Buffer.from(b.hits.slice().buffer))).toBe(true);
    expect(rebuild(module, accel, next)).toEqual([]);
  });

  it('wants a new hierarchy when the division is another', () => {
    const accel = buildAccel(module, parted(1000, [400]), { capacity: 64 });
    expect(rebuild(module, accel, parted(1000, [500]))).toBeUndefined();
    expect(rebuild(module, accel, parted(900, [400]))).toBeUndefined();
    expect(rebuild(module, accel, { ...parted(1000, [400]), clearFrom: 900 })).toBeUndefined();
  });

  it('numbers triangles through all parts, and lets shadow rays through clear ones', () => {
    const mesh: RayMesh = {
      positions: Float32Array.from(
        [3, 4, 5, 0, 1, 2].flatMap(
          (_, i) =>
            [
              [0, 0, 0],
              [2, 0, 0],
              [0, 2, 0],
              [0, 0, -1],
              [2, 0, -1],
              [0, 2, -1],
            ][i]!,
        ),
      ),
      indices: Uint32Array.from([3, 4, 5, 0, 1, 2]),
      clearFrom: 1,
      parts: [
        { first: 0, count: 1, key: 'a' },
        { first: 1, count: 1, key: 'b' },
      ],
    };
    const k = simd(mesh);
    k.rays.set([0.3, 0.3, 1, 0, 0, 0, -1, 9]);
    k.shadowRays.set([0.3, 0.3, 1, 0, 0, 0, -1, 1.5]);
    k.closest(1);
    k.occluded(1);
    expect(k.hitIds[3]).toBe(1);
    expect(k.blocked[0]).toBe(0);
  });
});

describe('shadow rays that ask for some objects only', () => {
  const objects = (count: number) => Uint16Array.from({ length: count }, (_, i) => (i * 7) % 9);
  const casts = Uint8Array.from([1, 0, 0, 1, 1, 0, 1, 0, 1]);
  /** The mesh without the triangles of objects that cast nothing: it needs no table. */
  const left = (mesh: RayMesh): RayMesh => ({
    positions: mesh.positions,
    indices: mesh.indices.filter((_, i) => casts[mesh.objects![Math.floor(i / 3)]!] === 1),
  });

  it.each([3, 9, 27])('are stopped as if the others were not there, in both kernels: mesh %i', (seed) => {
    const mesh = { ...soup(1500, seed), objects: objects(1500) };
    const rest = simd(left(mesh));
    for (const k of [simd(mesh), plainKernel(mesh, { capacity: 4096 })]) {
      fire([k, rest], 3000, seed + 1);
      k.occluded(3000, casts);
      const apart = k.blocked.slice(0, 3000).filter((b, i) => b !== rest.blocked[i]).length;
      // rays along an edge may go either way in single precision
      expect(apart).toBeLessThanOrEqual(k.kind === 'simd' ? 0 : 3);
      expect(rest.blocked.slice(0, 3000).filter((b) => b === 1).length).toBeGreaterThan(50);
      // and nothing is remembered
      const all = k.kind === 'simd' ? simd(mesh) : plainKernel(mesh, { capacity: 4096 });
      fire([k, all], 3000, seed + 1);
      expect(k.blocked.slice(0, 3000)).toEqual(all.blocked.slice(0, 3000));
    }
  });
  it('of two workers each asks by a table of its own', () => {
    const shared = load('kernel-shared');
    const mesh = { ...soup(1500, 5), objects: objects(1500) };
    const accel = buildAccel(shared, mesh, { capacity: 4096, seats: 2, shared: true });
    const [a, b] = [attachKernel(shared, accel, 0), attachKernel(shared, accel, 1)] as const;
    const none = new Uint8Array(9);
    fire([a, b], 2000, 11);
    a.occluded(2000, casts);
    const before = a.blocked.slice(0, 2000);
    b.occluded(2000, none);
    expect(b.blocked.slice(0, 2000).every((v) => v === 0)).toBe(true);
    a.occluded(2000, casts);
    expect(a.blocked.slice(0, 2000)).toEqual(before);
  });
  it('a mesh that moves keeps its objects; one with more of them is built anew', () => {
    const mesh = { ...soup(600, 6), objects: objects(600) };
    const accel = buildAccel(module, mesh, { capacity: 64 });
    expect(rebuild(module, accel, { ...mesh, objects: objects(600).reverse() })).toEqual([]);
    const k = attachKernel(module, accel);
    fire([k], 60, 3);
    k.occluded(60, casts);
    const b = simd({ ...mesh, objects: objects(600).reverse() });
    fire([b], 60, 3);
    b.occluded(60, casts);
    expect(k.blocked.slice(0, 60)).toEqual(b.blocked.slice(0, 60));
    expect(rebuild(module, accel, { ...mesh, objects: objects(600).fill(500, 3) })).toBeUndefined();
    expect(rebuild(module, accel, soup(600, 6))).toBeUndefined();
  });
});
