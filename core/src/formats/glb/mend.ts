import { Logger, WebIO, type Document, type Primitive } from '@gltf-transform/core';
import { KHRONOS_EXTENSIONS } from '@gltf-transform/extensions';
import { creaseNormals, flipWinding, insideOut, loopSubdivide } from '../../geometry/index.ts';
import type { Vec3 } from '../../math/index.ts';
import { landmarksOf, TURNS, upright, type Stance } from '../character/index.ts';
import type { ReadOptions } from './decoders.ts';
import { openGlb } from './read.ts';

/** What is mended of a character before it is kept. */
export interface Mending {
  stance: Stance;
  /** Parts by name that stay behind. */
  without: readonly string[];
  /** Degrees up to which edges are smoothed; nothing: normals as the file has them. */
  crease?: number;
  /** Turn the triangles of closed parts that are inside out. */
  winding: boolean;
  /** Steps of Loop subdivision. */
  subdivide: 0 | 1 | 2;
}

export const NO_MENDING: Mending = { stance: { up: 'y', faces: '+z' }, without: [], winding: false, subdivide: 0 };

const TRIANGLES = 4;
/** Triangles after which subdivision stops: more helps no picture. */
const MOST_TRIANGLES = 3_000_000;

/** Whether anything is to be done. */
export const mends = (m: Mending): boolean =>
  m.stance.up !== 'y' || m.stance.faces !== '+z' || m.without.length > 0 || m.crease !== undefined || m.winding || m.subdivide > 0;

/**
 * A GLB with its character turned upright and to the front, parts left out, normals, winding and fineness mended. Skins, clips,
 * materials and pictures stay; compressed meshes are written plain. Parts that bend or morph are not subdivided: `notes` say so.
 * @throws ImportError as the reader
 */
export async function mendGlb(
  bytes: Uint8Array,
  mending: Mending,
  decoders: ReadOptions = {},
): Promise<{ glb: Uint8Array<ArrayBuffer>; notes: string[] }> {
  const document = await openGlb(bytes, decoders);
  const root = document.getRoot(),
    notes: string[] = [];
  const scene = root.getDefaultScene() ?? root.listScenes()[0];
  if (scene) {
    const drop = new Set(mending.without),
      done = new Set<Primitive>();
    for (const node of root.listNodes()) {
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
    turn(document, mending.stance);
  }
  for (const e of root.listExtensionsUsed())
    if (['EXT_meshopt_compression', 'KHR_draco_mesh_compression'].includes(e.extensionName)) e.dispose();
  const io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT)).registerExtensions(KHRONOS_EXTENSIONS);
  return { glb: (await io.writeBinary(document)) as Uint8Array<ArrayBuffer>, notes: [...new Set(notes)] };
}

/** Everything below one node that is turned; landmarks with it. */
function turn(document: Document, stance: Stance): void {
  const degrees = TURNS[stance.faces];
  if (stance.up === 'y' && degrees === 0) return;
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0]!;
  const half = (degrees * Math.PI) / 360,
    lift = stance.up === 'z' ? -Math.PI / 4 : 0;
  const [s, c, a, b] = [Math.sin(half), Math.cos(half), Math.sin(lift), Math.cos(lift)];
  // about the vertical after lying z is brought upright: qy · qx
  const node = document.createNode('stance').setRotation([c * a, s * b, -s * a, c * b]);
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
    return [x * Math.cos(r) + z * Math.sin(r), y, z * Math.cos(r) - x * Math.sin(r)];
  };
  scene.setExtras({ ...scene.getExtras(), landmarks: Object.fromEntries(marks.map(([name, p]) => [name, turned(p)])) });
}

type Attributes = Record<string, { array: Float32Array; size: number }>;

