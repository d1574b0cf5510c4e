// Mending of a character before it is kept, and .gltf files with their neighbours; files are written by gltf-transform and checked
// by the official validator.
import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { Document, NodeIO, type Primitive } from '@gltf-transform/core';
import { validateBytes } from 'gltf-validator';
import { BoxGeometry, SphereGeometry, type BufferGeometry } from 'three';
import { loopSubdivide } from '../../geometry/index.ts';
import type { Part } from '../../scene/index.ts';
import { partsAt } from '../../scene/index.ts';
import { guessStance, readCharacter, readGlb, stanceOf, type ImportError } from '../index.ts';
import { mendGlb, mends } from './mend.ts';
import { NO_MENDING } from './mending.ts';

/** Boxes by centre and size as parts of one file. */
async function boxes(
  list: Record<string, [number[], number[]] | BufferGeometry>,
  change: (d: Document) => void = () => undefined,
  fine = 1,
): Promise<Uint8Array> {
  const d = new Document();
  const buffer = d.createBuffer(),
    scene = d.createScene('s');
  for (const [name, what] of Object.entries(list)) {
    const g = Array.isArray(what)
      ? new BoxGeometry(...(what[1] as [number, number, number]), fine, fine, fine).translate(...(what[0] as [number, number, number]))
      : what;
    const vec = (attribute: string) =>
      d
        .createAccessor()
        .setType('VEC3')
        .setArray(Float32Array.from(g.getAttribute(attribute).array))
        .setBuffer(buffer);
    const primitive = d
      .createPrimitive()
      .setAttribute('POSITION', vec('position'))
      .setAttribute('NORMAL', vec('normal'))
      .setIndices(d.createAccessor().setType('SCALAR').setArray(Uint16Array.from(g.getIndex()!.array)).setBuffer(buffer));
    scene.addChild(d.createNode(name).setMesh(d.createMesh(name).addPrimitive(primitive)));
  }
  change(d);
  return new NodeIO().writeBinary(d);
}
/** A figure of boxes, 1.8 m: shins, trunk with wide shoulders, feet that reach out by `toes`; turned by a map of its points. */
const figure = (map: (p: number[]) => number[] = (p) => p): Record<string, [number[], number[]]> => {
  const size = (s: number[]) => map(s).map(Math.abs);
  return {
    trunk: [map([0, 1.2, 0]), size([0.6, 1.2, 0.25])],
    shins: [map([0, 0.35, 0]), size([0.3, 0.6, 0.12])],
    feet: [map([0, 0.04, 0.1]), size([0.3, 0.08, 0.3])],
  };
};
const partsOf = async (list: Record<string, [number[], number[]]>): Promise<Part[]> =>
  (await readGlb(await boxes(list, undefined, 10))).parts;
const valid = async (glb: Uint8Array) =>
  ((await validateBytes(glb)) as { issues: { numErrors: number; messages: { severity: number }[] } }).issues.messages.filter(
    (m) => m.severity === 0,
  );

