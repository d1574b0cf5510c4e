// Rays a second of the SIMD kernel against the plain twin and, with --native, against Embree in the same rounds.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import { attachKernel, buildAccel, plainKernel, type RayKernel } from '@plinket/kernel';
import { loadKernel } from '@plinket/engine/node';
import { mix } from '@plinket/core';
import { median, report, time } from './report.ts';
import { largeBust } from './scene.ts';

const WIDTH = 640,
  HEIGHT = 360,
  RAYS = WIDTH * HEIGHT,
  ROUNDS = 7;
const cache = fileURLToPath(new URL('../../.cache/', import.meta.url));
const unit = (i: number, k: number): number => (mix(i, k) >>> 0) / 4294967296;

/** Camera rays in tiles of 8 × 8, as the tracer's tiles are coherent. */
function cameraRays(): Float32Array {
  const rays = new Float32Array(RAYS * 8);
  const across = WIDTH / 8;
  for (let i = 0; i < RAYS; i++) {
    const tile = i >> 6,
      x = (tile % across) * 8 + (i & 7),
      y = Math.floor(tile / across) * 8 + ((i >> 3) & 7);
    const dx = ((x + unit(i, 1)) / WIDTH - 0.5) * 0.42,
      dy = (0.5 - (y + unit(i, 2)) / HEIGHT) * 0.2363;
    const l = Math.hypot(dx, dy, 1);
    rays.set([0.1, 1.32, 1.6, 0, (dx - 0.06) / l, (dy - 0.01) / l, -1 / l, 1e30], i * 8);
  }
  return rays;
}

/** From where the camera rays met the mesh: bounces in cosine-like directions, and shadow rays to a panel. */
function secondary(
  kernel: RayKernel,
  camera: Float32Array,
  positions: Float32Array,
  indices: Uint32Array,
): { bounce: Float32Array; shadow: Float32Array } {
  const bounce = new Float32Array(RAYS * 8),
    shadow = new Float32Array(RAYS * 8);
  let n = 0;
  for (let from = 0; n < RAYS; from = (from + kernel.capacity) % RAYS) {
    const count = Math.min(kernel.capacity, RAYS - from);
    kernel.rays.set(camera.subarray(from * 8, (from + count) * 8));
    kernel.closest(count);
    for (let i = 0; i < count && n < RAYS; i++) {
      const id = kernel.hitIds[i * 4 + 3]!;
      if (id < 0) continue;
      const r = (from + i) * 8,
        t = kernel.hits[i * 4]!;
      const p = [0, 1, 2].map((k) => camera[r + k]! + camera[r + 4 + k]! * t);
      const at = (c: number, k: number) => positions[indices[id * 3 + c]! * 3 + k]!;
      const u = [0, 1, 2].map((k) => at(1, k) - at(0, k)),
        v = [0, 1, 2].map((k) => at(2, k) - at(0, k));
      let normal = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
      const nl =
        Math.hypot(...normal) * (normal[0]! * camera[r + 4]! + normal[1]! * camera[r + 5]! + normal[2]! * camera[r + 6]! > 0 ? -1 : 1);
      normal = normal.map((x) => x / nl);
      const z = 2 * unit(n, 3) - 1,
        phi = 2 * Math.PI * unit(n, 4),
        s = Math.sqrt(1 - z * z);
      const d = [normal[0]! + s * Math.cos(phi), normal[1]! + s * Math.sin(phi), normal[2]! + z * 0.9999];
      const dl = Math.hypot(...d);
      const o = p.map((x, k) => x + normal[k]! * 1e-4);
      bounce.set([...o, 0, ...d.map((x) => x / dl), 1e30], n * 8);
      const target = [1 + 0.5 * unit(n, 5), 2.2 + 0.5 * unit(n, 6), 1.2];
      const q = target.map((x, k) => x - o[k]!),
        ql = Math.hypot(...q);
      shadow.set([...o, 0, ...q.map((x) => x / ql), ql * 0.999], n * 8);
      n++;
    }
  }
  return { bounce, shadow };
}

function fire(kernel: RayKernel, rays: Float32Array, shadow: boolean): number {
  let ms = 0;
  for (let from = 0; from < RAYS; from += kernel.capacity) {
    const count = Math.min(kernel.capacity, RAYS - from);
    (shadow ? kernel.shadowRays : kernel.rays).set(rays.subarray(from * 8, (from + count) * 8));
    ms += time(() => (shadow ? kernel.occluded(count) : kernel.closest(count)));
  }
  return ms;
}

