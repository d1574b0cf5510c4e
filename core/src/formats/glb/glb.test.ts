import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { Document, NodeIO } from '@gltf-transform/core';
import { ImportError, readGlb, type ImportErrorCode } from '../index.ts';

/** A GLB made by gltf-transform, a writer that is not ours: one square, 1 m, standing. */
async function square(change: (d: Document) => void = () => undefined): Promise<Uint8Array> {
  const d = new Document();
  const buffer = d.createBuffer();
  const position = d
    .createAccessor('p')
    .setType('VEC3')
    .setArray(Float32Array.from([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]))
    .setBuffer(buffer);
  const indices = d
    .createAccessor('i')
    .setType('SCALAR')
    .setArray(Uint16Array.from([0, 1, 2, 0, 2, 3]))
    .setBuffer(buffer);
  const primitive = d
    .createPrimitive()
    .setAttribute('POSITION', position)
    .setIndices(indices)
    .setMaterial(d.createMaterial('card').setBaseColorFactor([0.2, 0.4, 0.6, 1]).setRoughnessFactor(0.3).setMetallicFactor(0));
  d.createScene('Card').addChild(d.createNode('card').setMesh(d.createMesh('card').addPrimitive(primitive)));
  change(d);
  return new NodeIO().writeBinary(d);
}

/** Rebuilds a GLB with its JSON changed; the binary chunk stays. */
function withJson(glb: Uint8Array, change: (json: Record<string, never>) => void): Uint8Array {
  const view = new DataView(glb.buffer, glb.byteOffset, glb.byteLength);
  const length = view.getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length))) as Record<string, never>;
  change(json);
  let text = JSON.stringify(json);
  while (new TextEncoder().encode(text).length % 4) text += ' ';
  const bytes = new TextEncoder().encode(text);
  const rest = glb.subarray(20 + length);
  const out = new Uint8Array(20 + bytes.length + rest.length);
  const v = new DataView(out.buffer);
  v.setUint32(0, 0x46546c67, true);
  v.setUint32(4, 2, true);
  v.setUint32(8, out.length, true);
  v.setUint32(12, bytes.length, true);
  v.setUint32(16, 0x4e4f534a, true);
  out.set(bytes, 20);
  out.set(rest, 20 + bytes.length);
  return out;
}

const refusal = async (bytes: Uint8Array): Promise<ImportError> => {
  try {
    await readGlb(bytes, 'bad.glb');
  } catch (error) {
    if (error instanceof ImportError) return error;
    throw error;
  }
  throw new Error('it was taken');
};

describe('reading a GLB', () => {
  it('takes mesh, material and size from a file of another writer', async () => {
    const asset = await readGlb(await square(), 'card.glb');
    expect(asset).toMatchObject({ name: 'Card', triangles: 2, bounds: { min: [0, 0, 0], max: [1, 1, 0] } });
    expect(asset.parts[0]!.material).toMatchObject({ roughness: 0.3, metallic: 0, transmission: 0 });
    expect(asset.parts[0]!.material.base[2]).toBeCloseTo(0.6, 6);
    expect([...asset.parts[0]!.normals.slice(0, 3)]).toEqual([0, 0, 1]);
    expect(asset.warnings.map((w) => w.code)).toEqual(expect.arrayContaining(['flat-shaded', 'no-landmarks']));
  });
  it('bakes node transforms, and a mirrored node is not inside out', async () => {
    const asset = await readGlb(await square((d) => d.getRoot().listNodes()[0]!.setScale([-2, 2, 2]).setTranslation([0, 1, 0])));
    expect(asset.bounds).toEqual({ min: [-2, 1, 0], max: [0, 3, 0] });
    const { positions: p, indices: i, normals } = asset.parts[0]!;
    const e = (a: number, b: number, k: number) => p[i[b]! * 3 + k]! - p[i[a]! * 3 + k]!;
    expect(Math.sign(e(0, 1, 0) * e(0, 2, 1) - e(0, 1, 1) * e(0, 2, 0))).toBe(Math.sign(normals[2]!));
  });
  it('proposes a head for a standing figure: at its top, facing +Z', async () => {
    const asset = await readGlb(await square((d) => d.getRoot().listNodes()[0]!.setScale([0.5, 1.75, 1])));
    expect(asset.head.source).toBe('proposed');
    expect(asset.head.height).toBeCloseTo(1.75 / 7.5, 6);
    expect(asset.head.origin[1]).toBeGreaterThan(1.5);
    expect(asset.head.forward).toEqual([0, 0, 1]);
  });
  it('reads the head from landmarks in the scene’s extras', async () => {
    const landmarks = { pupilL: [0.53, 1.6, 0.1], pupilR: [0.47, 1.6, 0.1], crown: [0.5, 1.72, 0], chinBottom: [0.5, 1.49, 0.08] };
    const { head } = await readGlb(await square((d) => d.getRoot().listScenes()[0]!.setExtras({ landmarks })));
    expect(head.source).toBe('file');
    expect(head.origin[1]).toBeCloseTo(1.6, 6);
    expect(head.forward[2]).toBeGreaterThan(0.9);
  });
  it('tells a wrong scale and a floating figure', async () => {
    const big = await readGlb(await square((d) => d.getRoot().listNodes()[0]!.setScale([60, 172, 60]).setTranslation([0, 5, 0])));
    const said = big.warnings.map((w) => w.message).join(' ');
    expect(said).toContain('172.0 m tall. This looks like centimetres: scaled by 0.01 it would be 1.72 m');
    expect(said).toContain('5.00 m above the floor');
  });
  it('reads names that are not ASCII', async () => {
    const asset = await readGlb(await square((d) => d.getRoot().listScenes()[0]!.setName('Wächterin 灯')));
    expect(asset.name).toBe('Wächterin 灯');
  });
});