describe('how a figure stands', () => {
  it.each([
    ['as glTF says', (p: number[]) => p, 'y', '+z'],
    ['away from the camera', ([x, y, z]: number[]) => [-x!, y!, -z!], 'y', '-z'],
    ['to the left', ([x, y, z]: number[]) => [z!, y!, -x!], 'y', '+x'],
    ['to the right', ([x, y, z]: number[]) => [-z!, y!, x!], 'y', '-x'],
    ['with Z up', ([x, y, z]: number[]) => [x!, -z!, y!], 'z', '+z'],
    ['with Z up, away', ([x, y, z]: number[]) => [-x!, z!, y!], 'z', '-z'],
  ] as const)('%s', async (_name, map, up, faces) => {
    const guess = guessStance(await partsOf(figure(map)));
    expect(guess).toMatchObject({ up, faces, by: 'feet' });
    expect(guess.sure).toBeGreaterThan(0.4);
    // mended by the guess, it stands and faces as it should
    const { glb } = await mendGlb(await boxes(figure(map), undefined, 10), { ...NO_MENDING, stance: guess });
    const { parts, bounds } = await readGlb(glb);
    expect(guessStance(parts)).toMatchObject({ up: 'y', faces: '+z' });
    [-0.3, 0, -0.125].forEach((v, k) => expect(bounds.min[k]!).toBeCloseTo(v, 5));
    [0.3, 1.8, 0.25].forEach((v, k) => expect(bounds.max[k]!).toBeCloseTo(v, 5));
    expect(await valid(glb)).toEqual([]);
  });
  it('a bust tells nothing', async () => {
    expect(
      guessStance(
        await partsOf({
          bust: [
            [0, 1.3, 0],
            [0.5, 0.5, 0.3],
          ],
        }),
      ),
    ).toEqual({ up: 'y', faces: '+z', sure: 0.3, by: 'format' });
  });
  it.each(['keeper', 'keeper-figure', 'signaller', 'signaller-figure', 'goat', 'goat-figure'])(
    'of the demo’s %s is nothing to mend',
    async (name) => {
      const asset = await readGlb(Uint8Array.from(readFileSync(new URL(`../../../../demo/assets/${name}.glb`, import.meta.url))));
      expect(stanceOf(asset)).toEqual({ up: 'y', faces: '+z', sure: 1, by: 'landmarks' });
      // nor does the mesh alone say otherwise
      expect(guessStance(asset.parts)).toMatchObject({ up: 'y', faces: '+z' });
      expect(stanceOf({ ...asset, head: { ...asset.head, forward: [-1, 0, 0.2] } }).faces).toBe('-x');
    },
  );
  it.each([
    ['away', ([x, y, z]: number[]) => [-x!, y!, -z!], 'y', '-z'],
    ['to the right', ([x, y, z]: number[]) => [-z!, y!, x!], 'y', '-x'],
    ['on its back', ([x, y, z]: number[]) => [x!, -z!, y!], 'z', '+z'],
    ['on its face, away', ([x, y, z]: number[]) => [-x!, z!, y!], 'z', '-z'],
  ] as const)('a bust whose face is found is known to look %s', async (_name, map, up, faces) => {
    const { parts } = await readGlb(Uint8Array.from(readFileSync(new URL('../../../../demo/assets/keeper.glb', import.meta.url))));
    const turned = parts.map((p) => {
      const positions = p.positions.slice();
      for (let i = 0; i < positions.length; i += 3) positions.set(map([...p.positions.subarray(i, i + 3)]), i);
      return { ...p, positions };
    });
    const guess = guessStance(turned);
    expect(guess).toMatchObject({ up, faces, by: 'face' });
    expect(guess.sure).toBeGreaterThan(0.8);
  });
  it('the demo’s figure faces the front, and its clip goes with it when it is turned', async () => {
    const bytes = Uint8Array.from(readFileSync(new URL('../../../../demo/assets/signaller-figure.glb', import.meta.url)));
    const asset = await readGlb(bytes);
    expect(guessStance(asset.parts)).toMatchObject({ up: 'y', faces: '+z' });
    const { glb } = await mendGlb(bytes, { ...NO_MENDING, stance: { up: 'y', faces: '+x' } });
    const turned = await readGlb(glb);
    // what looked to +X looks to +Z: x becomes −z … for skin, clip and landmarks alike
    const pose = { clip: asset.rig!.clips[0]!.name, time: 2 };
    const a = partsAt(asset, pose)[0]!.positions,
      b = partsAt(turned, pose)[0]!.positions;
    for (let i = 0; i < a.length; i += 3000) {
      expect(b[i]!).toBeCloseTo(-a[i + 2]!, 3);
      expect(b[i + 1]!).toBeCloseTo(a[i + 1]!, 3);
      expect(b[i + 2]!).toBeCloseTo(a[i]!, 3);
    }
    expect(turned.head.forward[0]).toBeCloseTo(-asset.head.forward[2], 5);
    expect(turned.head.source).toBe('file');
  });
});

