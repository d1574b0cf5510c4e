// From the bytes of a file to its first picture, in Node on all cores: read, compiled, hierarchy built, a coarse picture traced.
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { applyPatch, compile, readGlb, writeGlb, type CharacterAsset, type Setup } from '@plinket/core';
import { demoSetup } from '@plinket/demo';
import { Renderer } from '@plinket/engine';
import { loadFilmMath, nodePool } from '@plinket/engine/node';
import { report } from './report.ts';
import { largeScene } from './scene.ts';

// makes the large file when it is not there yet
await largeScene(1);
const small = readFileSync(fileURLToPath(new URL('../../.cache/keeper-200k.glb', import.meta.url)));

/** The large bust ten times over, beside each other: about two million triangles in one file. */
async function tenfold(): Promise<Uint8Array> {
  const asset = await readGlb(small, 'small.glb');
  const parts = Array.from({ length: 10 }, (_, k) =>
    asset.parts.map((p) => ({ ...p, name: `${p.name} ${k}`, positions: p.positions.map((v, i) => (i % 3 === 0 ? v + (k - 5) * 0.7 : v)) })),
  ).flat();
  return writeGlb({ ...asset, parts } as CharacterAsset, 'tenfold');
}

/** Milliseconds until the first coarse picture, and the steps on the way. */
async function run(bytes: Uint8Array): Promise<{ ms: number; read: number; triangles: number }> {
  const pool = nodePool();
  const start = performance.now();
  const asset = await readGlb(bytes, 'bench.glb');
  const read = performance.now() - start;
  const setup: Setup = applyPatch(demoSetup('0'.repeat(64), asset.head), {});
  const renderer = new Renderer(pool, loadFilmMath());
  const ms = await new Promise<number>((resolve, reject) => {
    renderer.onError = reject;
    renderer.onProgress = () => renderer.set.presentable && resolve(performance.now() - start);
    const options = { width: 640, height: 360, samples: 1, seed: 1, bounces: 3, coarse: true };
    renderer.update({ number: 1, scene: compile(setup, () => asset), options });
  });
  pool.close();
  return { ms, read, triangles: asset.triangles };
}

await run(small);
const little = await run(small);
const big = await tenfold();
const large = await run(big);
report('import', { small_ms: little.ms, large_ms: large.ms, ratio: large.ms / little.ms }, [
  `${Math.round(little.triangles / 1000)} 000 triangles, ${(small.length / 1e6).toFixed(1)} MB: ${little.ms.toFixed(0)} ms, reading ${little.read.toFixed(0)} of them`,
  `${(large.triangles / 1e6).toFixed(2)} million triangles, ${(big.length / 1e6).toFixed(1)} MB: ${large.ms.toFixed(0)} ms, reading ${large.read.toFixed(0)} of them`,
]);
process.exit(0);
