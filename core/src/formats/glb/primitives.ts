import { Root, type Accessor, type Document, type Primitive, type PrimitiveTarget } from '@gltf-transform/core';
import { creaseNormals, flipWinding, insideOut, loopSubdivide } from '../../geometry/index.ts';
import type { Mending } from './mending.ts';

/** Triangles after which subdivision stops: more helps no picture. */
const MOST_TRIANGLES = 3_000_000;
/** Joints that one vertex may hang on (glTF 2.0 asks readers for four). */
const JOINTS = 4;

interface Attribute {
  array: Float32Array;
  size: number;
}
type Attributes = Record<string, Attribute>;

/** A primitive's triangles and what hangs at its vertices, plain: taken out, mended, put back. */
export interface PrimitiveData {
  attributes: Attributes & { POSITION: Attribute };
  /** Displacements of its morph targets. */
  targets: Attributes[];
  indices: Uint32Array;
}

/** What a primitive holds; nothing where it has no positions. */
export function attributesOf(primitive: Primitive): PrimitiveData | undefined {
  const plain = (holder: {
    listSemantics(): string[];
    getAttribute(semantic: string): ReturnType<Primitive['getAttribute']>;
  }): Attributes => {
    const out: Attributes = {},
      v: number[] = [];
    for (const semantic of holder.listSemantics()) {
      const accessor = holder.getAttribute(semantic)!;
      const size = accessor.getElementSize(),
        array = new Float32Array(accessor.getCount() * size);
      for (let i = 0; i < accessor.getCount(); i++) array.set(accessor.getElement(i, v).slice(0, size), i * size);
      out[semantic] = { array, size };
    }
    return out;
  };
  const attributes = plain(primitive);
  const { POSITION } = attributes;
  if (!POSITION) return undefined;
  const index = primitive.getIndices();
  return {
    attributes: { ...attributes, POSITION },
    targets: primitive.listTargets().map(plain),
    indices: index ? Uint32Array.from(index.getArray()!) : Uint32Array.from({ length: POSITION.array.length / 3 }, (_, i) => i),
  };
}

/** Mends in place. Answers whether it was inside out, and whether it is too fine to be subdivided as often as was wished. */
export function mendAttributes(data: PrimitiveData, mending: Mending): { turned: boolean; coarse: boolean } {
  const turned = mending.winding && insideOut(data.attributes.POSITION.array, data.indices);
  if (turned) {
    flipWinding(data.indices);
    const normal = data.attributes['NORMAL'];
    if (normal) normal.array = normal.array.map((n) => -n);
  }
  let step = 0;
  for (; step < mending.subdivide && (data.indices.length / 3) * 4 <= MOST_TRIANGLES; step++) subdivide(data);
  const crease = mending.crease ?? (step ? 180 : undefined);
  if (crease !== undefined) smooth(data, crease);
  return { turned, coarse: step < mending.subdivide };
}

function subdivide(data: PrimitiveData): void {
  const { attributes, targets } = data;
  const moved = targets.flatMap((t) => (t['POSITION'] ? [t['POSITION']] : []));
  const fine = loopSubdivide(
    attributes.POSITION.array,
    data.indices,
    moved.map((a) => a.array),
  );
  for (const [semantic, a] of Object.entries(attributes))
    if (!/^(POSITION|NORMAL|JOINTS_\d+|WEIGHTS_\d+)$/.test(semantic)) a.array = meanOf(a, fine.parents);
  hang(attributes, fine.parents);
  attributes.POSITION.array = fine.positions;
  moved.forEach((a, i) => (a.array = fine.others[i]!));
  data.indices = fine.indices;
}

function meanOf({ array, size }: Attribute, parents: Uint32Array): Float32Array<ArrayBuffer> {
  const out = new Float32Array((parents.length / 2) * size);
  for (let v = 0; v * 2 < parents.length; v++)
    for (let k = 0; k < size; k++) out[v * size + k] = (array[parents[v * 2]! * size + k]! + array[parents[v * 2 + 1]! * size + k]!) / 2;
  return out;
}

