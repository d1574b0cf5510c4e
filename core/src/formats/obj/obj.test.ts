// OBJ with materials and pictures beside it. Coordinates are checked against three's OBJLoader (an independent reader).
import { describe, expect, it } from '@jest/globals';
import { encode } from 'fast-png';
import type { Mesh } from 'three';
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js';
import { decodeSrgb } from '../../photometry/index.ts';
import type { Texture } from '../../surface/index.ts';
import { readCharacter, readGlb, writeGlb } from '../index.ts';
import { readMtl } from './mtl.ts';
import { normalsOfHeights } from './pictures.ts';

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);
/** A PNG whose pixels are what a function says of column and row. */
const png = (size: number, rgb: (x: number, y: number) => number[]): Uint8Array =>
  encode({
    width: size,
    height: size,
    channels: 4,
    data: Uint8Array.from(Array.from({ length: size * size }, (_, i) => [...rgb(i % size, Math.floor(i / size)), 255]).flat()),
  });
const CLOTH = png(4, (x) => [x * 60, 20, 10]);
const OBJ = `mtllib cloth.mtl
v 0 0 0
v 1 0 0
v 1 1 0
v 0 1 0
v 2 0 0
v 2 1 0
vt 0 0
vt 1 0
vt 1 1
vt 0 1
vt 0.25 0.75
vn 0 0 1
usemtl cloth
f 1/1/1 2/2/1 3/3/1 4/4/1
f 2/5/1 5/2/1 6/3/1
`;
const MTL = 'newmtl cloth\nKd 0.5 0.5 0.5\nmap_Kd -s 1 1 1 -o 0 0 textures\\The Cloth.png\nmap_Bump -bm 0.5 relief.png\nKe 0 2 0\nd 0.5\n';
const read = (beside: Record<string, Uint8Array>, obj = OBJ) =>
  readCharacter(bytesOf(obj), 'a.obj', { beside: new Map(Object.entries({ 'cloth.mtl': bytesOf(MTL), ...beside })) });

describe('an OBJ with pictures', () => {
  it('has the coordinates that another reader finds, from above, and its picture', async () => {
    const { parts } = await read({ 'the cloth.png': CLOTH });
    const [{ indices, uvs, positions, material: m }] = parts as [(typeof parts)[0]];
    const { geometry } = new OBJLoader().parse(OBJ).children[0] as Mesh;
    const theirs = geometry.getAttribute('uv').array,
      places = geometry.getAttribute('position').array;
    expect(indices.length).toBe(theirs.length / 2);
    indices.forEach((v, i) => {
      for (const k of [0, 1, 2])
        expect(positions[v * 3 + k]! - positions[indices[0]! * 3 + k]!).toBeCloseTo(places[i * 3 + k]! - places[k]!, 6);
      expect(uvs![v * 2]).toBeCloseTo(theirs[i * 2]!, 6);
      expect(uvs![v * 2 + 1]).toBeCloseTo(1 - theirs[i * 2 + 1]!, 6);
    });
    expect(m.base).toEqual([1, 1, 1]);
    expect(m.textures!.base!.texture).toMatchObject({ width: 4, height: 4 });
    expect([...m.textures!.base!.texture.data.slice(0, 8)]).toEqual([0, 20, 10, 255, 60, 20, 10, 255]);
    expect(m).toMatchObject({ emission: [0, 2, 0], alpha: 0.5, alphaMode: 'blend' });
  });

  it('names what did not come along, and stands in with what is said', async () => {
    const { parts, warnings } = await read({});
    const said = warnings.map((w) => w.message).join(' ');
    expect(said).toContain('The Cloth.png, relief.png did not come along');
    expect(parts[0]!.material.textures).toBeUndefined();
    expect(parts[0]!.material.base[0]).toBeCloseTo(decodeSrgb(0.5), 6);
    const broken = await read({ 'the cloth.png': bytesOf('no picture'), 'relief.png': png(2, () => [9, 9, 9]) });
    expect(broken.warnings.map((w) => w.message).join(' ')).toContain('The Cloth.png is of an unknown kind');
  });

  it('is the same as a GLB of ours', async () => {
    const asset = await read({ 'the cloth.png': CLOTH, 'relief.png': png(4, (x) => [x * 80, x * 80, x * 80]) });
    const again = await readGlb(await writeGlb(asset, 'a.obj'), 'a.glb');
    const [before, after] = [asset.parts[0]!, again.parts[0]!];
    expect(after.uvs).toEqual(before.uvs);
    for (const use of ['base', 'normal'] as const)
      expect(after.material.textures![use]!.texture.data).toEqual(before.material.textures![use]!.texture.data);
    expect(after.material).toMatchObject({ emission: [0, 2, 0], alpha: 0.5, alphaMode: 'blend', base: [1, 1, 1] });
  });

  it('has colours at vertices as they look: sRGB', async () => {
    const { parts } = await readCharacter(bytesOf('v 0 0 0 1 0.5 0\nv 1 0 0 0 1 0\nv 1 1 0 0 0 2\nf 1 2 3\n'), 'a.obj');
    expect(parts[0]!.colours![1]).toBeCloseTo(0.21404, 4);
    expect(parts[0]!.colours![8]).toBe(1);
  });
});

describe('a material file', () => {
  it.each([
    ['map_Kd a b.png', 'a b.png'],
    ['map_Kd -clamp on -s 2 2 x.png', 'x.png'],
    ['map_Kd -o 1 -bm 2 3.png', '3.png'],
    ['map_Kd -mm 0 1 dir/x y.png', 'dir/x y.png'],
  ])('%s names %s', (line, name) => {
    expect(readMtl(`newmtl m\n${line}`, 'm.mtl').get('m')!.base).toBe(name);
  });
  it('says what is clear by d or Tr, and what glows by Ke', () => {
    expect(readMtl('newmtl m\nTr 0.75\nKe 1 2 -3', 'm.mtl').get('m')!.look).toMatchObject({
      alpha: 0.25,
      alphaMode: 'blend',
      emission: [1, 2, 0],
    });
    expect(readMtl('newmtl m\nd 1', 'm.mtl').get('m')!.look.alphaMode).toBeUndefined();
  });
});

describe('heights', () => {
  /** A picture of heights 0…1 by column and row. */
  const heights = (size: number, of: (x: number, y: number) => number): Texture => ({
    name: 'relief',
    width: size,
    height: size,
    data: Uint8Array.from(
      Array.from({ length: size * size }, (_, i) => [...Array<number>(3).fill(of(i % size, Math.floor(i / size)) * 255), 255]).flat(),
    ),
  });
  const direction = ({ data, width }: Texture, x: number, y: number): number[] =>
    [0, 1, 2].map((k) => (data[(y * width + x) * 4 + k]! / 255) * 2 - 1);
  it('that rise by one eighth a pixel to the right lean 45° to the left; upwards, down', () => {
    const right = direction(
        normalsOfHeights(
          heights(8, (x) => x / 8),
          1,
        ),
        4,
        4,
      ),
      up = direction(
        normalsOfHeights(
          heights(8, (_, y) => (7 - y) / 8),
          1,
        ),
        4,
        4,
      );
    expect(right[0]).toBeCloseTo(-Math.SQRT1_2, 1);
    expect(right[2]).toBeCloseTo(Math.SQRT1_2, 1);
    expect(up[1]).toBeCloseTo(-Math.SQRT1_2, 1);
    expect(
      direction(
        normalsOfHeights(
          heights(8, () => 0.3),
          1,
        ),
        4,
        4,
      )[2],
    ).toBeCloseTo(1, 2);
  });
});
