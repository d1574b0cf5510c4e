import { writeFileSync } from 'node:fs';
import {
  balance,
  compile,
  develop,
  FILM_CHANNELS,
  setupGains,
  writeExr,
  writePng,
  exposureFactor,
  lightRadiance,
  type ExrChannel,
  type Film,
  type Setup,
} from '@plinket/core';
import { Renderer } from '@plinket/engine';
import { nodePool } from '@plinket/engine/node';
import { loadAssets, loadSetup } from '../load.ts';
import { UsageError, whole } from '../usage.ts';

/** Traces a setup to a finished set of films, one for each light. */
export async function renderFilms(
  setup: Setup,
  folders: string[],
  options: { width: number; height: number; samples: number; seed: number; bounces: number; workers?: number; only?: string },
  progress: (done: number, msLeft: number) => void = () => undefined,
): Promise<Map<string, Film>> {
  const assets = await loadAssets(setup, folders);
  const scene = compile(setup, (sha) => assets.get(sha));
  const wanted = options.only ? { ...scene, lights: scene.lights.filter((l) => l.id === options.only) } : scene;
  const pool = nodePool({ workers: options.workers });
  try {
    const renderer = new Renderer(pool);
    await new Promise<void>((resolve, reject) => {
      renderer.onError = reject;
      renderer.onProgress = () => {
        const { done, msLeft } = renderer.progress();
        progress(done, msLeft);
        if (renderer.finished) resolve();
      };
      renderer.update(wanted, { ...options, coarse: false });
      if (renderer.finished) resolve();
    });
    return new Map([...renderer.films].map(([id, f]) => [id, f.film]));
  } finally {
    pool.close();
  }
}

/** The picture of films, balanced as the setup says. */
export function pictureOf(setup: Setup, films: Map<string, Film>, width: number, height: number, share?: string): Float32Array {
  const gains = setupGains(setup, share);
  const out = new Float32Array(width * height * 3);
  balance(
    [...films].map(([id, film]) => ({ film, gain: gains[id]! })),
    out,
  );
  return out;
}

/**
 * Channels of an EXR: the balanced picture, and each light's layers scaled to what it gives (cd/m² times exposure), so
 * that their sum is the picture.
 */
export function exrChannels(setup: Setup, films: Map<string, Film>, linear: Float32Array): ExrChannel[] {
  const pixels = linear.length / 3;
  const channels: ExrChannel[] = ['R', 'G', 'B'].map((name, c) => ({
    name,
    data: Float32Array.from({ length: pixels }, (_, i) => linear[i * 3 + c]!),
  }));
  channels.push({ name: 'A', data: new Float32Array(pixels).fill(1) });
  for (const [id, film] of films) {
    const light = setup.lights.items[id]!;
    const level = lightRadiance(light).map((v) => v * exposureFactor(setup.camera.ev));
    for (const [half, layer, share] of [
      [0, 'diffuse', light.diffuse],
      [1, 'specular', light.specular],
    ] as const)
      ['R', 'G', 'B'].forEach((name, c) => {
        const data = new Float32Array(pixels);
        for (let i = 0; i < pixels; i++)
          data[i] = ((film.sums[i * FILM_CHANNELS + half * 3 + c]! / Math.max(1, film.counts[i]!)) * level[c]! * share) as number;
        channels.push({ name: `${id}.${layer}.${name}`, data });
      });
  }
  return channels;
}

export async function renderCommand(positional: string[], options: Record<string, string | undefined>): Promise<void> {
  const { setup, folder } = await loadSetup(positional[0], options['server']);
  const out = options['out'];
  if (!out || !/\.(png|exr)$/i.test(out)) throw new UsageError('--out needs a file that ends in .png or .exr.');
  const size = /^(\d+)x(\d+)$/.exec(options['size'] ?? '640x360');
  if (!size) throw new UsageError(`--size ${options['size']}: width and height are needed, like 640x360.`);
  const width = Number(size[1]),
    height = Number(size[2]);
  if (width < 1 || height < 1 || width > 8192 || height > 8192) throw new UsageError('--size: from 1x1 to 8192x8192.');
  const share = options['share'];
  if (share !== undefined && !setup.lights.items[share])
    throw new UsageError(`--share ${share}: the setup has ${setup.lights.order.join(', ')}.`);
  const workers = whole(options, 'workers', 0, 64);
  const samples = Math.max(1, whole(options, 'samples', 64, 65535));
  let told = 0;
  const films = await renderFilms(
    setup,
    [...(options['assets'] ? [options['assets']] : []), folder],
    {
      width,
      height,
      samples,
      seed: whole(options, 'seed', 1, 2 ** 31),
      bounces: whole(options, 'bounces', 3, 16),
      workers: workers || undefined,
      only: share,
    },
    (done, msLeft) => {
      if (!process.stderr.isTTY || Date.now() - told < 250) return;
      told = Date.now();
      process.stderr.write(`\r${Math.round(done * 100)} %, ${Math.ceil(msLeft / 1000)} s left   `);
    },
  );
  if (process.stderr.isTTY) process.stderr.write('\r                         \r');
  const linear = pictureOf(setup, films, width, height, share);
  if (/\.exr$/i.test(out))
    writeFileSync(out, writeExr(width, height, exrChannels(setup, films, linear), { plinketSetup: setup.name.replace(/[^ -~]/g, '?') }));
  else {
    const rgba = new Uint8ClampedArray(width * height * 4);
    develop(linear, setup.look.view, rgba);
    writeFileSync(out, writePng(width, height, rgba, setup));
  }
}