function mendPrimitive(document: Document, primitive: Primitive, mending: Mending, name: string, notes: string[]): void {
  const bends = primitive.getAttribute('JOINTS_0') !== null || primitive.listTargets().length > 0;
  const steps = bends ? 0 : mending.subdivide;
  if (bends && mending.subdivide) notes.push('Parts that bend or morph were not subdivided.');
  if (!mending.winding && mending.crease === undefined && !steps) return;
  const attributes: Attributes = {};
  for (const semantic of primitive.listSemantics()) {
    const accessor = primitive.getAttribute(semantic)!;
    const size = accessor.getElementSize(),
      array = new Float32Array(accessor.getCount() * size);
    const v: number[] = [];
    for (let i = 0; i < accessor.getCount(); i++) array.set(accessor.getElement(i, v).slice(0, size), i * size);
    attributes[semantic] = { array, size };
  }
  const position = attributes['POSITION'];
  if (!position) return;
  const index = primitive.getIndices();
  let indices: Uint32Array = index
    ? Uint32Array.from(index.getArray()!)
    : Uint32Array.from({ length: position.array.length / 3 }, (_, i) => i);
  if (mending.winding && insideOut(position.array, indices)) {
    flipWinding(indices);
    const normal = attributes['NORMAL'];
    if (normal) normal.array = normal.array.map((n) => -n);
    notes.push(`${name} was inside out and has been turned.`);
  }
  for (let step = 0; step < steps && (indices.length / 3) * 4 <= MOST_TRIANGLES; step++) {
    const fine = loopSubdivide(attributes['POSITION']!.array, indices);
    for (const [semantic, a] of Object.entries(attributes)) {
      if (semantic === 'POSITION') a.array = fine.positions;
      else if (semantic !== 'NORMAL') a.array = meanOf(a, fine.parents);
    }
    indices = fine.indices;
  }
  const crease = mending.crease ?? (steps ? 180 : undefined);
  if (crease === undefined) {
    write(document, primitive, attributes, indices, undefined);
    return;
  }
  const split = creaseNormals(attributes['POSITION']!.array, indices, crease);
  attributes['NORMAL'] = { array: split.normals, size: 3 };
  delete attributes['TANGENT'];
  write(document, primitive, attributes, split.indices, split.from);
}

function meanOf({ array, size }: { array: Float32Array; size: number }, parents: Uint32Array): Float32Array {
  const out = new Float32Array((parents.length / 2) * size);
  for (let v = 0; v * 2 < parents.length; v++)
    for (let k = 0; k < size; k++) out[v * size + k] = (array[parents[v * 2]! * size + k]! + array[parents[v * 2 + 1]! * size + k]!) / 2;
  return out;
}

const TYPES = ['SCALAR', 'SCALAR', 'VEC2', 'VEC3', 'VEC4'] as const;

/** Writes attributes and indices back; where vertices were split, everything but the normals is picked by `from`. */
function write(
  document: Document,
  primitive: Primitive,
  attributes: Attributes,
  indices: Uint32Array,
  from: Uint32Array | undefined,
): void {
  const buffer = document.getRoot().listBuffers()[0] ?? document.createBuffer();
  const picked = (array: Float32Array, size: number): Float32Array => {
    if (!from) return array;
    const out = new Float32Array(from.length * size);
    from.forEach((v, i) => out.set(array.subarray(v * size, (v + 1) * size), i * size));
    return out;
  };
  for (const semantic of primitive.listSemantics()) {
    const a = attributes[semantic];
    if (!a) {
      primitive.setAttribute(semantic, null);
      continue;
    }
    const array = semantic === 'NORMAL' && from ? a.array : picked(a.array, a.size);
    const made = document.createAccessor().setType(TYPES[a.size]!).setBuffer(buffer);
    primitive.setAttribute(
      semantic,
      made.setArray(semantic.startsWith('JOINTS') ? Uint16Array.from(array) : (array as Float32Array<ArrayBuffer>)),
    );
  }
  if (!primitive.getAttribute('NORMAL') && attributes['NORMAL'])
    primitive.setAttribute(
      'NORMAL',
      document
        .createAccessor()
        .setType('VEC3')
        .setArray(attributes['NORMAL'].array as Float32Array<ArrayBuffer>)
        .setBuffer(buffer),
    );
  for (const target of primitive.listTargets())
    for (const semantic of target.listSemantics()) {
      const accessor = target.getAttribute(semantic)!;
      if (semantic === 'TANGENT' || (semantic === 'NORMAL' && from)) {
        target.setAttribute(semantic, null);
        continue;
      }
      const plain = new Float32Array(accessor.getCount() * 3),
        v: number[] = [];
      for (let i = 0; i < accessor.getCount(); i++) plain.set(accessor.getElement(i, v), i * 3);
      target.setAttribute(
        semantic,
        document
          .createAccessor()
          .setType('VEC3')
          .setArray(picked(plain, 3) as Float32Array<ArrayBuffer>)
          .setBuffer(buffer),
      );
    }
  primitive.setIndices(
    document
      .createAccessor()
      .setType('SCALAR')
      .setArray(indices as Uint32Array<ArrayBuffer>)
      .setBuffer(buffer),
  );
}
