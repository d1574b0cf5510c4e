// `npm run demo:pictures`: a proof of every setup of the demo, traced by the command line and kept beside the cast, so that the Call sheet of
// a fresh start shows light. Each carries its setup and its reading, as proofs do.
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { decode } from 'fast-png';
import { keptReading, parseSetup, readGlb, readingText, writePng } from '@plinket/core';
import { CHARACTER_FILES, DEMO_SETUPS, type Kept } from '@plinket/demo';
import { readFace } from '../lab/src/commands/read.ts';
import { renderCommand } from '../lab/src/commands/render.ts';

const folder = mkdtempSync(join(tmpdir(), 'plinket-pictures-'));
try {
  const cast = new Map<string, Kept>();
  for (const { name, path } of CHARACTER_FILES) {
    const bytes = readFileSync(path);
    cast.set(name, { sha256: createHash('sha256').update(bytes).digest('hex'), asset: await readGlb(Uint8Array.from(bytes), name) });
  }
  for (const { make, picture } of DEMO_SETUPS) {
    const setup = make((name) => cast.get(name)!);
    const file = join(folder, 'setup.json');
    writeFileSync(file, JSON.stringify(setup));
    mkdirSync(dirname(picture), { recursive: true });
    const height = 480,
      width = Math.round(height * setup.camera.aspect);
    await renderCommand([file], {
      out: picture,
      size: `${width}x${height}`,
      samples: '128',
      smooth: '1',
      assets: dirname(CHARACTER_FILES[0]!.path),
    });
    const kept = parseSetup(JSON.parse(readFileSync(file, 'utf8'))),
      read = await readFace(kept, [dirname(CHARACTER_FILES[0]!.path)], 64);
    const { data } = decode(readFileSync(picture));
    writeFileSync(picture, writePng(width, height, Uint8Array.from(data), kept, readingText(keptReading(kept, read.reading))));
    console.log(setup.name);
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