describe('mending', () => {
  const both = () =>
    boxes({
      ball: new SphereGeometry(0.5, 12, 8),
      box: [
        [2, 0, 0],
        [1, 1, 1],
      ],
    });
  it('does nothing unless it is asked', () => {
    expect(mends(NO_MENDING)).toBe(false);
    expect(mends({ ...NO_MENDING, crease: 180 })).toBe(true);
  });
  it('leaves parts behind', async () => {
    const { glb } = await mendGlb(await both(), { ...NO_MENDING, without: ['box'] });
    expect((await readGlb(glb)).parts.map((p) => p.name)).toEqual(['ball']);
    await expect(mendGlb(await both(), { ...NO_MENDING, without: ['box', 'ball'] }).then(({ glb: g }) => readGlb(g))).rejects.toThrow(
      'no triangles',
    );
  });
  it('smooths up to the crease angle and keeps harder edges', async () => {
    const { glb } = await mendGlb(await both(), { ...NO_MENDING, crease: 60 });
    const [ball, box] = (await readGlb(glb)).parts;
    for (let i = 0; i < ball!.positions.length; i += 3) {
      const dot = [0, 1, 2].reduce((s, k) => s + 2 * ball!.positions[i + k]! * ball!.normals[i + k]!, 0);
      expect(dot).toBeGreaterThan(0.96);
    }
    for (let i = 0; i < box!.normals.length; i += 3) expect(Math.max(...box!.normals.subarray(i, i + 3).map(Math.abs))).toBeCloseTo(1, 5);
    expect(await valid(glb)).toEqual([]);
  });
  it('turns what is inside out, and says so', async () => {
    const inside = await boxes(
      {
        box: [
          [0, 0, 0],
          [1, 1, 1],
        ],
      },
      (d) => {
        const p = d.getRoot().listMeshes()[0]!.listPrimitives()[0]!;
        p.getIndices()!.setArray(Uint16Array.from([...p.getIndices()!.getArray()!].reverse()));
      },
    );
    const { glb, notes } = await mendGlb(inside, { ...NO_MENDING, winding: true });
    expect(notes).toEqual(['box was inside out and has been turned.']);
    const [box] = (await readGlb(glb)).parts;
    const [a, b, c] = [0, 1, 2].map((k) => [...box!.positions.subarray(box!.indices[k]! * 3, box!.indices[k]! * 3 + 3)]) as [
      number[],
      number[],
      number[],
    ];
    const n = [0, 1, 2].map((k) => {
      const [i, j] = [(k + 1) % 3, (k + 2) % 3];
      return (b[i]! - a[i]!) * (c[j]! - a[j]!) - (b[j]! - a[j]!) * (c[i]! - a[i]!);
    });
    expect(n.reduce((s, v, k) => s + v * a[k]!, 0)).toBeGreaterThan(0);
    expect((await mendGlb(await both(), { ...NO_MENDING, winding: true })).notes).toEqual([]);
  });
  it('subdivides: four times the triangles a step, rounder', async () => {
    const { glb } = await mendGlb(await both(), { ...NO_MENDING, subdivide: 2 });
    const [before, after] = [(await readGlb(await both())).parts, (await readGlb(glb)).parts];
    expect(after[1]!.indices).toHaveLength(before[1]!.indices.length * 16);
    // a cube shrinks towards Loop's limit; its corner's neighbours depend on how its squares are cut
    const reach = Math.max(...after[1]!.positions.map((v, i) => (i % 3 === 0 ? Math.abs(v - 2) : Math.abs(v))));
    expect(reach).toBeLessThan(0.47);
    expect(reach).toBeGreaterThan(0.3);
    expect(await valid(glb)).toEqual([]);
    // nothing is left of the coarse mesh
    const document = await new NodeIO().readBinary(glb);
    for (const accessor of document.getRoot().listAccessors()) expect(accessor.listParents().length).toBeGreaterThan(1);
  });
  it('subdivides what bends: at a pose it is what the posed mesh would be, subdivided', async () => {
    const bytes = Uint8Array.from(readFileSync(new URL('../../../../demo/assets/signaller.glb', import.meta.url)));
    const coarse = await readGlb(bytes);
    const { glb, notes } = await mendGlb(bytes, { ...NO_MENDING, subdivide: 1 });
    expect(notes).toEqual([]);
    const fine = await readGlb(glb);
    expect(fine.triangles).toBe(4 * coarse.triangles);
    expect(fine.warnings.filter((w) => w.code === 'skin')).toEqual([]);
    const pose = { clip: coarse.rig!.clips[0]!.name, time: 2.6 };
    const [a, b] = [partsAt(coarse, pose)[0]!, partsAt(fine, pose)[0]!];
    const wanted = loopSubdivide(a.positions, a.indices);
    // corners are shared in an order of their own: compared as triangles
    let most = 0,
      moved = 0;
    for (let i = 0; i < b.indices.length; i += 211)
      for (let k = 0; k < 3; k++) {
        most = Math.max(most, Math.abs(b.positions[b.indices[i]! * 3 + k]! - wanted.positions[wanted.indices[i]! * 3 + k]!));
        moved = Math.max(moved, Math.abs(b.positions[b.indices[i]! * 3 + k]! - fine.parts[0]!.positions[b.indices[i]! * 3 + k]!));
      }
    expect(moved).toBeGreaterThan(0.02);
    expect(most).toBeLessThan(0.001);
    expect(await valid(glb)).toEqual([]);
  });
  it('subdivides what morphs: displacements are smoothed as positions are', async () => {
    const bulge = (d: Document) => {
      const p = d.getRoot().listMeshes()[0]!.listPrimitives()[0]!;
      const position = p.getAttribute('POSITION')!;
      // what lies at one place moves as one
      const at = position.getArray()!;
      const deltas = Float32Array.from(at, (v, i) => (i % 3 === 1 ? v * 0.5 : 0.05 * Math.sin(9 * at[i - (i % 3) + 1]!)));
      const accessor = d.createAccessor().setType('VEC3').setArray(deltas).setBuffer(d.getRoot().listBuffers()[0]!);
      p.addTarget(d.createPrimitiveTarget().setAttribute('POSITION', accessor));
    };
    const source = await boxes({ box: new BoxGeometry(1, 1, 1, 3, 3, 3) }, bulge);
    const { glb } = await mendGlb(source, { ...NO_MENDING, subdivide: 1 });
    const [before, after] = await Promise.all(
      [source, glb].map(async (bytes) => (await new NodeIO().readBinary(bytes)).getRoot().listMeshes()[0]!.listPrimitives()[0]!),
    );
    const morphed = (p: Primitive): Float32Array => {
      const deltas = p.listTargets()[0]!.getAttribute('POSITION')!.getArray()!;
      return Float32Array.from(p.getAttribute('POSITION')!.getArray()!).map((v, i) => v + deltas[i]!);
    };
    const wanted = loopSubdivide(morphed(before!), Uint32Array.from(before!.getIndices()!.getArray()!));
    const got = morphed(after!),
      index = after!.getIndices()!.getArray()!;
    expect(index).toHaveLength(wanted.indices.length);
    for (let i = 0; i < index.length; i++)
      for (let k = 0; k < 3; k++) expect(got[index[i]! * 3 + k]!).toBeCloseTo(wanted.positions[wanted.indices[i]! * 3 + k]!, 5);
    expect(await valid(glb)).toEqual([]);
  });
});

