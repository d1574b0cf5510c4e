import type { Stance } from '../character/index.ts';

/** What is mended of a character before it is kept. */
export interface Mending {
  stance: Stance;
  /** What all lengths are multiplied by; nothing: they stay, and scale is the setup's. */
  scale?: number;
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
