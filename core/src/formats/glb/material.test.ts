// Materials and pictures as another writer (gltf-transform) puts them into a file.
import { Document, Logger, WebIO } from '@gltf-transform/core';
import {
  KHRMaterialsClearcoat,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRTextureTransform,
} from '@gltf-transform/extensions';
import { describe, expect, it } from '@jest/globals';
import { encode as encodePng } from 'fast-png';
import { encode as encodeJpeg } from 'jpeg-js';
import { sampleTexture, texel } from '../../surface/index.ts';
import { readGlb } from './index.ts';
import { decodePicture, PictureError } from './pictures.ts';

const EXTENSIONS = [
  KHRMaterialsClearcoat,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRTextureTransform,
];
const png = (pixels: number[], width: number, height: number, channels: 1 | 2 | 3 | 4 = 4, depth: 8 | 16 = 8) =>
  encodePng({ width, height, channels, depth, data: depth === 16 ? Uint16Array.from(pixels) : Uint8Array.from(pixels) });

/** A square whose material `paint` makes. */
async function file(paint: (d: Document) => ReturnType<Document['createMaterial']>): Promise<Uint8Array> {
  const d = new Document().setLogger(new Logger(Logger.Verbosity.SILENT));
  const buffer = d.createBuffer();
  const floats = (type: 'VEC3' | 'VEC2', values: number[]) =>
    d.createAccessor().setType(type).setArray(Float32Array.from(values)).setBuffer(buffer);
  const primitive = d
    .createPrimitive()
    .setAttribute('POSITION', floats('VEC3', [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]))
    .setAttribute('NORMAL', floats('VEC3', [0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1]))
    .setAttribute('TEXCOORD_0', floats('VEC2', [0, 1, 1, 1, 1, 0, 0, 0]))
    .setIndices(
      d
        .createAccessor()
        .setType('SCALAR')
        .setArray(Uint16Array.from([0, 1, 2, 0, 2, 3]))
        .setBuffer(buffer),
    )
    .setMaterial(paint(d));
  d.createScene().addChild(d.createNode('card').setMesh(d.createMesh().addPrimitive(primitive)));
  return new WebIO().registerExtensions(EXTENSIONS).writeBinary(d);
}
const materialOf = async (paint: Parameters<typeof file>[0]) => (await readGlb(await file(paint))).parts[0]!.material;

describe('materials of a GLB', () => {
  it('bring the KHR extensions with them', async () => {
    const m = await materialOf((d) =>
      d
        .createMaterial('all')
        .setEmissiveFactor([1, 0.5, 0])
        .setAlphaMode('MASK')
        .setAlphaCutoff(0.3)
        .setExtension(
          'KHR_materials_clearcoat',
          d.createExtension(KHRMaterialsClearcoat).createClearcoat().setClearcoatFactor(0.7).setClearcoatRoughnessFactor(0.1),
        )
        .setExtension(
          'KHR_materials_emissive_strength',
          d.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(300),
        )
        .setExtension('KHR_materials_ior', d.createExtension(KHRMaterialsIOR).createIOR().setIOR(1.33))
        .setExtension(
          'KHR_materials_sheen',
          d.createExtension(KHRMaterialsSheen).createSheen().setSheenColorFactor([0.2, 0.3, 0.4]).setSheenRoughnessFactor(0.5),
        )
        .setExtension(
          'KHR_materials_specular',
          d.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularFactor(0.6).setSpecularColorFactor([1, 0.8, 0.6]),
        )
        .setExtension(
          'KHR_materials_transmission',
          d.createExtension(KHRMaterialsTransmission).createTransmission().setTransmissionFactor(0.25),
        ),
    );
    expect(m).toMatchObject({
      name: 'all',
      coat: 0.7,
      coatRoughness: 0.1,
      ior: 1.33,
      specular: 0.6,
      sheenRoughness: 0.5,
      transmission: 0.25,
      alphaMode: 'mask',
      alphaCutoff: 0.3,
      unlit: false,
    });
    expect(m.emission).toEqual([300, 150, 0]);
    expect(m.sheen).toEqual([0.2, 0.3, 0.4]);
    expect(m.specularTint).toEqual([1, 0.8, 0.6]);
  });
  it('tell unlit ones apart, and read what Plinket itself writes into extras', async () => {
    const unlit = await materialOf((d) =>
      d.createMaterial('u').setExtension('KHR_materials_unlit', d.createExtension(KHRMaterialsUnlit).createUnlit()),
    );
    expect(unlit.unlit).toBe(true);
    const skin = await materialOf((d) =>
      d.createMaterial('s').setExtras({ plinket: { subsurface: 2, freePath: [3, 1, 0.5], fibres: 'much' } }),
    );
    // out of range is held, nonsense is nothing; millimetres become metres
    expect(skin).toMatchObject({ subsurface: 1, fibres: 0 });
    skin.freePath.forEach((v, i) => expect(v).toBeCloseTo([0.003, 0.001, 0.0005][i]!, 9));
  });
  it('carry pictures with their place on the surface', async () => {
    const red = png([255, 0, 0, 255, 0, 255, 0, 128], 2, 1);
    const m = await materialOf((d) => {
      const texture = d.createTexture('stripes').setImage(red).setMimeType('image/png');
      const material = d.createMaterial('p').setBaseColorTexture(texture).setNormalTexture(texture).setNormalScale(0.5);
      const transform = d.createExtension(KHRTextureTransform).createTransform().setOffset([0.5, 0]).setScale([2, 1]);
      material.getBaseColorTextureInfo()!.setWrapS(33071).setExtension('KHR_texture_transform', transform);
      return material;
    });
    const use = m.textures!.base!;
    expect(use.texture).toMatchObject({ width: 2, height: 1, name: 'stripes' });
    expect(use.transform).toEqual([2, 0, 0.5, -0, 1, 0]);
    expect([use.wrapU, use.wrapV]).toEqual(['clamp', 'repeat']);
    expect(m.normalScale).toBe(0.5);
    // u = 0.125 lands on 0.75, the middle of the second pixel: green, half covered
    sampleTexture(use, 0.125, 0.5, true);
    expect([...texel].map((v) => +v.toFixed(3))).toEqual([0, 1, 0, 0.502]);
  });
  it('do without a picture that cannot be read, and say so', async () => {
    const bytes = await file((d) =>
      d.createMaterial('p').setBaseColorTexture(
        d
          .createTexture('photo')
          .setImage(Uint8Array.from([1, 2, 3]))
          .setMimeType('image/png'),
      ),
    );
    const asset = await readGlb(bytes);
    expect(asset.parts[0]!.material.textures).toBeUndefined();
    expect(asset.warnings.find((w) => w.code === 'textures')!.message).toMatch(/photo cannot be read/);
  });
});

