import { Document, Logger, NodeIO, type Material, type Node, type Skin } from '@gltf-transform/core';
import {
  EXTMeshoptCompression,
  KHRMaterialsSheen,
  KHRMaterialsTransmission,
  KHRMeshQuantization,
  KHRTextureTransform,
} from '@gltf-transform/extensions';
import { quantize, reorder } from '@gltf-transform/functions';
import { MeshoptEncoder, MeshoptSimplifier } from 'meshoptimizer';
import type { Character, Skinned } from '../cast/character.ts';
import { finishOf } from './finishes.ts';
import { bake } from '../maps/bake.ts';
import { unwrap } from '../maps/unwrap.ts';
import { ClothWriter } from './cloth.ts';
import { compact, withVertices } from './vertices.ts';
import { turnOf } from './turn.ts';

/** Triangles that each part keeps, of a total; small parts with fine detail keep more than their share. */
const SHARE: Record<string, number> = {
  skin: 0.5,
  coat: 0.2,
  shirt: 0.06,
  jacket: 0.15,
  scarf: 0.2,
  trousers: 0.05,
  boots: 0.035,
  hands: 0.07,
  lantern: 0.06,
  'lantern glass': 0.01,
  flame: 0.005,
  poncho: 0.14,
  rope: 0.07,
  horns: 0.08,
  'goat legs': 0.1,
  hooves: 0.02,
};

async function simplify(surface: Skinned, target: number): Promise<Skinned> {
  const count = target * 3;
  // ribbons of hair are as thin as they shall be
  if (surface.uvs || surface.indices.length <= count) return surface;
  await MeshoptSimplifier.ready;
  // normals guide the simplifier, so that lids and lips keep their edges
  const attributes = surface.colours ? new Float32Array((surface.positions.length / 3) * 6) : surface.normals;
  const stride = surface.colours ? 6 : 3;
  if (surface.colours)
    for (let i = 0; i < surface.positions.length / 3; i++) {
      attributes.set(surface.normals.subarray(i * 3, i * 3 + 3), i * 6);
      attributes.set(surface.colours.subarray(i * 3, i * 3 + 3), i * 6 + 3);
    }
  const weights = stride === 6 ? [0.3, 0.3, 0.3, 0.4, 0.4, 0.4] : [0.3, 0.3, 0.3];
  const [indices] = MeshoptSimplifier.simplifyWithAttributes(
    surface.indices,
    surface.positions,
    3,
    attributes,
    stride,
    weights,
    null,
    count,
    0.05,
    ['ErrorAbsolute'],
  );
  return compact({ ...surface, indices });
}

/** Pictures of a surface, painted where its vertices lie in millimetres. */
function withPictures(document: Document, material: Material, s: Skinned, { scale, up }: Character): Skinned {
  const { paint, size } = s.maps!;
  const { surface } = unwrap(s, withVertices);
  const positions = surface.positions.map((v, i) => (i % 3 === 1 ? v - up : v) / scale);
  const maps = bake({ ...surface, positions }, paint, size);
  const texture = (name: string, image: Uint8Array) =>
    document.createTexture(`${s.name} ${name}`).setMimeType('image/jpeg').setImage(image);
  material
    .setBaseColorTexture(texture('colour', maps.base))
    .setMetallicRoughnessTexture(texture('roughness', maps.roughness))
    .setNormalTexture(texture('relief', maps.normal))
    .setRoughnessFactor(1);
  return surface;
}

/** The skeleton as nodes, the skin over it, and the clip. */
function writeRig(document: Document, { joints, motion }: Character): { root: Node; skin: Skin } {
  const buffer = document.getRoot().listBuffers()[0]!;
  const nodes = new Map<string, Node>();
  const skin = document.createSkin('skeleton');
  const inverse = new Float32Array(joints.length * 16);
  joints.forEach(({ name, parent, at }, i) => {
    const above = joints.find((j) => j.name === parent);
    const node = document.createNode(name).setTranslation([0, 1, 2].map((k) => at[k]! - (above?.at[k] ?? 0)) as [number, number, number]);
    nodes.set(name, node);
    if (parent) nodes.get(parent)!.addChild(node);
    skin.addJoint(node);
    inverse.set([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -at[0], -at[1], -at[2], 1], i * 16);
  });
  const root = nodes.get(joints[0]!.name)!;
  skin.setSkeleton(root).setInverseBindMatrices(document.createAccessor().setType('MAT4').setArray(inverse).setBuffer(buffer));
  const animation = document.createAnimation(motion.name);
  for (const { joint, keys } of motion.turns) {
    const target = nodes.get(joint);
    if (!target) throw new RangeError(`“${motion.name}” turns ${joint}, which the skeleton does not have.`);
    // straight lines between quaternions need short steps, or the speed would jump at every key
    const times: number[] = [],
      values: number[] = [];
    const last = keys[keys.length - 1]![0];
    for (let f = 0; f <= Math.round(last * 24); f++) {
      times.push(f / 24);
      values.push(...turnOf(keys, f / 24));
    }
    const sampler = document
      .createAnimationSampler()
      .setInput(document.createAccessor().setType('SCALAR').setArray(Float32Array.from(times)).setBuffer(buffer))
      .setOutput(document.createAccessor().setType('VEC4').setArray(Float32Array.from(values)).setBuffer(buffer))
      .setInterpolation('LINEAR');
    animation.addSampler(sampler);
    animation.addChannel(document.createAnimationChannel().setTargetNode(target).setTargetPath('rotation').setSampler(sampler));
  }
  return { root, skin };
}

