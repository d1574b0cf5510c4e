// Characters from OBJ, PLY and STL, and from compressed GLB: against independent readers and writers, and with bad input.
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { describe, expect, it } from '@jest/globals';
import { Logger, NodeIO } from '@gltf-transform/core';
import { EXTMeshoptCompression, KHRDracoMeshCompression, KHRMeshQuantization } from '@gltf-transform/extensions';
import { draco, meshopt } from '@gltf-transform/functions';
import validator from 'gltf-validator';
import { MeshoptEncoder } from 'meshoptimizer';
import { BoxGeometry, Mesh, MeshStandardMaterial, SphereGeometry, type BufferGeometry } from 'three';
import { OBJExporter } from 'three/examples/jsm/exporters/OBJExporter.js';
import { PLYExporter } from 'three/examples/jsm/exporters/PLYExporter.js';
import { STLExporter } from 'three/examples/jsm/exporters/STLExporter.js';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import {
  guessScale,
  ImportError,
  readCharacter,
  stanceOf,
  readGlb,
  readMtl,
  scaleWarnings,
  writeGlb,
  type CharacterAsset,
} from './index.ts';

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);
const ball = new Mesh(new SphereGeometry(0.5, 24, 16), new MeshStandardMaterial());
const box = new Mesh(new BoxGeometry(1, 2, 3), new MeshStandardMaterial());

/** Area and signed volume of a mesh: what does not depend on how vertices are shared. */
function measure({ parts }: CharacterAsset): { area: number; volume: number } {
  let area = 0,
    volume = 0;
  for (const { positions: p, indices } of parts)
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => [0, 1, 2].map((x) => p[indices[i + k]! * 3 + x]!)) as [number[], number[], number[]];
      const u = b.map((v, k) => v - a[k]!),
        w = c.map((v, k) => v - a[k]!);
      const n = [u[1]! * w[2]! - u[2]! * w[1]!, u[2]! * w[0]! - u[0]! * w[2]!, u[0]! * w[1]! - u[1]! * w[0]!];
      area += Math.hypot(...n) / 2;
      volume += (a[0]! * n[0]! + a[1]! * n[1]! + a[2]! * n[2]!) / 6;
    }
  return { area, volume };
}
const three = (g: BufferGeometry): CharacterAsset =>
  ({ parts: [{ positions: g.attributes['position']!.array, indices: g.index!.array }] }) as unknown as CharacterAsset;

describe('files of independent writers', () => {
  const binary = (v: unknown) => new Uint8Array(v instanceof DataView ? v.buffer : (v as ArrayBuffer));
  const files: [string, string, () => Uint8Array, Mesh][] = [
    ['OBJ', 'a.obj', () => bytesOf(new OBJExporter().parse(ball)), ball],
    ['PLY, text', 'a.ply', () => bytesOf(new PLYExporter().parse(ball, null as never, {}) as unknown as string), ball],
    ['PLY, binary', 'a.ply', () => binary(new PLYExporter().parse(ball, null as never, { binary: true })), ball],
    [
      'PLY, big-endian',
      'a.ply',
      () => binary(new PLYExporter().parse(box, null as never, { binary: true, littleEndian: false } as never)),
      box,
    ],
    ['STL, text', 'a.stl', () => bytesOf(new STLExporter().parse(box, { binary: false })), box],
    ['STL, binary', 'a.stl', () => binary(new STLExporter().parse(ball, { binary: true })), ball],
  ];
  it.each(files)('%s holds the same solid', async (_name, fileName, make, mesh) => {
    const asset = await readCharacter(make(), fileName);
    const wanted = measure(three(mesh.geometry)),
      got = measure(asset);
    expect(got.area / wanted.area).toBeCloseTo(1, 4);
    expect(got.volume / wanted.volume).toBeCloseTo(1, 4);
    for (const { normals } of asset.parts)
      for (let i = 0; i < normals.length; i += 3) expect(Math.hypot(normals[i]!, normals[i + 1]!, normals[i + 2]!)).toBeCloseTo(1, 3);
  });
  it('OBJ comes to as many triangles as an independent reader makes of it', async () => {
    const text = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0.5 1.5 0\no kite\nf -5 -4 -3 -1 -2\ng flat\nf 1//  2//  3//\n';
    const theirs = new OBJLoader().parse(text);
    const count = theirs.children.reduce((n, c) => n + (c as Mesh).geometry.attributes['position']!.count / 3, 0);
    const ours = await readCharacter(bytesOf(text), 'kite.obj');
    expect(ours.triangles).toBe(count);
    expect(ours.parts.map((p) => p.name)).toEqual(['kite', 'flat']);
  });
});

