import { createHash } from 'node:crypto';
import { describe, expect, it } from '@jest/globals';
import { zlibSync } from 'fflate';
import { encode as encodePng } from 'fast-png';
import { DataTexture, FloatType, HalfFloatType, RGBAFormat } from 'three';
import { EXRExporter, NO_COMPRESSION, ZIP_COMPRESSION, ZIPS_COMPRESSION } from 'three/examples/jsm/exporters/EXRExporter.js';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js';
import { IESLoader } from 'three/examples/jsm/loaders/IESLoader.js';
import { intensityAt } from '../light/index.ts';
import { atMost, inspectLightFile, layersOf, LightFileShelf, readExr, readHdr, readProfile, writeExr } from './index.ts';

const ascii = (text: string): number[] => [...text].map((c) => c.charCodeAt(0));
const sha = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** Four rows of eight pixels, run-length encoded as Radiance writes them. */
function hdr(rows = 4, width = 8, header = '#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n'): Uint8Array {
  const out = ascii(`${header}-Y ${rows} +X ${width}\n`);
  for (let j = 0; j < rows; j++) {
    out.push(2, 2, width >> 8, width & 255);
    // red: one run; green: plain; blue: both; exponent: a run
    out.push(128 + width, 40 + j * 10);
    out.push(width, ...Array.from({ length: width }, (_, i) => 100 + i));
    out.push(128 + 4, 7, width - 4, ...Array.from({ length: width - 4 }, (_, i) => 200 + i));
    out.push(128 + width, 130);
  }
  return Uint8Array.from(out);
}

describe('Radiance pictures', () => {
  it('are read as an independent reader does, but for the half step of Ward’s formula', () => {
    const bytes = hdr();
    const ours = readHdr(bytes);
    const loader = new HDRLoader();
    loader.type = FloatType;
    const theirs = loader.parse(bytes.slice().buffer) as { width: number; height: number; data: Float32Array };
    expect([ours.width, ours.height]).toEqual([theirs.width, theirs.height]);
    // a step is 2^(130 − 136); the loader divides by 255 and leaves the half step out
    for (let p = 0; p < 32; p++)
      for (let c = 0; c < 3; c++) expect(ours.rgb[p * 3 + c]! - (theirs.data[p * 4 + c]! * 255) / 256).toBeCloseTo(0.5 * 2 ** -6, 6);
  });
  it('may be plain, upside down, and say an exposure', () => {
    const pixels = [128, 64, 32, 129, 1, 2, 3, 0];
    const read = (size: string, more = '') => readHdr(Uint8Array.from([...ascii(`#?RGBE\n${more}\n${size}\n`), ...pixels]));
    expect([...read('-Y 1 +X 2').rgb].map((v) => Number(v.toFixed(4)))).toEqual([1.0039, 0.5039, 0.2539, 0, 0, 0]);
    expect(read('-Y 1 -X 2').rgb[3]).toBeCloseTo(1.0039, 4);
    expect(read('+Y 2 +X 1').rgb[3]).toBeCloseTo(1.0039, 4);
    expect(read('-Y 1 +X 2', 'EXPOSURE=2\n').rgb[0]).toBeCloseTo(0.502, 4);
  });
  it('say that they are not 2 : 1, and are taken all the same', () => {
    expect(readHdr(hdr(4, 8)).notes).toEqual([]);
    expect(readHdr(hdr(2, 8)).notes).toEqual(['8 × 2 is not 2 : 1; it is stretched over the whole dome.']);
  });
  it.each([
    ['nothing at all', Uint8Array.of(), 'does not begin with'],
    ['another magic', Uint8Array.from(ascii('P6 8 4 255\n')), 'does not begin with'],
    ['a header without end', Uint8Array.from(ascii('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n')), 'ends within its header'],
    ['an odd format', hdr(4, 8, '#?RADIANCE\nFORMAT=32-bit_rle_xyze\n\n'), '32-bit_rle_xyze'],
    ['no size', Uint8Array.from(ascii('#?RADIANCE\n\nnonsense\n')), 'no size'],
    ['an absurd size', Uint8Array.from(ascii('#?RADIANCE\n\n-Y 99999999 +X 99999999\n')), 'too many'],
    ['a missing row', hdr().subarray(0, 90), 'ends in row'],
    ['a run beyond its row', Uint8Array.from([...ascii('#?RADIANCE\n\n-Y 1 +X 8\n'), 2, 2, 0, 8, 200, 1, 1, 1]), 'longer than the row'],
  ])('of %s are refused: %s', (_name, bytes, words) => expect(() => readHdr(bytes)).toThrow(words));
});

