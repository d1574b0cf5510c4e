import { Logger, WebIO, type Document, type Primitive } from '@gltf-transform/core';
import { KHRONOS_EXTENSIONS } from '@gltf-transform/extensions';
import type { Vec3 } from '../../math/index.ts';
import { checkPart, counter, orRefused, TURNS, upright, type Stance } from '../character/index.ts';
import { landmarksOf } from '../../face/index.ts';
import type { ReadOptions } from './decoders.ts';
import type { Mending } from './mending.ts';
import { attributesOf, mendAttributes, writeAttributes } from './primitives.ts';
import { TRIANGLES } from './triangles.ts';
import { openGlb } from './read.ts';

/** Whether anything is to be done. */
export const mends = (m: Mending): boolean =>
  (m.scale ?? 1) !== 1 ||
  m.stance.up !== 'y' ||
  m.stance.faces !== '+z' ||
  m.without.length > 0 ||
  m.crease !== undefined ||
  m.winding ||
  m.subdivide > 0;

/**
 * A GLB with its character turned upright and to the front, parts left out, normals, winding and fineness mended. Skins, clips,
 * materials and pictures stay; compressed meshes are written plain. `notes` say what was found on the way.
 * @throws ImportError as the reader
 */
export const mendGlb = (bytes: Uint8Array, mending: Mending, decoders: ReadOptions = {}): Promise<MendedGlb> =>
  orRefused(() => mendOpen(bytes, mending, decoders));

interface MendedGlb {
  glb: Uint8Array<ArrayBuffer>;
  notes: string[];
}

async function mendOpen(bytes: Uint8Array, mending: Mending, decoders: ReadOptions): Promise<MendedGlb> {
  const document = await openGlb(bytes, decoders);
  const root = document.getRoot(),
    notes: string[] = [];
  const scene = root.getDefaultScene() ?? root.listScenes()[0];
  if (scene) {
    const drop = new Set(mending.without),
      done = new Set<Primitive>(),
      nodes = root.listNodes();
    const count = counter(decoders.progress, 0.1, 0.9, nodes.length);
    for (const node of nodes) {
      count(1);
      const mesh = node.getMesh();
      if (!mesh) continue;
      if (drop.has(node.getName() || mesh.getName())) node.setMesh(null);
      else
        for (const p of mesh.listPrimitives())
          if (p.getMode() === TRIANGLES && !done.has(p)) {
            // several nodes may show one mesh
            done.add(p);
            mendPrimitive(document, p, mending, node.getName() || mesh.getName(), notes);
          }
    }
    turn(document, mending.stance, mending.scale ?? 1);
  }
  for (const e of root.listExtensionsUsed())
    if (['EXT_meshopt_compression', 'KHR_draco_mesh_compression'].includes(e.extensionName)) e.dispose();
  const io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT)).registerExtensions(KHRONOS_EXTENSIONS);
  return { glb: (await io.writeBinary(document)) as Uint8Array<ArrayBuffer>, notes: [...new Set(notes)] };
}

/** Everything below one node that is turned and sized; landmarks with it. */
function turn(document: Document, stance: Stance, size: number): void {
  const degrees = TURNS[stance.faces];
  if (stance.up === 'y' && degrees === 0 && size === 1) return;
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0]!;
  const half = (degrees * Math.PI) / 360,
    lift = stance.up === 'z' ? -Math.PI / 4 : 0;
  const [s, c, a, b] = [Math.sin(half), Math.cos(half), Math.sin(lift), Math.cos(lift)];
  // about the vertical after lying z is brought upright: qy · qx
  const node = document
    .createNode('stance')
    .setRotation([c * a, s * b, -s * a, c * b])
    .setScale([size, size, size]);
  for (const child of scene.listChildren()) {
    scene.removeChild(child);
    node.addChild(child);
  }
  scene.addChild(node);
  const marks = Object.entries(landmarksOf(scene.getExtras()));
  if (!marks.length) return;
  const r = (degrees * Math.PI) / 180;
  const turned = (p: Vec3): Vec3 => {
    const [x, y, z] = upright(p, stance.up);
    return [(x * Math.cos(r) + z * Math.sin(r)) * size, y * size, (z * Math.cos(r) - x * Math.sin(r)) * size];
  };
  scene.setExtras({ ...scene.getExtras(), landmarks: Object.fromEntries(marks.map(([name, p]) => [name, turned(p)])) });
}

function mendPrimitive(document: Document, primitive: Primitive, mending: Mending, name: string, notes: string[]): void {
  if (!mending.winding && mending.crease === undefined && !mending.subdivide) return;
  const attributes = attributesOf(primitive);
  if (!attributes) return;
  checkPart({ name, positions: attributes.attributes.POSITION.array, indices: attributes.indices });
  const { turned, coarse } = mendAttributes(attributes, mending);
  if (turned) notes.push(`${name} was inside out and has been turned.`);
  if (coarse) notes.push(`${name} is fine enough: it was not subdivided any further.`);
  writeAttributes(document, primitive, attributes);
}
