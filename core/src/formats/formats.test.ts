import { describe, expect, it } from '@jest/globals';
import { decode } from 'fast-png';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { panelLight, setupWith } from '../testing/setups.ts';
import { READING_KEYWORD, readingText, readPngReading, readPngSetup, SETUP_KEYWORD, writeExr, writePng } from './index.ts';

describe('PNG with its setup inside', () => {
  const rgba = Uint8ClampedArray.from({ length: 6 * 4 * 4 }, (_, i) => (i * 7) % 256);
  const setup = setupWith({ key: panelLight({ name: 'Schlüssellicht 灯 “α”' }) }, { brief: 'the lamp “will” go — out' });
  it('gives back picture and setup, whatever letters it has', () => {
    const png = writePng(6, 4, rgba, setup);
    expect(readPngSetup(png)).toEqual(setup);
    const image = decode(png);
    expect([...image.data]).toEqual([...rgba]);
    expect([...image.text[SETUP_KEYWORD]!].every((c) => c.charCodeAt(0) < 127)).toBe(true);
  });
  it('is nothing where there is none, and an error where it is broken', () => {
    expect(readPngSetup(writePng(6, 4, rgba))).toBeUndefined();
    expect(() => readPngSetup(writePng(6, 4, rgba, { ...setup, name: '' }))).toThrow('name');
    expect(() => readPngSetup(Uint8Array.from([1, 2, 3]))).toThrow();
  });
  it('carries what was read of the face; one that cannot be read is none', () => {
    const reading = { pattern: 'loop', ratio: 3.5, catchlights: [{ light: 'Schlüssel', hour: 10 }] };
    const png = writePng(6, 4, rgba, setup, readingText(reading));
    expect(readPngReading(png)).toEqual(reading);
    expect(readPngSetup(png)).toEqual(setup);
    for (const wrong of ['{', '{"ratio": -1, "catchlights": []}', '{"catchlights": [{"light": "a", "hour": 13}]}'])
      expect(readPngReading(writePng(6, 4, rgba, setup, { [READING_KEYWORD]: wrong }))).toBeUndefined();
    expect(readPngReading(writePng(6, 4, rgba, setup))).toBeUndefined();
  });
});

describe('EXR', () => {
  const w = 5,
    h = 3;
  const channel = (k: number) => Float32Array.from({ length: w * h }, (_, i) => (i + 1) * k - 2);
  it('is read back by an independent reader (three’s EXRLoader), bottom row first there', () => {
    const bytes = writeExr(w, h, [
      { name: 'R', data: channel(0.5) },
      { name: 'G', data: channel(100) },
      { name: 'B', data: channel(-0.001) },
      { name: 'A', data: new Float32Array(w * h).fill(1) },
    ]);
    const image = new EXRLoader().setDataType(FloatType).parse(bytes.buffer as ArrayBuffer) as unknown as {
      width: number;
      height: number;
      data: Float32Array;
    };
    expect([image.width, image.height]).toEqual([w, h]);
    const data = image.data;
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const i = y * w + x,
          o = ((h - 1 - y) * w + x) * 4;
        expect([data[o], data[o + 1], data[o + 2], data[o + 3]]).toEqual([channel(0.5)[i], channel(100)[i], channel(-0.001)[i], 1]);
      }
  });
  it('packs blocks of sixteen lines as ZIP, which others unpack: three’s EXRLoader, and Debian’s ffmpeg', () => {
    const [wide, high] = [37, 41];
    const wave = (k: number) =>
      Float32Array.from({ length: wide * high }, (_, i) => Math.fround(k + Math.round(Math.sin(i / 50) * 64) / 256 + (i % wide) / 64));
    const named = { R: wave(0.5), G: wave(2), B: wave(1e-3) };
    const bytes = writeExr(
      wide,
      high,
      Object.entries(named).map(([name, data]) => ({ name, data })),
    );
    expect(bytes.length).toBeLessThan(wide * high * 12 * 0.7);
    const { data } = new EXRLoader().setDataType(FloatType).parse(bytes.buffer as ArrayBuffer) as unknown as { data: Float32Array };
    const file = join(mkdtempSync(join(tmpdir(), 'plinket-')), 'x.exr');
    writeFileSync(file, bytes);
    // planes in ffmpeg's order: green, blue, red
    const raw = spawnSync('ffmpeg', ['-v', 'error', '-i', file, '-pix_fmt', 'gbrpf32le', '-f', 'rawvideo', '-'], { maxBuffer: 1e8 }).stdout;
    const planes = new Float32Array(Uint8Array.from(raw).buffer);
    expect(planes.length).toBe(wide * high * 3);
    for (let y = 0; y < high; y++)
      for (let x = 0; x < wide; x++) {
        const i = y * wide + x,
          o = ((high - 1 - y) * wide + x) * 4;
        expect([data[o], data[o + 1], data[o + 2]]).toEqual([named.R[i], named.G[i], named.B[i]]);
        expect([planes[2 * wide * high + i], planes[i], planes[wide * high + i]]).toEqual([named.R[i], named.G[i], named.B[i]]);
      }
  });
  it('stores what does not get smaller as it is', () => {
    const noise = new Float32Array(new Uint32Array(400).map((_, i) => Math.imul(i + 1, 2654435761) ^ (i << 13)).buffer).map((v) =>
      Number.isFinite(v) ? v : 1,
    );
    const bytes = writeExr(20, 20, [{ name: 'Y', data: noise }]),
      // one value is a block of eight bytes before it, eight of the table, and itself
      head = writeExr(1, 1, [{ name: 'Y', data: Float32Array.of(1) }]).length - 20;
    expect(bytes.length).toBe(head + 2 * 16 + noise.length * 4);
    expect([...new Float32Array(bytes.slice(head + 16 + 8, head + 16 + 8 + 16 * 80).buffer)]).toEqual([...noise.subarray(0, 16 * 20)]);
  });
  it('orders channels by name and marks long names', () => {
    const text = (b: Uint8Array) => new TextDecoder('latin1').decode(b);
    const bytes = writeExr(
      1,
      1,
      ['key.specular.R', 'B', 'A', 'key.diffuse.R'].map((name) => ({ name, data: Float32Array.of(1) })),
    );
    const at = ['A\0', 'B\0', 'key.diffuse.R\0', 'key.specular.R\0'].map((n) => text(bytes).indexOf(n, 8));
    expect([...at].sort((a, b) => a - b)).toEqual(at);
    expect(bytes[5]! & 4).toBe(0);
    expect(writeExr(1, 1, [{ name: 'a-light-with-a-long-name.specular.R', data: Float32Array.of(1) }])[5]! & 4).toBe(4);
  });
  it('refuses channels that do not fit', () => {
    expect(() => writeExr(2, 2, [{ name: 'R', data: new Float32Array(3) }])).toThrow('Channel R has 3 values for 2 × 2 pixels.');
    expect(() =>
      writeExr(1, 1, [
        { name: 'R', data: new Float32Array(1) },
        { name: 'R', data: new Float32Array(1) },
      ]),
    ).toThrow('same name');
  });
});