/** A picture as an independent writer makes it. */
async function exported(compression: number, type: typeof FloatType | typeof HalfFloatType, width = 32, height = 16): Promise<Uint8Array> {
  const data = Float32Array.from({ length: width * height * 4 }, (_, i) =>
    i % 4 === 3 ? 1 : Math.round((((i * 37) % 101) / 16) * 64) / 64,
  );
  const texture = new DataTexture(data, width, height, RGBAFormat, FloatType);
  return new EXRExporter().parse(texture, { compression, type });
}

describe('OpenEXR pictures', () => {
  it.each([
    ['no compression, float', NO_COMPRESSION, FloatType],
    ['ZIPS, half', ZIPS_COMPRESSION, HalfFloatType],
    ['ZIP, half', ZIP_COMPRESSION, HalfFloatType],
    ['ZIP, float', ZIP_COMPRESSION, FloatType],
  ] as const)('of an independent writer are read as an independent reader does: %s', async (_name, compression, type) => {
    const bytes = await exported(compression, type);
    const ours = readExr(bytes);
    const theirs = new EXRLoader().setDataType(FloatType).parse(bytes.slice().buffer);
    expect([ours.width, ours.height]).toEqual([theirs.width, theirs.height]);
    const { width, height } = ours;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        for (let c = 0; c < 3; c++) expect(ours.rgb[(y * width + x) * 3 + c]).toBe(theirs.data![((height - 1 - y) * width + x) * 4 + c]);
  });

  const grey = (v: number) => new Float32Array(8).fill(v);
  const layered = writeExr(4, 2, [
    { name: 'key.R', data: grey(1) },
    { name: 'key.G', data: grey(2) },
    { name: 'key.B', data: grey(3) },
    { name: 'depth.Z', data: grey(9) },
    { name: 'R', data: grey(4) },
    { name: 'G', data: grey(5) },
    { name: 'B', data: grey(6) },
    { name: 'grey.Y', data: grey(7) },
  ]);
  it('with layers let one be chosen; without a choice it is the one without a name', () => {
    expect(layersOf(layered).sort()).toEqual(['', 'grey', 'key']);
    expect([...readExr(layered).rgb.slice(0, 3)]).toEqual([4, 5, 6]);
    expect([...readExr(layered, 'key').rgb.slice(0, 3)]).toEqual([1, 2, 3]);
    expect([...readExr(layered, 'grey').rgb.slice(0, 3)]).toEqual([7, 7, 7]);
    expect(readExr(layered, 'key').notes[0]).toContain('key');
    expect(() => readExr(layered, 'fill')).toThrow('no layer “fill”');
    // a small upload is a piece of a pool, not an array of its own
    const pool = Buffer.alloc(layered.length + 40, 7);
    pool.set(layered, 24);
    expect([...readExr(pool.subarray(24, 24 + layered.length), 'key').rgb.slice(0, 3)]).toEqual([1, 2, 3]);
  });
  it('are mended where they cannot be light, and say how many pixels', () => {
    const bad = Float32Array.of(-1, NaN, Infinity, 1, 1, 1, 1, 1);
    const { rgb, notes } = readExr(
      writeExr(
        4,
        2,
        ['R', 'G', 'B'].map((name) => ({ name, data: bad })),
      ),
    );
    expect([...rgb.slice(0, 9)]).toEqual([0, 0, 0, 0, 0, 0, 1, 1, 1]);
    expect(notes).toEqual([
      '1 pixel below 0 set to 0: 20 % more light.',
      '1 pixel infinite, as bright now as the brightest that is not.',
      '1 pixel no number, black now.',
    ]);
  });
  it('run lengths are undone', () => {
    // one row of 8 half pixels of 1 (3c00) in one channel: halves apart, then differences (0, 128 × 7, 188, 128 × 7), then runs
    const packed = [-1 & 255, 0, 6, 128, -1 & 255, 188, 6, 128];
    const i32 = (v: number) => [v & 255, (v >> 8) & 255, (v >> 16) & 255, (v >> 24) & 255];
    const attribute = (name: string, type: string, value: number[]) => [...ascii(`${name}\0${type}\0`), ...i32(value.length), ...value];
    const head = [
      ...i32(20000630),
      ...i32(2),
      ...attribute('channels', 'chlist', [...ascii('Y\0'), ...i32(1), 0, 0, 0, 0, ...i32(1), ...i32(1), 0]),
      ...attribute('compression', 'compression', [1]),
      ...attribute('dataWindow', 'box2i', [0, 0, 7, 0].flatMap(i32)),
      0,
    ];
    const bytes = Uint8Array.from([...head, ...i32(head.length + 8), 0, 0, 0, 0, ...i32(0), ...i32(packed.length), ...packed]);
    expect([...readExr(bytes).rgb]).toEqual(new Array(24).fill(1));
  });
  it.each([
    ['another magic', (b: Uint8Array) => b.fill(0, 0, 4), 'no OpenEXR file'],
    ['cut within the header', (b: Uint8Array) => b.subarray(0, 60), 'The file ends'],
    ['cut within the rows', (b: Uint8Array) => b.subarray(0, b.length - 20), 'cut off|ends'],
    ['of several parts', (b: Uint8Array) => (b.set([0x10], 5), b), 'names no channels'],
  ])('%s: refused', (_name, spoil, words) => expect(() => readExr(spoil(layered.slice()))).toThrow(new RegExp(words)));
  it('a block that does not decompress is refused', async () => {
    const bytes = (await exported(ZIP_COMPRESSION, HalfFloatType)).slice();
    bytes.fill(7, bytes.length - 60);
    expect(() => readExr(bytes)).toThrow(/decompressed|bytes instead/);
    expect(zlibSync(Uint8Array.of(1)).length).toBeGreaterThan(0);
  });
  it('are averaged down when they are wider than asked', () => {
    const small = atMost(readExr(layered), 2);
    expect([small.width, small.height, small.rgb[0]]).toEqual([2, 1, 4]);
    expect(small.notes).toContain('Reduced to 2 × 1.');
  });
});

