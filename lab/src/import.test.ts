// The command line brings in what the page brings in: geometry against three's loaders, files against the glTF validator.
import { createHash } from 'node:crypto';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { decodePicture, readGlb, writePng, type Setup } from '@plinket/core';
import { validateBytes } from 'gltf-validator';
import { Box3, BoxGeometry, Mesh, SphereGeometry } from 'three';
import { OBJExporter } from 'three/examples/jsm/exporters/OBJExporter.js';
import { STLExporter } from 'three/examples/jsm/exporters/STLExporter.js';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { HEAD, panelLight, setupWith } from '../../core/src/testing/setups.ts';
import { plinket } from './testing.ts';

const folder = mkdtempSync(join(tmpdir(), 'plinket-import-')),
  home = process.cwd();
beforeAll(() => {
  process.chdir(folder);
  // a figure in centimetres with Z up that faces −Y: a body, and a tag that is to stay behind
  const body = new BoxGeometry(60, 30, 180).translate(0, 0, 90).toNonIndexed(),
    tag = new BoxGeometry(4, 4, 4).translate(50, 0, 100).toNonIndexed();
  const exporter = new OBJExporter(),
    named = (of: BoxGeometry, name: string) => Object.assign(new Mesh(of as never), { name });
  const first = exporter.parse(named(body as never, 'body')),
    second = new OBJExporter().parse(named(tag as never, 'tag'));
  // indices of the second object go on behind those of the first
  const shifted = second.replace(/(\d+)\/(\d+)\/(\d+)/g, (_, v: string, t: string, n: string) => `${+v + 36}/${+t + 36}/${+n + 36}`);
  writeFileSync('figure.obj', `mtllib figure.mtl\n${first.replace(/\nf/, '\nusemtl cloth\nf')}${shifted}`);
  writeFileSync('figure.mtl', 'newmtl cloth\nKd 1 1 1\nmap_Kd weave.png\n');
  writeFileSync('weave.png', writePng(2, 2, Uint8Array.of(200, 0, 0, 255, 0, 200, 0, 255, 0, 0, 200, 255, 9, 9, 9, 255)));
  writeFileSync('ball.stl', new STLExporter().parse(new Mesh(new SphereGeometry(0.2, 16, 12)), { binary: false }));
});
afterAll(() => {
  process.chdir(home);
  rmSync(folder, { recursive: true, force: true });
});

interface Said {
  metres: { width: number; height: number; depth: number };
  triangles: number;
  parts: { name: string; winding: string }[];
  stance: { up: string; faces: string; sure: number; by: string };
  scale: { unit: string; factor: number }[];
  head: { source: string; sure: number };
  warnings: { code: string; message: string }[];
  notes: string[];
}
const said = async (...args: string[]): Promise<Said> => {
  const { status, stdout, stderr } = await plinket(...args);
  expect([status, stderr]).toEqual([0, '']);
  return JSON.parse(stdout) as Said;
};
const bytesOf = (name: string): Uint8Array => new Uint8Array(readFileSync(name));

describe('plinket inspect', () => {
  it('guesses how an OBJ stands and what it was made in, and says how sure it is', async () => {
    const found = await said('inspect', 'figure.obj');
    expect(found.stance.up).toBe('z');
    expect(found.stance.sure).toBeGreaterThan(0.3);
    expect(found.stance.sure).toBeLessThan(1);
    expect(found.scale[0]).toMatchObject({ unit: 'centimetres', factor: 0.01 });
    expect(found.head).toMatchObject({ source: 'proposed' });
    expect(found.head.sure).toBeLessThan(0.5);
    expect(found.parts.map((p) => p.winding)).toEqual(['outwards', 'outwards']);
    expect(found.warnings.map((w) => w.code)).not.toContain('textures');
    const theirs = new Box3().setFromObject(new OBJLoader().parse(readFileSync('figure.obj', 'utf8')));
    expect(found.metres.depth).toBeCloseTo(theirs.max.z - theirs.min.z, 4);
  });
  it('says what a file for a light is, and why another is none', async () => {
    expect(await said('inspect', 'weave.png')).toMatchObject({ kind: 'gobo', width: 2, height: 2 });
    writeFileSync('cut.hdr', '#?RADIANCE\n');
    const { status, stderr } = await plinket('inspect', 'cut.hdr');
    expect([status, stderr]).toEqual([2, 'cut.hdr: The file ends within its header.']);
  });
});