describe('.gltf with files beside it', () => {
  const split = async () => {
    const d = await new NodeIO().readBinary(
      await boxes({
        box: [
          [0, 0.5, 0],
          [1, 1, 1],
        ],
      }),
    );
    d.getRoot().listBuffers()[0]!.setURI('box data.bin');
    const png = Uint8Array.from(
      atob('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8BQDwAEhQGAhKmMIQAAAABJRU5ErkJggg=='),
      (c) => c.charCodeAt(0),
    );
    const texture = d.createTexture('paint').setImage(png).setMimeType('image/png').setURI('paint.png');
    d.getRoot().listMeshes()[0]!.listPrimitives()[0]!.setMaterial(d.createMaterial('m').setBaseColorTexture(texture));
    const { json, resources } = await new NodeIO().writeJSON(d);
    return { gltf: new TextEncoder().encode(JSON.stringify(json)), beside: new Map(Object.entries(resources)) };
  };
  it('is read when all came along', async () => {
    const { gltf, beside } = await split();
    const asset = await readCharacter(gltf, 'box.gltf', { beside });
    expect(asset.triangles).toBe(12);
    expect(asset.warnings.filter((w) => w.code === 'textures')).toEqual([]);
  });
  it('names what is missing: a buffer stops it, a picture does not', async () => {
    const { gltf, beside } = await split();
    await expect(readCharacter(gltf, 'box.gltf', {})).rejects.toThrow('box.gltf needs box data.bin, which did not come along');
    beside.delete('paint.png');
    const { warnings } = await readCharacter(gltf, 'box.gltf', { beside });
    expect(warnings.map((w) => w.message).join()).toContain('paint.png did not come along');
  });
  it.each([
    ['no JSON', '{', 'is not JSON'],
    ['other JSON', '{"a":1}', 'no glTF'],
    ['an old version', '{"asset":{"version":"1.0"}}', 'version 1.0 is not supported'],
    ['nodes in a circle', '{"asset":{"version":"2.0"},"nodes":[{"name":"a","children":[1]},{"children":[0]}]}', '“a” is its own ancestor'],
    [
      'something that hangs below a circle',
      '{"asset":{"version":"2.0"},"nodes":[{"name":"leaf"},{"name":"b","children":[2,0]},{"children":[1]}]}',
      '“b” is its own ancestor',
    ],
    ['two parents', '{"asset":{"version":"2.0"},"nodes":[{"children":[2]},{"children":[2]},{"name":"c"}]}', '“c” hangs below two'],
    ['a child that is not there', '{"asset":{"version":"2.0"},"nodes":[{"children":[7]}]}', 'number 7, which does not exist'],
  ])('is refused with %s', async (_name, text, words) => {
    const error = await readCharacter(new TextEncoder().encode(text), 'x.gltf').then(
      () => undefined,
      (e: ImportError) => e,
    );
    expect(error?.name).toBe('ImportError');
    expect(error?.message).toContain(words);
  });
  it('is taken, however deep its nodes hang in each other', async () => {
    const { gltf, beside } = await split();
    const json = JSON.parse(new TextDecoder().decode(gltf)) as { nodes: object[]; scenes: { nodes: number[] }[] };
    // each of 3000 holds the next, the last holds the box
    const box = json.nodes.length - 1;
    for (let i = 0; i < 3000; i++) json.nodes.push({ children: [i ? json.nodes.length - 1 : box] });
    json.scenes[0]!.nodes = [json.nodes.length - 1];
    const asset = await readCharacter(new TextEncoder().encode(JSON.stringify(json)), 'deep.gltf', { beside });
    expect(asset.triangles).toBe(12);
  });
  it('is refused with a hundred thousand parts', async () => {
    const text = JSON.stringify({
      asset: { version: '2.0' },
      meshes: [{ primitives: [{ attributes: {} }] }],
      nodes: Array.from({ length: 100_000 }, () => ({ mesh: 0 })),
    });
    await expect(readCharacter(new TextEncoder().encode(text), 'x.gltf')).rejects.toThrow('100000 parts; 20000 are the most');
  });
});
