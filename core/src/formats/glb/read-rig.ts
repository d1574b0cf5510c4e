import type { Document, Node as GltfNode, Primitive } from '@gltf-transform/core';
import type { Channel, Clip, ImportWarning, PartRig, Quaternion, RigNode } from '../../scene/index.ts';
import type { Vec3 } from '../../math/index.ts';
import { numbersOf } from './numbers.ts';

/** A file's nodes in an order in which parents come first, with their places in it. */
export interface Skeleton {
  nodes: RigNode[];
  places: Map<GltfNode, number>;
}

/** All nodes below a scene's roots. Loops cannot be: a node is visited once. */
export function readSkeleton(roots: GltfNode[]): Skeleton {
  const nodes: RigNode[] = [],
    places = new Map<GltfNode, number>();
  const visit = (node: GltfNode, parent: number) => {
    if (places.has(node)) return;
    places.set(node, nodes.length);
    const at = nodes.push({
      name: node.getName(),
      parent,
      translation: node.getTranslation() as Vec3,
      rotation: node.getRotation() as Quaternion,
      scale: node.getScale() as Vec3,
    });
    for (const child of node.listChildren()) visit(child, at - 1);
  };
  for (const root of roots) visit(root, -1);
  return { nodes, places };
}

/** Matrices to the world, one column after the other, of all nodes at rest: each is made from its parent's. */
export function worldsOf({ nodes, places }: Skeleton): Map<GltfNode, number[]> {
  const worlds: number[][] = [],
    out = new Map<GltfNode, number[]>();
  for (const [node, at] of places) {
    const own = node.getMatrix() as number[],
      above = worlds[nodes[at]!.parent];
    worlds[at] = above ? product(above, own) : own;
    out.set(node, worlds[at]);
  }
  return out;
}

function product(a: number[], b: number[]): number[] {
  const out: number[] = [];
  for (let c = 0; c < 16; c += 4)
    for (let r = 0; r < 4; r++) out.push(a[r]! * b[c]! + a[4 + r]! * b[c + 1]! + a[8 + r]! * b[c + 2]! + a[12 + r]! * b[c + 3]!);
  return out;
}

/** The clips of a file; channels whose target is not in the scene, or whose keys do not rise, are left out and said. */
export function readClips(document: Document, { places }: Skeleton, warnings: ImportWarning[]): Clip[] {
  const clips: Clip[] = [];
  let lost = 0;
  for (const animation of document.getRoot().listAnimations()) {
    const channels: Channel[] = [];
    for (const channel of animation.listChannels()) {
      const target = channel.getTargetNode(),
        sampler = channel.getSampler();
      const node = target ? places.get(target) : undefined;
      const input = sampler?.getInput()?.getArray(),
        output = sampler?.getOutput();
      const path = channel.getTargetPath();
      if (node === undefined || !path || !input?.length || !output) {
        lost++;
        continue;
      }
      const times = Float32Array.from(input);
      const values = Float32Array.from(numbersOf(output).array);
      if (times.some((t, i) => !Number.isFinite(t) || (i > 0 && t <= times[i - 1]!)) || values.some((v) => !Number.isFinite(v))) {
        lost++;
        continue;
      }
      channels.push({ node, path, times, values, interpolation: sampler!.getInterpolation() });
    }
    if (!channels.length) continue;
    const name = animation.getName() || `clip ${clips.length + 1}`;
    clips.push({ name, duration: Math.max(...channels.map((c) => c.times.at(-1)!)), channels });
  }
  if (lost)
    warnings.push({
      code: 'animation',
      message: `${lost} animation channels have no target, or keys that do not rise, and were left out.`,
    });
  return clips;
}

/** How far morph targets are on where nothing moves: as the node says, else as its mesh does (glTF 2.0, section 3.7.2.2). */
export function weightsOf(node: GltfNode): number[] {
  const own = node.getWeights();
  return (own.length ? own : (node.getMesh()?.getWeights() ?? [])).map((w) => (Number.isFinite(w) ? w : 0));
}

const floats = (
  primitive: { getAttribute(name: string): ReturnType<Primitive['getAttribute']> },
  name: string,
): Float32Array | undefined => {
  const accessor = primitive.getAttribute(name);
  return accessor ? Float32Array.from(numbersOf(accessor).array) : undefined;
};

/**
 * How a primitive hangs on the skeleton. Weights that do not add up to 1 are made to; joints that are not there lose their weight to
 * the others, and are said.
 */
export function readPartRig(
  node: GltfNode,
  primitive: Primitive,
  { places }: Skeleton,
  positions: Float32Array,
  normals: Float32Array,
  name: string,
  warnings: ImportWarning[],
): PartRig {
  const targets = primitive.listTargets().map((t) => ({
    positions: floats(t, 'POSITION') ?? new Float32Array(positions.length),
    ...(t.getAttribute('NORMAL') ? { normals: floats(t, 'NORMAL')! } : {}),
  }));
  const rig: PartRig = { node: places.get(node)!, positions, normals, targets, weights: weightsOf(node) };
  const skin = node.getSkin(),
    joints = floats(primitive, 'JOINTS_0'),
    weights = floats(primitive, 'WEIGHTS_0');
  if (!skin || !joints || !weights) return rig;
  const listed = skin.listJoints().map((j) => places.get(j));
  const inverse = new Float32Array(listed.length * 16);
  const matrices = skin.getInverseBindMatrices();
  const element: number[] = [];
  for (let i = 0; i < listed.length; i++)
    inverse.set(
      matrices && i < matrices.getCount()
        ? (matrices.getElement(i, element) as number[])
        : [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1],
      i * 16,
    );
  let mended = 0,
    homeless = 0;
  for (let v = 0; v < weights.length / 4; v++) {
    let sum = 0;
    for (let k = v * 4; k < v * 4 + 4; k++) {
      if (weights[k]! > 0 && listed[joints[k]!] === undefined) {
        weights[k] = 0;
        joints[k] = 0;
        homeless++;
      } else if (!(weights[k]! >= 0)) weights[k] = 0;
      sum += weights[k]!;
    }
    if (Math.abs(sum - 1) > 1e-3) mended++;
    if (sum > 0) for (let k = v * 4; k < v * 4 + 4; k++) weights[k] = weights[k]! / sum;
    else weights[v * 4] = 1;
  }
  if (homeless)
    warnings.push({ code: 'skin', message: `${name}: ${homeless} weights belong to joints that are not there and went to the others.` });
  if (mended) warnings.push({ code: 'skin', message: `${name}: the weights of ${mended} vertices did not add up to 1 and were made to.` });
  if (!listed.length || listed.some((j) => j === undefined && listed.every((x) => x === undefined))) return rig;
  rig.skin = { joints: listed.map((j) => j ?? 0), inverse, indices: Uint16Array.from(joints), weights };
  return rig;
}
