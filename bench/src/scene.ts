import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { collected, orderOf, compile, readGlb, tilesOf, type Tracer, type CharacterAsset, type Scene, type Setup } from '@plinket/core';
import { demoSetup, keeperFile } from '@plinket/demo';
import { decoders } from '@plinket/engine/node';
import { time } from './report.ts';

/** The demo: the keeper, its setup and scene, read as the application reads it. */
export async function demoScene(): Promise<{ setup: Setup; scene: Scene; asset: CharacterAsset }> {
  const bytes = readFileSync(keeperFile);
  const asset = await readGlb(bytes, 'keeper.glb', decoders);
  const setup = demoSetup(createHash('sha256').update(bytes).digest('hex'), asset.head);
  return { setup, scene: compile(setup, () => asset), asset };
}

/** Times one sample of every pixel of a scene, three bounces; each has a seed of its own, so that nothing is remembered. Milliseconds. */
export function sampleTimer(tracer: Tracer, width: number, height: number): (scene: Scene) => number {
  let seed = 1;
  return ({ camera, lights }) =>
    time(() => {
      seed++;
      for (const tile of tilesOf(width, height)) tracer.trace({ camera, width, height, tile, from: 0, to: 1, seed, bounces: 3, lights });
    });
}

/** Triangles of head and clothes; strands of hair make it 200 000. */
const LARGE = 62_000;

/** The keeper with about 200 000 triangles, made once and kept in .cache, as its GLB. */
async function largeFile(): Promise<Uint8Array> {
  const file = fileURLToPath(new URL('../../.cache/keeper-200k-strands.glb', import.meta.url));
  if (!existsSync(file)) {
    console.log('Making the large bust (once, half a minute) …');
    const { actorOf, generateCharacter, writeCharacter } = await import('@plinket/demo/cast');
    mkdirSync(new URL('../../.cache/', import.meta.url), { recursive: true });
    writeFileSync(file, await writeCharacter(generateCharacter(actorOf('keeper'), 'bust'), 'keeper', LARGE));
  }
  return readFileSync(file);
}

/** The demo's setup with the large bust in it, and its first `lights` rectangle lights. */
export async function largeScene(lights: number): Promise<{ setup: Setup; scene: Scene; asset: CharacterAsset }> {
  const asset = await readGlb(await largeFile(), 'keeper-200k.glb', decoders);
  const setup = eightLights(demoSetup('0'.repeat(64), asset.head));
  const some = collected(
    Object.fromEntries(
      orderOf(setup.lights)
        .slice(0, lights)
        .map((id) => [id, setup.lights.items[id]!]),
    ),
  );
  return { setup: { ...setup, lights: some }, scene: compile({ ...setup, lights: some }, () => asset), asset };
}

/** All triangles of the large bust. */
export async function largeBust(): Promise<{ positions: Float32Array; indices: Uint32Array }> {
  const { parts } = await readGlb(await largeFile(), 'keeper-200k.glb', decoders);
  const positions = new Float32Array(parts.reduce((n, p) => n + p.positions.length, 0)),
    indices = new Uint32Array(parts.reduce((n, p) => n + p.indices.length, 0));
  let v = 0,
    c = 0;
  for (const part of parts) {
    positions.set(part.positions, v);
    part.indices.forEach((i, k) => (indices[c + k] = i + v / 3));
    v += part.positions.length;
    c += part.indices.length;
  }
  return { positions, indices };
}

/** The demo's lights made up to eight. */
export const eightLights = (setup: Setup): Setup => someLights(setup, 8);

/** The demo's lights made up to so many by small copies that stand elsewhere. */
export function someLights(setup: Setup, count: number): Setup {
  const items = { ...setup.lights.items },
    order = [...orderOf(setup.lights)];
  const key = setup.lights.items['key']!;
  // all of them rectangles, so that one light is an eighth of the work and not a cheap dome
  delete items['dome'];
  order.splice(order.indexOf('dome'), 1);
  for (let i = 0; order.length < count; i++) {
    const id = `extra-${i}`;
    items[id] =
      key.kind === 'rectangle'
        ? { ...key, name: id, place: { ...key.place, azimuth: ((-120 + 70 * i + 180) % 360) - 180, elevation: (10 + 10 * i) % 80 } }
        : key;
    order.push(id);
  }
  return { ...setup, lights: collected(Object.fromEntries(order.map((id) => [id, items[id]!]))) };
}

/** Grey balls around the head. */
export const manyBalls = (count: number): Setup['props'] =>
  collected(
    Object.fromEntries(
      Array.from({ length: count }, (_, i) => {
        const a = i * 2.4,
          r = 0.5 + (i % 7) * 0.12;
        const position: [number, number, number] = [r * Math.cos(a), 1.1 + (i % 11) * 0.08, r * Math.sin(a) - 0.5];
        return [`ball${i}`, { kind: 'ball' as const, finish: 'grey' as const, name: `Ball ${i}`, visible: true, radius: 0.03, position }];
      }),
    ),
  );