describe('plinket import', () => {
  it('stands a figure up, sizes it, leaves a part behind, keeps its pictures, and is a valid glTF', async () => {
    const made = await said(
      'import',
      'figure.obj',
      '--up',
      'z',
      '--face',
      '-y',
      '--scale',
      '0.01',
      '--parts',
      'body',
      '--out',
      'figure.glb',
    );
    expect(made.metres).toMatchObject({ width: 0.6, height: 1.8, depth: 0.3 });
    expect(made.parts.map((p) => p.name)).toEqual(['body']);
    expect(made.stance.up).toBe('y');
    expect(made.scale).toEqual([]);
    const { parts } = await readGlb(bytesOf('figure.glb'));
    const { texture } = parts[0]!.material.textures!.base!;
    expect([...texture.data]).toEqual([...decodePicture(bytesOf('weave.png'), 'image/png', 'weave').data]);
    const { issues } = (await validateBytes(bytesOf('figure.glb'))) as { issues: { numErrors: number; numWarnings: number } };
    expect(issues).toMatchObject({ numErrors: 0, numWarnings: 0 });
  });
  it('smooths, subdivides, and turns what is inside out', async () => {
    const before = await said('inspect', 'ball.stl');
    const inside = readFileSync('ball.stl', 'utf8').replace(/(vertex.*\n)(\s*vertex.*\n)(\s*vertex.*\n)/g, '$1$3$2');
    writeFileSync('inside.stl', inside);
    const found = await said('inspect', 'inside.stl');
    expect(found.parts[0]!.winding).toBe('inside out');
    expect(found.warnings.map((w) => w.code)).toContain('inside-out');
    const made = await said('import', 'inside.stl', '--winding', '--smooth', '60', '--subdivide', '1', '--out', 'ball.glb');
    expect(made.triangles).toBe(before.triangles * 4);
    expect(made.parts[0]!.winding).toBe('outwards');
    expect(made.notes.join()).toContain('was inside out and has been turned');
  });
  it.each([
    [['--up', 'x'], '--up x: y or z'],
    [['--face', '+q'], '--face +q'],
    [['--parts', 'hat'], '--parts hat: there are body, tag.'],
    [['--smooth', '200'], '--smooth 200'],
    [['--scale', '0'], '--scale'],
    [['--out', 'x.obj'], '.glb'],
  ])('refuses %j by name', async (options, words) => {
    const { status, stderr } = await plinket('import', 'figure.obj', '--out', 'x.glb', ...options);
    expect(status).toBe(2);
    expect(stderr).toContain(words);
    expect(existsSync('x.glb')).toBe(false);
  });
});

describe('plinket render', () => {
  it.each(['figure.obj', 'ball.stl'])('takes a setup that names %s', async (name) => {
    const asset = createHash('sha256').update(readFileSync(name)).digest('hex');
    const subject = { rank: 'a0', name: 'F', asset, visible: true, position: [0, 0, 0], turn: 0, scale: 1, head: HEAD, materials: {} };
    const setup = { ...setupWith({ key: panelLight() }), subjects: { items: { f: subject } } } as unknown as Setup;
    writeFileSync('named.json', JSON.stringify(setup));
    // the second one is read from what the first one kept
    for (const out of ['a.png', 'b.png']) {
      const { status, stderr } = await plinket('render', 'named.json', '--size', '16x20', '--samples', '1', '--workers', '1', '--out', out);
      expect([status, stderr]).toEqual([0, '']);
    }
    expect(bytesOf('a.png')).toEqual(bytesOf('b.png'));
  });
});