describe('OBJ', () => {
  const square = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\n';
  it('takes materials from its MTL, and says when that is not there', async () => {
    const obj = bytesOf(`mtllib cloth.mtl\n${square}usemtl red\nf 1 2 3 4\n`);
    const mtl = bytesOf('newmtl red\nKd 1 0 0\nNs 62\nnewmtl steel\nPm 1\nPr 0.2\n');
    const dressed = await readCharacter(obj, 'a.obj', { beside: new Map([['cloth.mtl', mtl]]) });
    expect(dressed.parts[0]!.material).toMatchObject({ name: 'red', base: [1, 0, 0] });
    // exponent 62: alpha² = 2 / 64, roughness its fourth root of 2 / 64
    expect(dressed.parts[0]!.material.roughness).toBeCloseTo((2 / 64) ** 0.25, 6);
    const bare = await readCharacter(obj, 'a.obj');
    expect(bare.warnings.map((w) => w.message).join()).toContain('cloth.mtl was not dropped with it');
    expect([...readMtl('newmtl x\nPm 1\nPr 0.2', 'x.mtl').values()][0]).toMatchObject({ look: { metallic: 1, roughness: 0.2 } });
  });
  it('keeps colours that stand behind the coordinates, and joins broken lines', async () => {
    const asset = await readCharacter(bytesOf('v 0 0 0 1 0 0\nv 1 0 0 0 1 0\nv 1 1 0 0 0 1\nf 1 \\\n2 3\n'), 'a.obj');
    expect([...asset.parts[0]!.colours!]).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1]);
  });
  it.each([
    ['a word for a number', 'v 0 zero 0\n', 'Line 1: “zero” is no number'],
    ['a vertex that is not there', `${square}f 1 2 9\n`, 'Line 5: vertex 9 does not exist; there are 4'],
    ['an index of 0', `${square}f 0 1 2\n`, 'Line 5: “0” is no index of a vertex'],
    ['a face of two corners', `${square}f 1 2\n`, 'Line 5: a face has 2 corners'],
    ['no faces', square, 'no triangles'],
    ['not a number in it', 'v 0 nan 0\n', 'Line 1'],
  ])('with %s is refused: %s', async (_name, text, words) => {
    await expect(readCharacter(bytesOf(text), 'a.obj')).rejects.toThrow(words);
  });
});

describe('foreign encodings', () => {
  const obj = 'o Mäntelchen\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n';
  const marked = (mark: number[], body: Buffer): Uint8Array => Uint8Array.from([...mark, ...body]);
  it.each([
    ['UTF-8', marked([], Buffer.from(obj, 'utf8'))],
    ['UTF-8 with a mark', marked([0xef, 0xbb, 0xbf], Buffer.from(obj, 'utf8'))],
    ['UTF-16, little end first', marked([0xff, 0xfe], Buffer.from(obj, 'utf16le'))],
    ['UTF-16, big end first', marked([0xfe, 0xff], Buffer.from(obj, 'utf16le').swap16())],
    ['one byte a letter', marked([], Buffer.from(obj, 'latin1'))],
  ])('an OBJ in %s is read with its names', async (_name, bytes) => {
    const { parts, triangles } = await readCharacter(bytes, 'coat.obj');
    expect(triangles).toBe(1);
    expect(parts[0]!.name).toBe('Mäntelchen');
  });
});