/**
 * Writes a character as GLB: one skinned node for each part, a skeleton, a clip; metres, Y up, facing +Z, landmarks in the
 * scene's extras.
 * @param id of the cast, for what the parts are made of
 * @param triangles about how many the head and what is worn keep
 */
export async function writeCharacter(character: Character, id: string, triangles: number): Promise<Uint8Array> {
  const document = new Document().setLogger(new Logger(Logger.Verbosity.WARN));
  document.getRoot().getAsset().generator = 'Plinket demo';
  const buffer = document.createBuffer();
  const transmission = document.createExtension(KHRMaterialsTransmission);
  document.createExtension(KHRMeshQuantization).setRequired(true);
  const scene = document.createScene(character.name).setExtras({ name: character.name, landmarks: character.landmarks });
  const cloth = new ClothWriter(document);
  const { root, skin } = writeRig(document, character);
  scene.addChild(root);
  for (const surface of character.surfaces) {
    const kind = surface.name.replace(/ [LR]$/, '');
    const finish = finishOf(id, kind);
    let s = await simplify(surface, Math.round(triangles * (SHARE[kind] ?? 1)));
    const material = document
      .createMaterial(surface.name)
      .setBaseColorFactor([...finish.base, 1])
      .setMetallicFactor(finish.metal ?? 0)
      .setRoughnessFactor(finish.roughness)
      .setDoubleSided((finish.plinket?.fibres ?? 0) > 0);
    if (finish.clear) material.setExtension('KHR_materials_transmission', transmission.createTransmission().setTransmissionFactor(1));
    if (finish.plinket) material.setExtras({ plinket: finish.plinket });
    if (s.maps) s = withPictures(document, material, s, character);
    if (finish.cloth) s = cloth.lay(material, s, finish.cloth, character.scale);
    const accessor = (type: 'VEC2' | 'VEC3' | 'VEC4', array: Float32Array | Uint8Array) =>
      document.createAccessor().setType(type).setArray(array.slice()).setBuffer(buffer);
    const primitive = document
      .createPrimitive()
      .setMaterial(material)
      .setAttribute('POSITION', accessor('VEC3', s.positions))
      .setAttribute('NORMAL', accessor('VEC3', s.normals))
      .setAttribute('JOINTS_0', accessor('VEC4', s.joints))
      .setAttribute('WEIGHTS_0', accessor('VEC4', s.weights));
    primitive.setIndices(document.createAccessor().setType('SCALAR').setArray(s.indices.slice()).setBuffer(buffer));
    if (s.colours) primitive.setAttribute('COLOR_0', accessor('VEC3', s.colours));
    if (s.tangents) primitive.setAttribute('TANGENT', accessor('VEC4', s.tangents));
    if (s.uvs) primitive.setAttribute('TEXCOORD_0', accessor('VEC2', s.uvs));
    const mesh = document.createMesh(surface.name).addPrimitive(primitive);
    scene.addChild(document.createNode(surface.name).setMesh(mesh).setSkin(skin));
  }
  await MeshoptEncoder.ready;
  await document.transform(
    quantize({ quantizePosition: 14, quantizeNormal: 10, quantizeColor: 8, quantizeWeight: 8, quantizeTexcoord: 12 }),
    reorder({ encoder: MeshoptEncoder, target: 'size' }),
  );
  document
    .createExtension(EXTMeshoptCompression)
    .setRequired(true)
    .setEncoderOptions({ method: EXTMeshoptCompression.EncoderMethod.QUANTIZE });
  return new NodeIO()
    .registerExtensions([KHRMaterialsSheen, KHRMaterialsTransmission, KHRMeshQuantization, KHRTextureTransform, EXTMeshoptCompression])
    .registerDependencies({ 'meshopt.encoder': MeshoptEncoder })
    .writeBinary(document);
}
