// Files from elsewhere: a large dome is brought in while others are answered; a fan's creases; long chains of nodes; spoilt files for every reader.
import { creaseNormals, readCharacter, writeExr } from '@plinket/core';
import { ensureWeb } from '../../scripts/build.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';
import { fuzzReaders } from '../../core/src/testing/fuzz/readers.ts';
import { Fuzz } from '../../core/src/testing/fuzz/run.ts';
import { Dice } from '../../core/src/testing/fuzz/spoil.ts';
import { median, report } from './report.ts';

const WIDTH = 4096,
  HEIGHT = 2048,
  TIMES = 3,
  FAN = 8000,
  /** Spoilt files for each reader, and how long one may take, s. */
  FILES = 2500,
  HANG = 2;

/** A sky that gets brighter towards a sun, with the grain of a photograph: halves, packed by ZIP. */
function dome(seed: number): Uint8Array {
  const dice = new Dice(seed);
  const data = new Float32Array(WIDTH * HEIGHT);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const away = Math.hypot(x - 1000, y - 500) / WIDTH;
      data[y * WIDTH + x] = (0.1 + (y < HEIGHT / 2 ? 1 : 0.3) + 0.002 / (away * away + 1e-5)) * (0.95 + 0.1 * dice.next());
    }
  return writeExr(
    WIDTH,
    HEIGHT,
    ['R', 'G', 'B'].map((name) => ({ name, data, type: 'half' as const })),
  );
}

async function domes(): Promise<{ ms: number[]; others: number[] }> {
  await ensureWeb();
  const server = await serveFresh('bench', {});
  const ms: number[] = [],
    others: number[] = [];
  try {
    for (let i = 0; i <= TIMES; i++) {
      const bytes = dome(i + 1);
      let done = false,
        longest = 0;
      const since = performance.now();
      const bringing = fetch(`${server.url}/api/light-files?name=sky${i}.exr`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/octet-stream' },
        body: bytes as BodyInit,
      }).then(async (response) => {
        if (response.status !== 201) throw new Error(`The dome was answered with ${response.status}: ${await response.text()}`);
        done = true;
      });
      while (!done) {
        const asked = performance.now();
        await (await fetch(`${server.url}/api/setups`)).text();
        longest = Math.max(longest, performance.now() - asked);
      }
      await bringing;
      // the first one starts the reading thread
      if (i === 0) continue;
      ms.push(performance.now() - since);
      others.push(longest);
    }
  } finally {
    await server.stop();
  }
  return { ms, others };
}

/** Triangles round one corner, each a little turned against the next. */
function fan(count: number): number {
  const positions = new Float32Array((count + 2) * 3);
  positions[1] = 0.5;
  for (let i = 0; i <= count; i++) positions.set([Math.cos((i / count) * 2 * Math.PI), 0, Math.sin((i / count) * 2 * Math.PI)], 3 + i * 3);
  const indices = Uint32Array.from({ length: count * 3 }, (_, i) => (i % 3 === 0 ? 0 : Math.floor(i / 3) + (i % 3 === 1 ? 2 : 1)));
  const since = performance.now();
  creaseNormals(positions, indices, 60);
  return performance.now() - since;
}

/** Nodes that hang below one another, each with a part. */
async function nodes(count: number): Promise<number> {
  const corner = Buffer.from(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1.7, 0).buffer).toString('base64');
  const json = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: Array.from({ length: count }, (_, i) => ({
      mesh: 0,
      translation: [0, 1e-4, 0],
      ...(i + 1 < count ? { children: [i + 1] } : {}),
    })),
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1.7, 0] }],
    bufferViews: [{ buffer: 0, byteLength: 36 }],
    buffers: [{ byteLength: 36, uri: `data:application/octet-stream;base64,${corner}` }],
  };
  const bytes = new TextEncoder().encode(JSON.stringify(json));
  const since = performance.now();
  await readCharacter(bytes, 'chain.gltf');
  return performance.now() - since;
}

const brought = await domes();
fan(FAN);
const fans = Array.from({ length: TIMES }, () => fan(FAN));
await nodes(1000);
const few: number[] = [],
  many: number[] = [];
for (let i = 0; i < TIMES; i++) {
  few.push(await nodes(1000));
  many.push(await nodes(4000));
}
const faults = { untyped: 0, hang: 0, 'not finite': 0 };
const fuzz = new Fuzz();
const readers = Object.keys(await fuzzReaders());
for (const name of readers) for (const { kind } of (await fuzz.run(name, 1, FILES + 1, HANG)).faults) faults[kind]++;
await fuzz.close();
report(
  'files',
  {
    dome_ms: median(brought.ms),
    others_ms: median(brought.others),
    fan_ms: median(fans),
    nodes_ratio: median(many) / median(few),
    fuzz_untyped: faults.untyped,
    fuzz_hangs: faults.hang,
    fuzz_nan: faults['not finite'],
  },
  [
    `a dome of ${WIDTH} × ${HEIGHT} in ${brought.ms.map((t) => t.toFixed(0)).join(', ')} ms, sent, read and kept; the longest answer of the list of setups meanwhile ${brought.others.map((t) => t.toFixed(0)).join(', ')} ms`,
    `1000 nodes in ${median(few).toFixed(0)} ms, 4000 in ${median(many).toFixed(0)} ms`,
    `${FILES} spoilt files for each of ${readers.length} readers`,
  ],
);
