// A finished picture of 1920 × 1080 under ten lights as a file: how long it takes to write to a disk and to open, and how small it gets.
import { rmSync, statSync } from 'node:fs';
import { ExrLayout, readFilms } from '@plinket/core';
import { loadFilmMath } from '@plinket/engine/node';
import { inflated, writeExrFile } from '@plinket/lab';
import { median, report } from './report.ts';
import { HEIGHT, tenLightsFile, traceTenLights, WIDTH } from './ten-lights.ts';

const TIMES = 3;
const made = await traceTenLights();
const layout = new ExrLayout(WIDTH, HEIGHT, made.channels, made.text);
const { bytes, file } = await tenLightsFile(made);
const math = loadFilmMath();
const writes: number[] = [];
let size = 0;
for (let i = 0; i < TIMES; i++) {
  const out = `${file}.${i}`,
    began = performance.now();
  await writeExrFile(out, { width: WIDTH, height: HEIGHT, ...made }, math.stored);
  writes.push(performance.now() - began);
  size = statSync(out).size;
  rmSync(out);
}
const opens: number[] = [];
for (let i = 0; i < TIMES; i++) {
  const began = performance.now();
  (await readFilms(bytes, math, inflated)).release();
  opens.push(performance.now() - began);
}
report('exr', { write_ms: median(writes), open_ms: median(opens), size_vs_raw: size / layout.rawBytes }, [
  `${made.channels.length} channels, ${(layout.rawBytes / 1e6).toFixed(0)} MB before they are packed, ${(size / 1e6).toFixed(0)} MB after`,
  `written in ${writes.map((t) => t.toFixed(0)).join(', ')} ms; opened, with all planes as floats, in ${opens.map((t) => t.toFixed(0)).join(', ')} ms`,
]);
