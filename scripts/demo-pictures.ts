// `npm run demo:pictures [words]`: a proof of every setup and every shot of the demo (whose name holds the words), traced by the command line and kept
// beside the cast, so that the Call sheet of a fresh start shows light. Each carries its setup and its reading, as proofs do. With `READ=only` the
// pictures stay what they are, and only their setups and readings are written anew: for a change of what is read, not of what is seen.
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { decode } from 'fast-png';
import {
  applyPatch,
  keptReading,
  parseSetup,
  PictureMaker,
  readGlb,
  readingText,
  seenOf,
  writePng,
  type KeptReading,
  type Setup,
} from '@plinket/core';
import { CHARACTER_FILES, DEMO_SEQUENCES, DEMO_SETUPS, type Kept } from '@plinket/demo';
import { readFace } from '../lab/src/commands/read.ts';
import { renderCommand, renderFilms } from '../lab/src/commands/render.ts';

const assets = dirname(CHARACTER_FILES[0]!.path);
/** What is measured of a picture is measured of a small one. */
const SMALL = { height: 200, samples: 48 };

/** What a proof says of the face: read by rays, and measured in a picture. */
async function readingOf(setup: Setup): Promise<KeptReading> {
  const { reading, map } = await readFace(setup, [assets], 64);
  const width = Math.round(SMALL.height * setup.camera.aspect);
  const { set, scene, files } = await renderFilms(setup, [assets], { ...SMALL, width, seed: 1, bounces: 3 });
  const source = { width, height: SMALL.height, guides: set.guides, shown: (id: string) => set.shown(id) };
  const { linear } = new PictureMaker(set.math, files).linear(source, { setup, bare: true });
  const seen = seenOf(source, linear, setup, scene, map, reading.features);
  set.close();
  return keptReading(setup, reading, seen);
}

const folder = mkdtempSync(join(tmpdir(), 'plinket-pictures-'));
async function proofOf(made: Setup, picture: string, height: number, samples: number): Promise<void> {
  const file = join(folder, 'setup.json');
  writeFileSync(file, JSON.stringify(made));
  const setup = parseSetup(JSON.parse(readFileSync(file, 'utf8')));
  mkdirSync(dirname(picture), { recursive: true });
  const width = Math.round(height * setup.camera.aspect);
  if (process.env.READ !== 'only')
    await renderCommand([file], { out: picture, size: `${width}x${height}`, samples: String(samples), smooth: '1', workers: '2', assets });
  const { data } = decode(readFileSync(picture));
  const kept = await readingOf(setup);
  writeFileSync(picture, writePng(width, height, Uint8Array.from(data), setup, readingText(kept)));
  console.log(setup.name, JSON.stringify(kept));
}

try {
  const cast = new Map<string, Kept>();
  for (const { name, path } of CHARACTER_FILES) {
    const bytes = readFileSync(path);
    cast.set(name, { sha256: createHash('sha256').update(bytes).digest('hex'), asset: await readGlb(Uint8Array.from(bytes), name) });
  }
  const of = (name: string): Kept => cast.get(name)!,
    wished = (name: string): boolean => name.toLowerCase().includes(process.argv.slice(2).join(' ').toLowerCase());
  for (const { make, picture } of DEMO_SETUPS) {
    const setup = make(of);
    if (wished(setup.name)) await proofOf(setup, picture, 480, 128);
  }
  for (const { name, light, shots } of DEMO_SEQUENCES)
    for (const { code, departs, picture } of shots) {
      const base = light(of);
      if (wished(`${name} ${code}`)) await proofOf({ ...applyPatch(base, departs(base, of)), name: `${name} ${code}` }, picture, 360, 64);
    }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
