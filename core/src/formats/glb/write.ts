import { Document, Logger, WebIO } from '@gltf-transform/core';
import { KHRMaterialsEmissiveStrength } from '@gltf-transform/extensions';
import { encode } from 'fast-png';
import type { Vec3 } from '../../math/index.ts';
import type { CharacterAsset } from '../../scene/index.ts';
import type { Texture } from '../../surface/index.ts';

/**
 * Writes a character as GLB: a node for each part, metres, Y up, landmarks and the name of where it came from in the scene's
 * extras. For characters that came in other formats; what those cannot say (coat, skin) is not written.
 */
export async function writeGlb(asset: CharacterAsset, source: string): Promise<Uint8Array> {
  const document = new Document().setLogger(new Logger(Logger.Verbosity.SILENT));
  document.getRoot().getAsset().generator = 'Plinket';
  const buffer = document.createBuffer();
  const scene = document.createScene(asset.name).setExtras({ name: asset.name, landmarks: asset.landmarks, source });
  const materials = new Map<object, ReturnType<Document['createMaterial']>>(),
    pictures = new Map<Texture, ReturnType<Document['createTexture']>>();
  const strengths = document.createExtension(KHRMaterialsEmissiveStrength);
  const picture = (of: Texture | undefined) => {
    if (!of) return null;
    const { name, width, height, data } = of;
    const made =
      pictures.get(of) ??
      document
        .createTexture(name)
        .setMimeType('image/png')
        .setImage(encode({ width, height, data, channels: 4 }) as Uint8Array<ArrayBuffer>);
    pictures.set(of, made);
    return made;
  };
  for (const part of asset.parts) {
    const { material: m } = part;
    let material = materials.get(m);
    if (!material) {
      material = document
        .createMaterial(m.name)
        .setBaseColorFactor([...m.base, m.alpha])
        .setMetallicFactor(m.metallic)
        .setRoughnessFactor(m.roughness)
        .setEmissiveFactor(glow(m.emission).factor)
        .setAlphaMode(({ opaque: 'OPAQUE', mask: 'MASK', blend: 'BLEND' } as const)[m.alphaMode])
        .setAlphaCutoff(m.alphaCutoff)
        .setDoubleSided(m.twoSided);
      const { strength } = glow(m.emission);
      if (strength > 1)
        material.setExtension('KHR_materials_emissive_strength', strengths.createEmissiveStrength().setEmissiveStrength(strength));
      material
        .setBaseColorTexture(picture(m.textures?.base?.texture))
        .setNormalTexture(picture(m.textures?.normal?.texture))
        .setEmissiveTexture(picture(m.textures?.emission?.texture));
      materials.set(m, material);
    }
    const vec = (array: Float32Array) => document.createAccessor().setType('VEC3').setArray(array.slice()).setBuffer(buffer);
    const primitive = document
      .createPrimitive()
      .setMaterial(material)
      .setAttribute('POSITION', vec(part.positions))
      .setAttribute('NORMAL', vec(part.normals))
      .setIndices(document.createAccessor().setType('SCALAR').setArray(part.indices.slice()).setBuffer(buffer));
    if (part.uvs)
      primitive.setAttribute('TEXCOORD_0', document.createAccessor().setType('VEC2').setArray(part.uvs.slice()).setBuffer(buffer));
    if (part.colours) primitive.setAttribute('COLOR_0', vec(part.colours));
    scene.addChild(document.createNode(part.name).setMesh(document.createMesh(part.name).addPrimitive(primitive)));
  }
  if (!strengths.listProperties().length) strengths.dispose();
  return new WebIO()
    .setLogger(new Logger(Logger.Verbosity.SILENT))
    .registerExtensions([KHRMaterialsEmissiveStrength])
    .writeBinary(document);
}

/** Light of a surface as glTF says it: a factor of at most 1, and how strong it is (KHR_materials_emissive_strength). */
function glow(emission: Vec3): { factor: Vec3; strength: number } {
  const strength = Math.max(1, ...emission);
  return { factor: emission.map((v) => v / strength) as Vec3, strength };
}