/** An invented luminaire: 1000 cd ahead, nothing from 60° on, twice as wide across. */
const IES = [
  'IESNA:LM-63-2002',
  '[TEST] 7',
  '[MANUFAC] nobody',
  '[LUMINAIRE] Harbour lamp',
  'TILT=NONE',
  '1 -1 2 5 3 1 2 .1 .1 .1',
  '1.0 1.0\t60',
  '0 20 40 60 90',
  '0 45 90',
  '500 400 200 0 0',
  '500 425 250 50 0 500 450,300 100 0',
].join('\r\n');

describe('photometric profiles', () => {
  it('are read with multiplier, tabs, commas and broken lines', () => {
    const { profile, name, watts } = readProfile(IES);
    expect(name).toBe('Harbour lamp');
    expect(watts).toBe(60);
    expect(intensityAt(profile, 0, 0)).toBe(1000);
    expect(intensityAt(profile, 20, 45)).toBe(850);
    expect(intensityAt(profile, 30, 90)).toBe(750);
    expect(intensityAt(profile, 40, 270)).toBe(600);
  });
  it('agree at measured angles with an independent reader, which scales to 1 and keeps whole degrees', () => {
    const texture = new IESLoader();
    texture.type = FloatType;
    // it wants each horizontal angle on lines of its own
    const tidy = IES.replaceAll('\r', '').replaceAll(/[\t,]/g, ' ').replace('50 0 500', '50 0\n500');
    const { image } = texture.parse(tidy) as unknown as { image: { data: Float32Array; width: number } };
    const { profile } = readProfile(IES);
    for (const gamma of [0, 20, 40, 60])
      for (const c of [0, 45])
        expect(Math.abs(image.data[gamma + c * image.width]! - intensityAt(profile, gamma, c) / 1000)).toBeLessThan(0.01);
  });
  const line = (n: number, text: string) =>
    IES.split('\r\n')
      .map((l, i) => (i === n - 1 ? text : l))
      .join('\n');
  it.each([
    ['no TILT', line(5, ''), 'Line 1: There is no line TILT'],
    ['TILT of a file', line(5, 'TILT=lamp.dat'), 'Line 5: TILT=LAMP.DAT names another file'],
    ['too few angles said', line(6, '1 -1 2 0 3 1 2 .1 .1 .1'), 'Line 6: the number of vertical angles is 0'],
    ['another type', line(6, '1 -1 2 5 3 2 2 .1 .1 .1'), 'Line 6: Photometric type B'],
    ['angles that fall', line(8, '0 20 10 60 90'), 'Line 8: vertical angles must rise'],
    ['a word among numbers', line(10, '500 bright 200 0 0'), 'Line 10: “bright” is no number'],
    ['light below 0', line(10, '500 -4 200 0 0'), 'Line 10: An intensity is -4'],
    ['too few intensities', line(11, '500 425'), 'Line 11: The file ends where intensity 8 of 15'],
    ['only zeros', line(10, '0 0 0 0 0').replace('500 425 250 50 0 500 450,300 100 0', '0 0 0 0 0 0 0 0 0 0'), 'All intensities are 0'],
  ])('%s: %s', (_name, text, words) => expect(() => readProfile(text)).toThrow(words));
  it('of 1986, with tilt factors, are taken with a note', () => {
    expect(readProfile(line(1, 'Harbour lamps, 1986')).notes[0]).toContain('1986');
    expect(readProfile(line(5, 'TILT=INCLUDE\n1\n2\n0 90\n1 1')).notes.join()).toContain('Tilt factors');
  });
});