describe('PLY', () => {
  const head = (more: string) => `ply\nformat ascii 1.0\n${more}end_header\n`;
  const xyz = 'property float x\nproperty float y\nproperty float z\n';
  it('decodes colours of bytes as they look', async () => {
    const text =
      head(
        `element vertex 3\n${xyz}property uchar red\nproperty uchar green\nproperty uchar blue\nelement face 1\nproperty list uchar int vertex_indices\n`,
      ) + '0 0 0 255 0 0\n1 0 0 188 188 188\n0 1 0 0 0 0\n3 0 1 2\n';
    const { colours } = (await readCharacter(bytesOf(text), 'a.ply')).parts[0]!;
    expect(colours![0]).toBe(1);
    // sRGB 188 is linear 0.503 (IEC 61966-2-1)
    expect(colours![3]).toBeCloseTo(0.503, 3);
  });
  it.each([
    ['another beginning', 'plx\n', 'does not begin with “ply”'],
    ['no end of its header', 'ply\nformat ascii 1.0\n', 'does not end'],
    ['an odd format', 'ply\nformat smoke 1.0\nend_header\n', 'format “smoke”'],
    ['an odd type', head('element vertex 1\nproperty quad x\n'), 'type “quad”'],
    ['no coordinates', `${head('element vertex 1\nproperty float u\n')}1\n`, 'no x, y and z'],
    ['no faces', `${head(`element vertex 1\n${xyz}`)}0 0 0\n`, 'a cloud of points'],
    ['too few values', head(`element vertex 2\n${xyz}`) + '0 0 0 1\n\n\n\n\n\n', 'ends before its last value'],
    ['less than its header says', head(`element vertex 100\n${xyz}`) + '0 0 0 1', 'announces 100 entries of “vertex”'],
    [
      'a face beyond its vertices',
      `${head(`element vertex 1\n${xyz}element face 1\nproperty list uchar int vertex_index\n`)}0 0 0\n3 0 1 2\n`,
      'names vertex 1; there are 1',
    ],
    ['a count beyond reason', head('element vertex 9999999999\n'), 'is no count'],
  ])('with %s is refused: %s', async (_name, text, words) => {
    await expect(readCharacter(bytesOf(text), 'a.ply')).rejects.toThrow(words);
  });
});

describe('STL', () => {
  it('that announces more than it holds, or stops within a triangle, is refused', async () => {
    const short = new Uint8Array(84 + 50);
    new DataView(short.buffer).setUint32(80, 9, true);
    await expect(readCharacter(short, 'a.stl')).rejects.toThrow('announces 9 triangles; the file has room for 1');
    await expect(readCharacter(bytesOf('solid a\nvertex 0 0 0\nvertex 1 0 0\nendsolid'), 'a.stl')).rejects.toThrow('not complete');
    await expect(readCharacter(new Uint8Array(10), 'a.stl')).rejects.toThrow('shorter than its header');
  });
  it.each([
    ['Z', new BoxGeometry(0.2, 0.3, 1.8), 'z', 2],
    ['Y', new BoxGeometry(0.2, 1.8, 0.3), 'y', 1],
  ] as const)('with %s up stays as it lies, and is known to be', async (_name, box, up, axis) => {
    const asset = await readCharacter(bytesOf(new STLExporter().parse(new Mesh(box), { binary: false })), 'a.stl');
    expect(asset.bounds.max[axis] - asset.bounds.min[axis]).toBeCloseTo(1.8, 6);
    expect(stanceOf(asset).up).toBe(up);
  });
  it('whose shape does not tell is taken for one with Z up, without being sure', async () => {
    const asset = await readCharacter(bytesOf(new STLExporter().parse(ball, { binary: false })), 'a.stl');
    expect(stanceOf(asset)).toEqual({ up: 'z', faces: '+z', sure: 0.3, by: 'format' });
  });
  it('corners that fall together are joined, so that it shades smoothly', async () => {
    const asset = await readCharacter(new Uint8Array((new STLExporter().parse(ball, { binary: true }) as DataView).buffer), 'a.stl');
    expect(asset.parts[0]!.positions.length / 3).toBeLessThan(24 * 16 + 32);
  });
});

const keeper = readFileSync(new URL('../../../demo/assets/keeper.glb', import.meta.url));
const require = createRequire(import.meta.url);
const dracoWasm = async () => new Uint8Array(readFileSync(require.resolve('draco3dgltf/draco_decoder_gltf.wasm')));