describe('files that cannot be read', () => {
  it.each<[string, (good: Uint8Array) => Uint8Array, ImportErrorCode, RegExp]>([
    ['a picture', () => Uint8Array.from([137, 80, 78, 71, 13, 10, 26, 10, 0, 0, 0, 0]), 'not-glb', /does not begin with/],
    ['nothing', () => new Uint8Array(0), 'not-glb', /shorter than a GLB header/],
    ['a truncated file', (g) => g.slice(0, g.length - 40), 'truncated', /cut off/],
    ['a cut header', (g) => g.slice(0, 10), 'truncated', /shorter/],
    [
      'a header that announces gigabytes',
      (g) => (new DataView(g.buffer, g.byteOffset).setUint32(8, 0xfffffff0, true), g),
      'truncated',
      /announces 4294967280 bytes/,
    ],
    [
      'a chunk that announces gigabytes',
      (g) => (new DataView(g.buffer, g.byteOffset).setUint32(12, 0xfffffff0, true), g),
      'truncated',
      /chunk announces/,
    ],
    ['version 1', (g) => (new DataView(g.buffer, g.byteOffset).setUint32(4, 1, true), g), 'version', /version 1/],
    ['broken JSON', (g) => (g.fill(65, 24, 40), g), 'broken', /JSON chunk cannot be read/],
    [
      'an index out of range',
      (g) =>
        withJson(
          g,
          (j: Record<string, unknown>) =>
            ((j['accessors'] as { count: number; max?: number[]; type: string }[]).find((a) => a.type === 'VEC3')!.count = 2),
        ),
      'bad-mesh',
      /card: Triangle 0 uses vertex 2 of 2/,
    ],
    [
      'a buffer view beyond its buffer',
      (g) => withJson(g, (j: Record<string, unknown>) => ((j['bufferViews'] as { byteLength: number }[])[0]!.byteLength = 99999)),
      'broken',
      /reaches beyond its buffer/,
    ],
    [
      'a buffer longer than the file',
      (g) => withJson(g, (j: Record<string, unknown>) => ((j['buffers'] as { byteLength: number }[])[0]!.byteLength = 10_000_000_000)),
      'truncated',
      /announces 10000000000 bytes/,
    ],
    [
      'a buffer in another file',
      (g) => withJson(g, (j: Record<string, unknown>) => ((j['buffers'] as { uri?: string }[])[0]!.uri = 'mesh.bin')),
      'broken',
      /another file \(mesh.bin\)/,
    ],
    [
      'compression that cannot be read',
      (g) => withJson(g, (j: Record<string, unknown>) => (j['extensionsRequired'] = ['KHR_draco_mesh_compression'])),
      'unsupported',
      /compressed by Draco/,
    ],
    [
      'a texture that does not exist',
      (g) =>
        withJson(
          g,
          (j: Record<string, unknown>) =>
            ((j['materials'] as { pbrMetallicRoughness: object }[])[0]!.pbrMetallicRoughness = { baseColorTexture: { index: 3 } }),
        ),
      'broken',
      /Material card uses texture 3, which is not there/,
    ],
  ])('%s', async (_name, spoil, code, message) => {
    const error = await refusal(spoil((await square()).slice()));
    expect(error.code).toBe(code);
    expect(error.message).toMatch(message);
  });
  it('a vertex that is not a number', async () => {
    const error = await refusal(await square((d) => d.getRoot().listAccessors()[0]!.getArray()!.set([NaN], 4)));
    expect(error.code).toBe('bad-mesh');
    expect(error.message).toBe('card: Vertex 1 has the coordinate y = NaN.');
  });
  it('no triangles', async () => {
    expect((await refusal(await square((d) => d.getRoot().listNodes()[0]!.setMesh(null)))).code).toBe('no-triangles');
    expect((await refusal(await square((d) => d.getRoot().listMeshes()[0]!.listPrimitives()[0]!.setMode(1)))).code).toBe('no-triangles');
  });
  it('a picture in another file is told and the plain colour stands in', async () => {
    const glb = withJson(await square(), (j: Record<string, unknown>) => {
      j['images'] = [{ uri: 'skin.png' }];
      j['textures'] = [{ source: 0 }];
      (j['materials'] as { pbrMetallicRoughness: object }[])[0]!.pbrMetallicRoughness = { baseColorTexture: { index: 0 } };
    });
    const asset = await readGlb(glb);
    expect(asset.triangles).toBe(2);
    expect(asset.warnings.find((w) => w.code === 'textures')!.message).toContain('skin.png is not in the file');
  });
});

describe('the demo’s keeper', () => {
  it('has real-world size, landmarks, a clear cornea and separate parts', async () => {
    const asset = await readGlb(readFileSync(new URL('../../../../demo/assets/keeper.glb', import.meta.url)), 'keeper.glb');
    expect(asset.head.source).toBe('file');
    expect(asset.head.height).toBeGreaterThan(0.2);
    expect(asset.head.height).toBeLessThan(0.26);
    expect(asset.head.forward[2]).toBeGreaterThan(0.99);
    expect(asset.parts.filter((p) => p.material.transmission > 0).map((p) => p.name)).toEqual(['cornea L', 'cornea R']);
    expect(asset.parts.map((p) => p.name)).toEqual(expect.arrayContaining(['skin', 'hair', 'coat', 'iris L', 'eye white R']));
  });
});