describe('files that lights name', () => {
  const png = encodePng({ width: 2, height: 1, channels: 4, depth: 8, data: Uint8Array.of(255, 255, 255, 255, 255, 0, 0, 0) });
  it('say what they are', () => {
    expect(inspectLightFile(hdr())).toMatchObject({ kind: 'dome', width: 8, height: 4, layers: [''] });
    expect(inspectLightFile(png)).toMatchObject({ kind: 'gobo', width: 2, height: 1 });
    expect(inspectLightFile(Uint8Array.from(ascii(IES)))).toMatchObject({ kind: 'profile', peak: 1000, name: 'Harbour lamp' });
    expect(() => inspectLightFile(Uint8Array.from(ascii('hello')))).toThrow('no .hdr, .exr, .ies or .png');
    expect(() => inspectLightFile(hdr().subarray(0, 80))).toThrow('ends in row');
  });
  it('are kept on a shelf and read once', () => {
    const shelf = new LightFileShelf();
    const bytes = hdr();
    expect(shelf.environment(sha(bytes), '')).toBeUndefined();
    shelf.add(sha(bytes), bytes);
    shelf.add('png', png);
    shelf.add('ies', Uint8Array.from(ascii(IES)));
    const e = shelf.environment(sha(bytes), '');
    expect(e).toMatchObject({ width: 8, height: 4 });
    expect(shelf.environment(sha(bytes), '')).toBe(e);
    // what is transparent lets nothing through
    expect([...shelf.gobo('png')!.rgb]).toEqual([1, 1, 1, 0, 0, 0]);
    expect(shelf.profile('ies')!.candela).toHaveLength(15);
    expect(shelf.has('other')).toBe(false);
  });
});
