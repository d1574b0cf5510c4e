// Files from elsewhere that were read wrong once (testing/elsewhere), and what others write: checked against Debian's oiiotool and the package pngjs.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { NodeIO } from '@gltf-transform/core';
import { PNG } from 'pngjs';
import { readCube } from '../film/index.ts';
import { intensityAt } from '../light/index.ts';
import { decodePicture } from './glb/index.ts';
import { trianglesOf } from './glb/triangles.ts';
import { ImportError, inspectLightFile, layersOf, readCharacter, readExr, readGlb, readProfile } from './index.ts';

const bytesOf = (name: string): Uint8Array => new Uint8Array(readFileSync(new URL(`../testing/elsewhere/${name}`, import.meta.url)));
const textOf = (name: string): string => Buffer.from(bytesOf(name)).toString('latin1');
const folder = mkdtempSync(join(tmpdir(), 'plinket-elsewhere-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Has oiiotool do things, all in one run: it takes long to begin. */
function oiio(...args: string[]): void {
  const { status, stderr } = spawnSync('oiiotool', args, { encoding: 'utf8' });
  expect({ status, stderr }).toEqual({ status: 0, stderr: '' });
}
const at = (name: string): string => join(folder, `${name}.exr`);
const read = (name: string) => readExr(new Uint8Array(readFileSync(at(name))));
const apart = (a: Float32Array, b: Float32Array): number => {
  expect(a.length).toBe(b.length);
  return a.reduce((m, v, i) => Math.max(m, Math.abs(v - b[i]!) / Math.max(1, Math.abs(b[i]!))), 0);
};
/** Written so that nothing can be read wrong. */
const PLAIN = ['--scanline', '--attrib', 'openexr:lineOrder', 'increasingY', '--compression', 'none'];
const COMPRESSIONS = ['none', 'rle', 'zips', 'zip', 'piz', 'pxr24', 'b44', 'b44a', 'dwaa', 'dwab'];
const ORDERS = ['increasingY', 'decreasingY', 'tiles'];
const WINDOWS: Record<string, string[]> = {
  smaller: ['--origin', '+5+3', '--fullsize', '60x50+0+0'],
  larger: ['--origin', '+0+0', '--fullsize', '20x20+4+6'],
  beside: ['--origin', '-10+7', '--fullsize', '48x41+0+0'],
};

describe('pictures of domes', () => {
  beforeAll(() => {
    const corners = '--fill:topleft=1,.1,.2:topright=.1,2,.3:bottomleft=.2,.1,3:bottomright=.7,.8,4';
    oiio('--create', '48x41', '3', corners, '48x41', '--noise:type=uniform:min=0:max=.2:seed=3', '-d', 'half', '-o', at('pattern'));
    const all = COMPRESSIONS.flatMap((c) => ORDERS.map((order) => [c, order, `${c} ${order}`] as const));
    const ordered = (order: string) =>
      order === 'tiles' ? ['--tile', '16', '16'] : ['--scanline', '--attrib', 'openexr:lineOrder', order];
    oiio(at('pattern'), '-d', 'half', ...all.flatMap(([c, order, name]) => [...ordered(order), '--compression', c, '-o', at(name)]));
    const inner = ['--chnames', 'inner.R,inner.G,inner.B'];
    oiio(
      ...[at('pattern'), '--mulc', '0.5', '-d', 'half', '-o', at('halved'), at('pattern'), ...inner, '--chappend', '-d', 'half'],
      ...['piz', 'pxr24', 'b44', 'dwaa'].flatMap((c) => ['--compression', c, '-o', at(`layered ${c}`)]),
      ...['--attrib', 'oiio:subimagename', 'right', '--compression', 'zip', '--tile', '16', '16', '-o', at('second')],
      ...[at('pattern'), '--attrib', 'oiio:subimagename', 'left', at('second'), '--siappend', '--compression', 'zip', '-o', at('parts')],
    );
    oiio('--oiioattrib', 'threads', '1', at('pattern'), '--compression', 'zip', '-otex:fileformatname=openexr', at('copies'));
    const foreign = new URL('../testing/elsewhere/w-decr-dwab.exr', import.meta.url).pathname;
    oiio(
      ...all.flatMap(([, , name]) => [at(name), ...PLAIN, '-o', at(`${name} plain`), '--pop']),
      ...[foreign, ...PLAIN, '-o', at('foreign plain'), '--pop'],
      ...Object.entries(WINDOWS).flatMap(([name, args]) => [
        at('pattern'),
        ...args,
        '--compression',
        'zip',
        '-o',
        at(name),
        '--croptofull',
        ...PLAIN,
        '-o',
        at(`${name} plain`),
        '--pop',
      ]),
    );
  });

  it.each(COMPRESSIONS.flatMap((c) => ORDERS.map((order) => [c, order])))('%s, %s: as another reader reads them', (compression, order) => {
    const name = `${compression} ${order}`,
      theirs = read(`${name} plain`);
    expect(theirs.rgb.some((v) => v > 2)).toBe(true);
    // a step of a half near 1; who undoes DWA's cosines rounds on the way, too
    expect(apart(read(name).rgb, theirs.rgb)).toBeLessThan(compression!.startsWith('dwa') ? 2 ** -8 : 2 ** -10);
  });

  it('whose lines come from below are as another reader reads them', () => {
    expect(apart(readExr(bytesOf('w-decr-dwab.exr')).rgb, read('foreign plain').rgb)).toBeLessThan(2 ** -7);
  });

  it.each(Object.keys(WINDOWS))('whose data window is %s than or beside what is displayed are what is displayed', (name) => {
    const ours = read(name),
      theirs = read(`${name} plain`);
    expect([ours.width, ours.height]).toEqual([theirs.width, theirs.height]);
    expect(apart(ours.rgb, theirs.rgb)).toBe(0);
    expect(ours.rgb.some((v) => v > 1)).toBe(true);
    expect(ours.notes.join()).toContain('around them it is black');
    expect(theirs.notes.join()).not.toContain('around them');
  });

  it('of several parts offer the layers of each, lines or tiles, by the parts’ names', () => {
    const all = new Uint8Array(readFileSync(at('parts')));
    expect(layersOf(all)).toEqual(['left', 'right', 'right.inner']);
    expect(() => readExr(all, 'middle')).toThrow('There is no layer “middle”; there are “left”, “right”, “right.inner”.');
    const left = readExr(all);
    expect(left.notes.join()).toContain('the one named “left” is used');
    expect(apart(left.rgb, read('pattern').rgb)).toBe(0);
    expect(apart(readExr(all, 'right').rgb, read('halved').rgb)).toBe(0);
    expect(apart(readExr(all, 'right.inner').rgb, read('pattern').rgb)).toBe(0);
  });

  it.each(['piz', 'pxr24', 'b44', 'dwaa'])('have layers in %s, too', (compression) => {
    const bytes = new Uint8Array(readFileSync(at(`layered ${compression}`)));
    expect(layersOf(bytes)).toEqual(['', 'inner']);
    const near = compression === 'dwaa' || compression === 'b44' ? 2 ** -4 : 2 ** -9;
    expect(apart(readExr(bytes, 'inner').rgb, read('pattern').rgb)).toBeLessThan(near);
    expect(apart(readExr(bytes).rgb, read('halved').rgb)).toBeLessThan(near);
  });

  it('with smaller copies of themselves are read in full', () => {
    expect(apart(read('copies').rgb, read('pattern').rgb)).toBe(0);
  });

  it.each(['exr-762-h-dwaa', 'exr-1241-h-dwab', 'exr-1511-h-dwaa', 'exr-piz-claims-16384x8192'])('%s is refused with a reason', (name) => {
    const bytes = new Uint8Array(readFileSync(new URL(`../testing/hostile/${name}.exr`, import.meta.url)));
    expect(() => inspectLightFile(bytes)).toThrow(/cannot be decompressed: (DWA|it announces)|The file ends|too many/);
  });

  it('with one infinite pixel are no brighter for it', () => {
    const { rgb, notes } = readExr(bytesOf('inf1.exr'));
    expect(notes).toContain('1 pixel infinite, as bright now as the brightest that is not.');
    const brightest = [...rgb].sort((a, b) => b - a);
    expect(brightest[0]).toBe(brightest[1]);
    expect(brightest[0]).toBeLessThan(65505);
  });
});

/** A grey PNG of few bits, written by hand (PNG specification, 5, 7.2, 11.2). */
function greyPng(width: number, depth: number, grey: Uint8Array): Uint8Array {
  const chunk = (type: string, data: number[] | Uint8Array): Buffer => {
    const body = Buffer.concat([Buffer.from(type), Buffer.from(data)]),
      out = Buffer.alloc(body.length + 8);
    out.writeUInt32BE(data.length, 0);
    body.copy(out, 4);
    let crc = 0xffffffff;
    for (const b of body) {
      crc ^= b;
      for (let k = 0; k < 8; k++) crc = crc & 1 ? (crc >>> 1) ^ 0xedb88320 : crc >>> 1;
    }
    out.writeUInt32BE(~crc >>> 0, body.length + 4);
    return out;
  };
  const height = grey.length / width,
    row = Math.ceil((width * depth) / 8),
    lines = new Uint8Array(height * (row + 1));
  grey.forEach((v, i) => {
    const bit = (i % width) * depth,
      to = Math.floor(i / width) * (row + 1) + 1 + (bit >> 3);
    lines[to] = lines[to]! | (v << (8 - depth - (bit & 7)));
  });
  return new Uint8Array(
    Buffer.concat([
      Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
      chunk('IHDR', [0, 0, 0, width, 0, 0, 0, height, depth, 0, 0, 0, 0]),
      chunk('IDAT', deflateSync(lines)),
      chunk('IEND', []),
    ]),
  );
}

describe('PNG', () => {
  it.each(['png-grey-1bit.png', 'png-rgb-trns.png'])('%s: as another reader reads it', (name) => {
    const { width, height, data } = decodePicture(bytesOf(name), 'image/png', name),
      theirs = PNG.sync.read(Buffer.from(bytesOf(name)));
    expect([width, height]).toEqual([theirs.width, theirs.height]);
    // that reader leaves no colour where nothing is seen
    const seen = (of: ArrayLike<number>) => Array.from(of, (v, i) => (of[i | 3] === 0 && (i & 3) < 3 ? 0 : v));
    expect(seen(data)).toEqual([...theirs.data]);
    expect(new Set(data).size).toBeGreaterThan(1);
  });

  it.each([1, 2, 4])('of %d bits, in rows that end within a byte, as another reader reads it', (depth) => {
    const grey = Uint8Array.from({ length: 13 * 3 }, (_, i) => (i * 5) & (2 ** depth - 1)),
      png = greyPng(13, depth, grey);
    const { data } = decodePicture(png, 'image/png', 'few');
    expect([...data]).toEqual([...PNG.sync.read(Buffer.from(png)).data]);
    expect([...data].filter((_, i) => i % 4 === 0)).toEqual([...grey].map((v) => (v * 255) / (2 ** depth - 1)));
  });
});

describe('look-ups', () => {
  it('with a value that is no colour are refused by its line', () => {
    expect(() => readCube(textOf('cube-1905-a.cube'))).toThrow(/^Line 6: .*1e38.* is no colour/);
  });
});

describe('photometric profiles', () => {
  it('of 1986 take the factor of ballast and lamp in', () => {
    expect(intensityAt(readProfile(textOf('ies-1986-factor.ies')).profile, 0, 0)).toBeCloseTo(1000 * 0.8 * 0.9, 9);
    // since 1995 it is kept for later use
    const later = textOf('ies-1986-factor.ies').replace(/^ACME/, 'IESNA:LM-63-1995');
    expect(intensityAt(readProfile(later).profile, 0, 0)).toBeCloseTo(1000 * 0.8, 9);
    expect(intensityAt(readProfile(textOf('ies-1986-factor.ies').replace(/^ACME/, 'IESNA91')).profile, 0, 0)).toBeCloseTo(720, 9);
  });
  it('that are measured round but for their end go round', () => {
    const { profile } = readProfile(textOf('ies-open-circle-0-315.ies'));
    expect(intensityAt(profile, 0, 315)).toBe(2750);
    expect(intensityAt(profile, 0, 360 - 22.5)).toBe((2750 + 1000) / 2);
    expect(intensityAt(profile, 22.5, -1e-9)).toBeCloseTo(900, 5);
  });
  it('may go on with anything after the last number', () => {
    const { profile, notes } = readProfile(textOf('ies-ctrl-z.ies'));
    expect(intensityAt(profile, 45, 0)).toBe(600);
    expect(notes.join()).toContain('1 word after the last intensity was left out');
  });
  it.each([
    ['ies-vertical-0-360.ies', /^Line 9: A vertical angle is 270; they run from 0 to 180/],
    ['ies-2008-tilt.ies', /^Line 13: An intensity is 1.00e\+308 cd/],
  ])('%s is refused by its line', (name, words) => expect(() => readProfile(textOf(name))).toThrow(words));
  it.each([
    ['a hexadecimal number', '0x1F4', /“0x1F4” is no number/],
    ['an infinity', '1e999', /“1e999” is no number/],
    ['a word', 'Infinity', /“Infinity” is no number/],
  ])('%s is refused', (_name, word, words) => {
    expect(() => readProfile(textOf('ies-1986-factor.ies').replace('1000', word))).toThrow(words);
  });
  it.each([
    ['unit', '1 -1 1 5 1 1 3 0 0 0', /The unit of the dimensions is 3/],
    ['multiplier', '1 -1 -1 5 1 1 1 0 0 0', /the candela multiplier is -1/],
  ])('an impossible %s is refused', (_name, line, words) => {
    expect(() => readProfile(textOf('ies-1986-factor.ies').replace('1 -1 1 5 1 1 1 0 0 0', line))).toThrow(words);
  });
  it('are read in time that grows with their words, also where all stand in one line', () => {
    const words = textOf('ies-ctrl-z.ies')
      .trimEnd()
      .slice(0, -1)
      .concat(` ${'7 '.repeat(500_000)}`);
    expect(readProfile(words).notes.join()).toContain('500000 words after the last intensity were left out');
  });
  it('of 2019 are named right', () => {
    expect(readProfile(textOf('ies-ctrl-z.ies').replace('IESNA:LM-63-2002', 'IES:LM-63-2019')).notes.join()).not.toContain('1986');
  });
});

describe('characters', () => {
  const glb = (name: string) => readGlb(bytesOf(`${name}.glb`), `${name}.glb`);
  const said = async (name: string): Promise<string> => (await glb(name)).warnings.map((w) => w.message).join(' ');
  /** An array of the first primitive as another reader has it. */
  async function arrayOf(name: string, semantic: string, target?: number): Promise<number[]> {
    const document = await new NodeIO().readBinary(bytesOf(`${name}.glb`));
    const primitive = document.getRoot().listMeshes()[0]!.listPrimitives()[0]!;
    return [...(target === undefined ? primitive : primitive.listTargets()[target]!).getAttribute(semantic)!.getArray()!];
  }

  it('of strips are triangles, all wound as their normals point', async () => {
    const { parts, warnings } = await glb('strip');
    const [{ positions, normals, indices }] = parts as [(typeof parts)[0]];
    expect(warnings.map((w) => w.code)).not.toContain('skipped');
    const corner = (i: number): [number, number, number] => [positions[i * 3]!, positions[i * 3 + 1]!, positions[i * 3 + 2]!];
    expect(indices.length).toBeGreaterThanOrEqual(6);
    for (let t = 0; t < indices.length; t += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => corner(indices[t + k]!)) as [number[], number[], number[]];
      const u = b.map((v, k) => v - a[k]!),
        v = c.map((w, k) => w - a[k]!);
      const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
      expect(n.reduce((s, w, k) => s + w * normals[indices[t]! * 3 + k]!, 0)).toBeGreaterThan(0);
    }
  });
  it('of fans go round their first corner; what has two corners in one place is left out', () => {
    expect([...trianglesOf(6, [7, 1, 2, 3])]).toEqual([7, 1, 2, 7, 2, 3]);
    expect([...trianglesOf(5, [0, 1, 2, 3])]).toEqual([0, 1, 2, 2, 1, 3]);
    expect([...trianglesOf(5, [0, 1, 2, 2, 3])]).toEqual([0, 1, 2]);
  });
  it('whose picture lies by the second set of coordinates have these', async () => {
    const { parts } = await glb('texcoord1');
    expect([...parts[0]!.uvs!]).toEqual(await arrayOf('texcoord1', 'TEXCOORD_1'));
    expect(await arrayOf('texcoord1', 'TEXCOORD_1')).not.toEqual(await arrayOf('texcoord1', 'TEXCOORD_0'));
  });
  it.each(['morph_meshweights', 'morph_nodeweights'])('%s: stand as their weights say', async (name) => {
    const { parts } = await glb(name),
      by = await arrayOf(name, 'POSITION', 0);
    const wished = (await arrayOf(name, 'POSITION')).map((v, i) => v + by[i]!);
    expect(by.some((v) => v !== 0)).toBe(true);
    [...parts[0]!.positions].forEach((v, i) => expect(v).toBeCloseTo(wished[i]!, 5));
  });
  it('that need what is not read are refused by its name', async () => {
    await expect(glb('specgloss_required')).rejects.toThrow('needs KHR_materials_pbrSpecularGlossiness, which cannot be read');
  });
  it.each([
    ['clearcoat_tex', 'not read here: pictures of clear coat.'],
    ['volume', 'not read here: volume within surfaces.'],
    ['webp_optional_nofallback', 'not read here: pictures in WebP.'],
    ['glb-inf-colour', 'of its colours lay beyond 0 to 1, or were no number.'],
    ['glb-nan-normal', 'no direction; smooth ones were made.'],
  ])('%s: what is left out or mended is said', async (name, words) => {
    expect(await said(name)).toContain(words);
    const { parts } = await glb(name);
    for (const { positions, normals, colours } of parts)
      for (const values of [positions, normals, ...(colours ? [colours] : [])]) expect(values.every((v) => Number.isFinite(v))).toBe(true);
  });
  it.each([
    ['glb-sparse-count-1e15.glb', /changes 1000000000000000 of its \d+ elements/],
    ['glb-zero-accessor-300M.glb', /announces \d+ elements in its accessors; 100 million are the most/],
  ])('%s is refused by its counts', async (name, words) => {
    const bytes = new Uint8Array(readFileSync(new URL(`../testing/hostile/${name}`, import.meta.url)));
    await expect(readCharacter(bytes, name)).rejects.toThrow(words);
  });
  it.each(['gltf-1090-sparse_nobase.gltf', 'ply-list-0.ply', 'ply-empty-elements.ply'])('%s is refused with a reason', async (name) => {
    await expect(readCharacter(bytesOf(name), name)).rejects.toThrow(ImportError);
  });
  it.each([
    ['an array where an object should be', { scenes: [[]], nodes: [3] }],
    ['a mesh of words', { scenes: [{ nodes: [0] }], nodes: [{ mesh: 'a' }], meshes: 'none' }],
    ['accessors that are none', { accessors: { 0: 1 } }],
    ['null everywhere', { scenes: null, nodes: [null], meshes: [null], materials: [null], accessors: [null] }],
  ])('whose JSON has %s are refused by type', async (_name, json) => {
    const text = JSON.stringify({ asset: { version: '2.0' }, ...json });
    await expect(readCharacter(Buffer.from(text), 'wrong.gltf')).rejects.toThrow(ImportError);
  });
});
