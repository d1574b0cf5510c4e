import type { Vec3 } from '../math/index.ts';
import type { HeadFrame } from '../setup/index.ts';
import type { Material } from '../surface/index.ts';
import type { PartRig, Rig } from './rig.ts';

/** One mesh of a character, in the character's own space (metres, Y up). */
export interface Part {
  name: string;
  positions: Float32Array;
  normals: Float32Array;
  /** Linear r g b of each vertex, or nothing. */
  colours?: Float32Array;
  /** Texture coordinates of each vertex, when a picture of the material needs them. */
  uvs?: Float32Array;
  indices: Uint32Array;
  material: Material;
  /** How it hangs on the character's skeleton, where it does. */
  rig?: PartRig;
}

/** What an import found worth telling. */
export interface ImportWarning {
  code:
    | 'scale'
    | 'facing'
    | 'floating'
    | 'textures'
    | 'no-landmarks'
    | 'flat-shaded'
    | 'skipped'
    | 'mended'
    | 'unread'
    | 'skin'
    | 'animation'
    | 'inside-out';
  message: string;
  /** The part that it begins with, where the same may be said of others. */
  part?: string;
}

/** A character as read from a file. */
export interface CharacterAsset {
  name: string;
  parts: Part[];
  bounds: { min: Vec3; max: Vec3 };
  triangles: number;
  /** Given by the file or proposed from the mesh; `head.source` says which. */
  head: HeadFrame;
  /** How sure the head is, 0 … 1; 1 where nothing is said. */
  headSure?: number;
  /** The axis that is usually up in files of its format, where that is not Y. */
  usualUp?: 'z';
  /** Points of the face by name, metres, where the file gives them. */
  landmarks: Record<string, Vec3>;
  warnings: ImportWarning[];
  /** Skeleton and clips, where the file has any. */
  rig?: Rig;
}
