/** Triangles as a ray sees them. */
export interface RayMesh {
  /** x y z of each vertex, metres. */
  positions: Float32Array;
  /** Three vertex numbers for each triangle. */
  indices: Uint32Array;
  /** Triangles from this one on are clear: camera rays meet them, shadow rays pass. Default: none is clear. */
  clearFrom?: number;
  /**
   * Ranges of triangles, in order and without gaps, that are built apart, so that a moved object rebuilds its own part.
   * Default: all is one part.
   */
  parts?: MeshPart[];
  /** Number of the object that each triangle belongs to; with it shadow rays can ask for some objects only. */
  objects?: Uint16Array;
  /** What surfaces look like: normal and colour of each vertex, material of each triangle. With it a kernel can shade. */
  shading?: { normals: Float32Array; colours: Float32Array; triangleMaterial: Uint16Array };
}

/** A range of a mesh's triangles that moves together. `key` changes whenever its positions do. */
export interface MeshPart {
  first: number;
  count: number;
  key: string;
}

/** Why a mesh cannot be built. */
export type MeshErrorCode = 'not-finite' | 'index-out-of-range' | 'index-count' | 'too-large';

/** A mesh that no ray can be traced against; the message names the vertex or triangle. */
export class MeshError extends Error {
  readonly code: MeshErrorCode;
  constructor(code: MeshErrorCode, message: string) {
    super(message);
    this.name = 'MeshError';
    this.code = code;
  }
}

/** Most triangles that fit the kernel's 2 GiB address space with their hierarchy. */
export const MAX_TRIANGLES = 4_000_000;

/**
 * Refuses what would poison a hierarchy: positions that are not finite, indices outside the mesh.
 * Degenerate triangles are fine (no ray meets them).
 * @throws MeshError naming the first offender.
 */
export function checkMesh(mesh: RayMesh): void {
  const { positions, indices } = mesh;
  const vertices = positions.length / 3;
  if (indices.length % 3 !== 0) throw new MeshError('index-count', `${indices.length} indices are not a whole number of triangles.`);
  if (indices.length / 3 > MAX_TRIANGLES)
    throw new MeshError('too-large', `${indices.length / 3} triangles are more than the ${MAX_TRIANGLES} that fit.`);
  for (let i = 0; i < positions.length; i++) {
    const value = positions[i]!;
    if (!(Math.abs(value) < 1e18)) {
      throw new MeshError('not-finite', `Vertex ${Math.floor(i / 3)} has the coordinate ${'xyz'[i % 3]} = ${value}.`);
    }
  }
  for (let i = 0; i < indices.length; i++) {
    if (indices[i]! >= vertices) {
      throw new MeshError('index-out-of-range', `Triangle ${Math.floor(i / 3)} uses vertex ${indices[i]} of ${vertices}.`);
    }
  }
}
