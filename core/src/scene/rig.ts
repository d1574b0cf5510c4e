import type { Vec3 } from '../math/index.ts';

// What moves a character: a skeleton of nodes, clips that turn them, skins and morph targets that follow (glTF 2.0, sections 3.7
// and 3.11).

export type Quaternion = [number, number, number, number];

export interface RigNode {
  name: string;
  /** Index of the parent, which comes before; −1: none. */
  parent: number;
  translation: Vec3;
  rotation: Quaternion;
  scale: Vec3;
}

export interface Channel {
  node: number;
  path: 'translation' | 'rotation' | 'scale' | 'weights';
  /** Seconds, rising. */
  times: Float32Array;
  /** As glTF has them; cubic splines hold in-tangent, value, out-tangent for each time. */
  values: Float32Array;
  interpolation: 'LINEAR' | 'STEP' | 'CUBICSPLINE';
}

export interface Clip {
  name: string;
  /** Seconds. */
  duration: number;
  channels: Channel[];
}

/** How one part hangs on the skeleton; its positions and normals are in the space of its node, or of the skin's bind pose. */
export interface PartRig {
  node: number;
  positions: Float32Array;
  normals: Float32Array;
  skin?: {
    joints: number[];
    /** Sixteen floats for each joint, columns first. */
    inverse: Float32Array;
    /** Four joints (places in `joints`) and weights for each vertex; the weights of one add up to 1. */
    indices: Uint16Array;
    weights: Float32Array;
  };
  targets: { positions: Float32Array; normals?: Float32Array }[];
  /** Weights of the targets at rest. */
  weights: number[];
}

export interface Rig {
  nodes: RigNode[];
  clips: Clip[];
}
