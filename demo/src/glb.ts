import { Document, Logger, NodeIO } from '@gltf-transform/core';
import { KHRMaterialsTransmission, KHRMeshQuantization } from '@gltf-transform/extensions';
import { quantize } from '@gltf-transform/functions';
import { MeshoptSimplifier } from 'meshoptimizer';
import type { Character } from './form/keeper.ts';
import type { Surface } from './form/nets.ts';

interface Finish {
  base: [number, number, number];
  roughness: number;
  clear?: boolean;
  /** What glTF has no word for: depth in millimetres for red, green, blue; a mass of fibres. */
  plinket?: { subsurface?: number; freePath?: [number, number, number]; fibres?: number };
}

/** What each part is made of; skin, whites and irises carry their colour at the vertices. */
const FINISHES: Record<string, Finish> = {
  skin: { base: [1, 1, 1], roughness: 0.44, plinket: { subsurface: 1, freePath: [3.2, 1.25, 0.65] } },
  brows: { base: [0.3, 0.28, 0.26], roughness: 0.5, plinket: { fibres: 0.5 } },
  lashes: { base: [0.06, 0.05, 0.045], roughness: 0.6 },
  hair: { base: [0.42, 0.4, 0.38], roughness: 0.42, plinket: { fibres: 0.7 } },
  coat: { base: [0.032, 0.042, 0.058], roughness: 0.6 },
  shirt: { base: [0.42, 0.39, 0.34], roughness: 0.8 },
  'eye white': { base: [1, 1, 1], roughness: 0.35, plinket: { subsurface: 0.6, freePath: [1.2, 0.9, 0.8] } },
  iris: { base: [1, 1, 1], roughness: 0.6 },
  cornea: { base: [1, 1, 1], roughness: 0.02, clear: true },
};

/** Triangles that each part keeps, of a total; small parts with fine detail keep more than their share. */
const SHARE: Record<string, number> = { skin: 0.5, brows: 0.06, lashes: 0.02, hair: 0.22, coat: 0.13, shirt: 0.04 };

async function simplify(surface: Surface, target: number): Promise<Surface> {
  const count = target * 3;
  if (surface.indices.length <= count) return surface;
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

/** Leaves out vertices that no triangle uses. */
function compact(s: Surface): Surface {
  const to = new Int32Array(s.positions.length / 3).fill(-1);
  let n = 0;
  const indices = s.indices.map((v) => (to[v]! < 0 ? (to[v] = n++) : to[v]!));
  const pick = (from: Float32Array): Float32Array => {
    const out = new Float32Array(n * 3);
    to.forEach((t, v) => {
      if (t >= 0) out.set(from.subarray(v * 3, v * 3 + 3), t * 3);
    });
    return out;
  };
  return {
    name: s.name,
    indices,
    positions: pick(s.positions),
    normals: pick(s.normals),
    ...(s.colours ? { colours: pick(s.colours) } : {}),
  };
}

/**
 * Writes a character as GLB: one node for each part, metres, Y up, facing +Z, landmarks in the scene's extras.
 * @param triangles about how many to keep
 */
export async function writeCharacter(character: Character, triangles: number): Promise<Uint8Array> {
  const document = new Document().setLogger(new Logger(Logger.Verbosity.WARN));
  document.getRoot().getAsset().generator = 'Plinket demo';
  const buffer = document.createBuffer();
  const transmission = document.createExtension(KHRMaterialsTransmission);
  document.createExtension(KHRMeshQuantization).setRequired(true);
  const scene = document.createScene(character.name).setExtras({ name: character.name, landmarks: character.landmarks });
  for (const surface of character.surfaces) {
    const kind = surface.name.replace(/ [LR]$/, '');
    const finish = FINISHES[kind];
    if (!finish) throw new Error(`No finish for ${surface.name}.`);
    const s = await simplify(surface, Math.round(triangles * (SHARE[kind] ?? 1)));
    const material = document
      .createMaterial(surface.name)
      .setBaseColorFactor([...finish.base, 1])
      .setMetallicFactor(0)
      .setRoughnessFactor(finish.roughness);
    if (finish.clear) material.setExtension('KHR_materials_transmission', transmission.createTransmission().setTransmissionFactor(1));
    if (finish.plinket) material.setExtras({ plinket: finish.plinket });
    const vec = (array: Float32Array) => document.createAccessor().setType('VEC3').setArray(array.slice()).setBuffer(buffer);
    const primitive = document
      .createPrimitive()
      .setMaterial(material)
      .setAttribute('POSITION', vec(s.positions))
      .setAttribute('NORMAL', vec(s.normals));
    primitive.setIndices(document.createAccessor().setType('SCALAR').setArray(s.indices.slice()).setBuffer(buffer));
    if (s.colours) primitive.setAttribute('COLOR_0', vec(s.colours));
    scene.addChild(document.createNode(surface.name).setMesh(document.createMesh(surface.name).addPrimitive(primitive)));
  }
  await document.transform(quantize({ quantizePosition: 14, quantizeNormal: 10, quantizeColor: 8 }));
  return new NodeIO().registerExtensions([KHRMaterialsTransmission, KHRMeshQuantization]).writeBinary(document);
}