/** Embree in a process of its own that answers a command a line. */
function embree(mesh: { positions: Float32Array; indices: Uint32Array }, sets: Record<string, Float32Array>) {
  const program = `${cache}embree-bench`;
  if (!existsSync('/usr/include/embree3/rtcore.h')) {
    console.log('Installing libembree-dev (once) …');
    const got = spawnSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'libembree-dev'], { stdio: 'ignore' });
    if (got.status !== 0) throw new Error('--native needs libembree-dev: sudo apt-get install -y libembree-dev');
  }
  const source = fileURLToPath(new URL('../native/embree.cpp', import.meta.url));
  const made = spawnSync('g++', ['-O3', '-march=native', source, '-lembree3', '-o', program], { encoding: 'utf8' });
  if (made.status !== 0) throw new Error(made.stderr);
  const bytes = (a: { buffer: ArrayBufferLike; byteOffset: number; byteLength: number }) =>
    new Uint8Array(a.buffer, a.byteOffset, a.byteLength);
  writeFileSync(`${cache}bench-positions.bin`, bytes(mesh.positions));
  writeFileSync(`${cache}bench-indices.bin`, bytes(mesh.indices));
  for (const [name, rays] of Object.entries(sets)) writeFileSync(`${cache}bench-${name}.bin`, bytes(rays));
  const child = spawn(program, [cache], { stdio: ['pipe', 'pipe', 'inherit'] });
  const lines = createInterface({ input: child.stdout })[Symbol.asyncIterator]();
  return {
    ask: async (command: string): Promise<number[]> => {
      child.stdin.write(`${command}\n`);
      const { value } = await lines.next();
      return String(value).split(' ').map(Number);
    },
    close: () => child.stdin.end(),
  };
}

const native = process.argv.includes('--native');
mkdirSync(cache, { recursive: true });
const mesh = await largeBust();
const { module } = loadKernel(false);
if (!module) throw new Error('This machine has no SIMD in WebAssembly.');
const simd = attachKernel(module, buildAccel(module, mesh));
const twin = plainKernel(mesh);
const camera = cameraRays();
const sets: Record<string, Float32Array> = { camera, ...secondary(simd, camera, mesh.positions, mesh.indices) };
const anchor = native ? embree(mesh, sets) : undefined;

const values: Record<string, number> = {};
const lines: string[] = [];
for (const [name, rays] of Object.entries(sets)) {
  const shadow = name === 'shadow';
  const runs: Record<'simd' | 'twin' | 'embree', number[]> = { simd: [], twin: [], embree: [] };
  let hits = 0;
  for (let round = 0; round < ROUNDS; round++) {
    runs.simd.push(fire(simd, rays, shadow));
    // the twin is five times slower and as steady: fewer rounds bound the bench's time
    if (round < 3) runs.twin.push(fire(twin, rays, shadow));
    if (anchor) {
      const [ms, found] = await anchor.ask(name);
      runs.embree.push(ms!);
      hits = found!;
    }
  }
  const rate = (ms: number[]) => RAYS / median(ms) / 1000;
  values[`${name}_vs_twin`] = rate(runs.simd) / rate(runs.twin);
  if (anchor) values[`${name}_vs_embree`] = rate(runs.simd) / rate(runs.embree);
  lines.push(
    `${name.padEnd(7)} ${rate(runs.simd).toFixed(2)} Mrays/s, twin ${rate(runs.twin).toFixed(2)}${anchor ? `, Embree ${rate(runs.embree).toFixed(2)} (${hits} of ${RAYS} met)` : ''}`,
  );
}
const builds: number[] = [],
  theirs: number[] = [];
for (let i = 0; i < 5; i++) {
  builds.push(time(() => buildAccel(module, mesh)));
  if (anchor) theirs.push((await anchor.ask('build'))[0]!);
}
values['build_ms'] = median(builds);
if (anchor) values['build_vs_embree'] = median(builds) / median(theirs);
lines.push(
  `build   ${median(builds).toFixed(0)} ms for ${mesh.indices.length / 3} triangles${anchor ? `, Embree ${median(theirs).toFixed(0)} ms` : ''}`,
);
anchor?.close();
report('kernel', values, lines);