describe('compressed GLB', () => {
  it('by meshopt is read as what it was', async () => {
    await MeshoptEncoder.ready;
    const io = new NodeIO()
      .setLogger(new Logger(Logger.Verbosity.SILENT))
      .registerExtensions([EXTMeshoptCompression, KHRMeshQuantization])
      .registerDependencies({ 'meshopt.encoder': MeshoptEncoder });
    const asset = await readCharacter(bytesOf(new OBJExporter().parse(ball)), 'a.obj');
    const document = await io.readBinary(await writeGlb(asset, 'a.obj'));
    await document.transform(meshopt({ encoder: MeshoptEncoder }));
    const packed = await io.writeBinary(document);
    const back = measure(await readGlb(packed));
    expect(back.volume / measure(asset).volume).toBeCloseTo(1, 2);
  });
  it('by Draco is read with its decoder, and refused without', async () => {
    const { createEncoderModule, createDecoderModule } = require('draco3dgltf') as Record<string, () => Promise<unknown>>;
    const io = new NodeIO()
      .setLogger(new Logger(Logger.Verbosity.SILENT))
      .registerExtensions([KHRDracoMeshCompression])
      .registerDependencies({ 'draco3d.encoder': await createEncoderModule!(), 'draco3d.decoder': await createDecoderModule!() });
    const asset = await readCharacter(bytesOf(new OBJExporter().parse(ball)), 'a.obj');
    const document = await io.readBinary(await writeGlb(asset, 'a.obj'));
    await document.transform(draco());
    const packed = await io.writeBinary(document);
    const back = measure(await readGlb(packed, 'a.glb', { draco: dracoWasm }));
    expect(back.volume / measure(asset).volume).toBeCloseTo(1, 2);
    await expect(readGlb(packed)).rejects.toThrow('compressed by Draco');
  });
  it('that promises more than anybody could hold is refused before it is unfolded', async () => {
    const json = JSON.stringify({
      asset: { version: '2.0' },
      extensionsRequired: ['KHR_draco_mesh_compression'],
      accessors: [{ count: 99_000_000, componentType: 5126, type: 'VEC3' }],
    });
    const chunk = bytesOf(json.padEnd(Math.ceil(json.length / 4) * 4));
    const glb = new Uint8Array(20 + chunk.length);
    new DataView(glb.buffer).setUint32(0, 0x46546c67, true);
    new DataView(glb.buffer).setUint32(4, 2, true);
    new DataView(glb.buffer).setUint32(8, glb.length, true);
    new DataView(glb.buffer).setUint32(12, chunk.length, true);
    new DataView(glb.buffer).setUint32(16, 0x4e4f534a, true);
    glb.set(chunk, 20);
    await expect(readGlb(glb, 'a.glb', { draco: dracoWasm })).rejects.toThrow('would unfold into');
  });
});

describe('a written GLB', () => {
  it('passes the Khronos validator and comes back as it was', async () => {
    const asset = await readGlb(keeper, 'keeper.glb');
    const glb = await writeGlb(asset, 'keeper.glb');
    const report = (await validator.validateBytes(glb)) as { issues: { numErrors: number } };
    expect(report.issues.numErrors).toBe(0);
    const back = await readGlb(glb, 'keeper.glb');
    expect(back.triangles).toBe(asset.triangles);
    expect(back.landmarks).toEqual(asset.landmarks);
    expect(measure(back).area / measure(asset).area).toBeCloseTo(1, 6);
  });
});

describe('the size of a figure', () => {
  it.each([
    [175, 'centimetres', 0.01],
    [1750, 'millimetres', 0.001],
    [69, 'inches', 0.0254],
    [5.7, 'feet', 0.3048],
  ])('%f looks like %s', (height, unit, factor) => {
    expect(guessScale(height)[0]).toMatchObject({ unit, factor });
    expect(guessScale(height)[0]!.height).toBeGreaterThan(1.5);
  });
  it('of a person or a bust is believed; what fits no unit is scaled to a person', () => {
    expect(guessScale(1.7)).toEqual([]);
    expect(guessScale(0.6)).toEqual([]);
    // a head alone: as wide as it is tall, nearly; a body of that height would be narrow
    expect(guessScale(0.24, 0.17)).toEqual([]);
    expect(guessScale(0.17, 0.05)[0]!.height).toBeCloseTo(1.7, 1);
    expect(guessScale(5000)[0]!.height).toBeCloseTo(1.7, 1);
    expect(guessScale(0.002)[0]!.height).toBeCloseTo(1.7, 1);
  });
  it('of a head, a mask or a bust goes by its shape', () => {
    expect(guessScale(25, 16, 9)[0]).toMatchObject({ unit: 'centimetres' });
    expect(guessScale(250, 160, 90)[0]).toMatchObject({ unit: 'millimetres' });
    expect(guessScale(50, 45, 28)[0]).toMatchObject({ unit: 'centimetres' });
    // arms spread wide: still a figure
    expect(guessScale(70, 68, 12)[0]).toMatchObject({ unit: 'inches' });
  });
  it('is said only where it is absurd, with floating beside it', () => {
    expect(scaleWarnings({ min: [0, 0, 0], max: [1, 5, 1] })).toEqual([]);
    expect(scaleWarnings({ min: [0, 3, 0], max: [60, 178, 40] }).map((w) => w.code)).toEqual(['scale', 'floating']);
  });
});

describe('a file of no known kind', () => {
  it('is refused by its name', async () => {
    await expect(readCharacter(bytesOf('hello'), 'a.fbx')).rejects.toThrow('.fbx cannot be read; GLB, glTF, OBJ, PLY and STL can');
    await expect(readCharacter(bytesOf('hello'), 'a.glb')).rejects.toBeInstanceOf(ImportError);
  });
});
