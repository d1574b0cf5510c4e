import { Document, Logger, WebIO } from '@gltf-transform/core';
import type { CharacterAsset } from '../../scene/index.ts';

/**
 * Writes a character as GLB: a node for each part, metres, Y up, landmarks and the name of where it came from in the scene's
 * extras. For characters that came in other formats; what those cannot say (pictures, coat, skin) is not written.
 */
export async function writeGlb(asset: CharacterAsset, source: string): Promise<Uint8Array> {
  const document = new Document().setLogger(new Logger(Logger.Verbosity.SILENT));
  document.getRoot().getAsset().generator = 'Plinket';
  const buffer = document.createBuffer();
  const scene = document.createScene(asset.name).setExtras({ name: asset.name, landmarks: asset.landmarks, source });
  const materials = new Map<object, ReturnType<Document['createMaterial']>>();
  for (const part of asset.parts) {
    const { material: m } = part;
    let material = materials.get(m);
    if (!material) {
      material = document
        .createMaterial(m.name)
        .setBaseColorFactor([...m.base, m.alpha])
        .setMetallicFactor(m.metallic)
        .setRoughnessFactor(m.roughness)
        .setDoubleSided(m.twoSided);
      materials.set(m, material);
    }
    const vec = (array: Float32Array) => document.createAccessor().setType('VEC3').setArray(array.slice()).setBuffer(buffer);
    const primitive = document
      .createPrimitive()
      .setMaterial(material)
      .setAttribute('POSITION', vec(part.positions))
      .setAttribute('NORMAL', vec(part.normals))
      .setIndices(document.createAccessor().setType('SCALAR').setArray(part.indices.slice()).setBuffer(buffer));
    if (part.colours) primitive.setAttribute('COLOR_0', vec(part.colours));
    scene.addChild(document.createNode(part.name).setMesh(document.createMesh(part.name).addPrimitive(primitive)));
  }
  return new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT)).writeBinary(document);
}