/** A new vertex hangs on the joints of both that it lies between, half on each; on the strongest four where they are more. */
function hang(attributes: Attributes, parents: Uint32Array): void {
  const sets = Object.keys(attributes).flatMap((k) => /^JOINTS_(\d+)$/.exec(k)?.[1] ?? []);
  if (!sets.length) return;
  const count = parents.length / 2;
  const joints = new Float32Array(count * JOINTS),
    weights = new Float32Array(count * JOINTS);
  const sum = new Map<number, number>();
  for (let v = 0; v < count; v++) {
    sum.clear();
    for (const parent of [parents[v * 2]!, parents[v * 2 + 1]!])
      for (const set of sets) {
        const j = attributes[`JOINTS_${set}`]!,
          w = attributes[`WEIGHTS_${set}`];
        for (let k = 0; w && k < JOINTS; k++) {
          const weight = w.array[parent * JOINTS + k]!;
          if (weight > 0) sum.set(j.array[parent * JOINTS + k]!, (sum.get(j.array[parent * JOINTS + k]!) ?? 0) + weight);
        }
      }
    const strongest = [...sum].sort((a, b) => b[1] - a[1]).slice(0, JOINTS);
    const all = strongest.reduce((n, [, w]) => n + w, 0);
    strongest.forEach(([joint, weight], k) => {
      joints[v * JOINTS + k] = joint;
      weights[v * JOINTS + k] = weight / all;
    });
  }
  for (const set of sets) {
    delete attributes[`JOINTS_${set}`];
    delete attributes[`WEIGHTS_${set}`];
  }
  attributes['JOINTS_0'] = { array: joints, size: JOINTS };
  attributes['WEIGHTS_0'] = { array: weights, size: JOINTS };
}

/** Normals by a crease angle: vertices are split where an edge is sharp. What goes along with the old normals is left out. */
function smooth(data: PrimitiveData, crease: number): void {
  const { attributes, targets } = data;
  const split = creaseNormals(attributes.POSITION.array, data.indices, crease);
  for (const holder of [attributes, ...targets]) {
    delete holder['NORMAL'];
    delete holder['TANGENT'];
    for (const a of Object.values(holder)) a.array = picked(a, split.from);
  }
  attributes['NORMAL'] = { array: split.normals, size: 3 };
  data.indices = split.indices;
}

function picked({ array, size }: Attribute, from: Uint32Array): Float32Array {
  const out = new Float32Array(from.length * size);
  from.forEach((v, i) => out.set(array.subarray(v * size, (v + 1) * size), i * size));
  return out;
}

const TYPES = ['SCALAR', 'SCALAR', 'VEC2', 'VEC3', 'VEC4'] as const;

/** What nobody else holds would be written all the same. */
export function drop(accessor: Accessor | null): void {
  if (accessor?.listParents().every((p) => p instanceof Root)) accessor.dispose();
}

/** Puts triangles and vertices back; what is not named any more goes. */
export function writeAttributes(document: Document, primitive: Primitive, { attributes, targets, indices }: PrimitiveData): void {
  const buffer = document.getRoot().listBuffers()[0] ?? document.createBuffer();
  const accessor = (array: Float32Array | Uint32Array | Uint16Array, size: number) =>
    document
      .createAccessor()
      .setType(TYPES[size]!)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const put = (holder: Primitive | PrimitiveTarget, plain: Attributes) => {
    for (const semantic of new Set([...holder.listSemantics(), ...Object.keys(plain)])) {
      const old = holder.getAttribute(semantic),
        a = plain[semantic];
      holder.setAttribute(semantic, a ? accessor(semantic.startsWith('JOINTS') ? Uint16Array.from(a.array) : a.array, a.size) : null);
      drop(old);
    }
  };
  put(primitive, attributes);
  primitive.listTargets().forEach((target, i) => put(target, targets[i]!));
  const old = primitive.getIndices();
  primitive.setIndices(accessor(indices, 1));
  drop(old);
}