describe('pictures', () => {
  it.each([
    ['grey', png([0, 128], 2, 1, 1), [128, 128, 128, 255]],
    ['grey with alpha', png([0, 9, 128, 64], 2, 1, 2), [128, 128, 128, 64]],
    ['colour', png([0, 0, 0, 10, 20, 30], 2, 1, 3), [10, 20, 30, 255]],
    ['16 bit', png([0, 0, 0, 0, 256, 512, 65535, 65535], 2, 1, 4, 16), [1, 2, 255, 255]],
  ])('of every PNG kind become RGBA: %s', (_name, bytes, second) => {
    expect([...decodePicture(bytes, 'image/png', 'x').data.slice(4)]).toEqual(second);
  });
  it('as JPEG too', () => {
    const { data } = encodeJpeg({ width: 8, height: 8, data: new Uint8Array(256).fill(200) }, 95);
    const picture = decodePicture(data, 'image/jpeg', 'x');
    expect([picture.width, picture.height]).toEqual([8, 8]);
    for (let c = 0; c < 3; c++) expect(Math.abs(picture.data[c]! - 200)).toBeLessThan(4);
  });
  it.each([
    ['cut off', png([1, 2, 3, 4], 1, 1).slice(0, 40), 'image/png', /x cannot be read/],
    ['of another kind', Uint8Array.from([1]), 'image/webp', /x is image\/webp; PNG and JPEG can be read/],
    ['without a kind', Uint8Array.from([1]), '', /of an unknown kind/],
  ])('that cannot be read are refused by name: %s', (_name, bytes, mime, message) => {
    expect(() => decodePicture(bytes, mime, 'x')).toThrow(PictureError);
    expect(() => decodePicture(bytes, mime, 'x')).toThrow(message);
  });
  it('are found between their pixels, wrapped as they say', () => {
    const texture = { name: 't', width: 2, height: 1, data: Uint8Array.from([0, 0, 0, 255, 255, 255, 255, 255]) };
    const at = (u: number, wrapU: 'repeat' | 'mirror' | 'clamp') => {
      sampleTexture({ texture, wrapU, wrapV: wrapU, transform: [1, 0, 0, 0, 1, 0] }, u, 0.5, false);
      return +texel[0]!.toFixed(4);
    };
    expect(at(0.5, 'clamp')).toBe(0.5);
    expect(at(1, 'repeat')).toBe(0.5);
    expect(at(1, 'clamp')).toBe(1);
    expect(at(1.25, 'mirror')).toBe(1);
    expect(at(1.25, 'repeat')).toBe(0);
    expect(at(-0.25, 'mirror')).toBe(0);
  });
});
