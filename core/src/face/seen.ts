// What a picture shows of a face and its figure, as numbers: `film` measures it, readings and findings tell it.
import type { Patch, Target } from '../setup/index.ts';

/** What one light gives to the parts of a picture, in the picture's linear luminance by the level that it has; and the most that it adds anywhere, stops. */
export interface Given {
  id: string;
  gives: Partial<Record<Target, number>>;
  most: number;
}

export interface Seen {
  /** Share of the skin's pixels with a channel at or above 1, and of those six stops or more below middle grey. */
  clipped: number;
  crushed: number;
  /** Figure against ground along the silhouette: the median in stops, positive where the figure is brighter; nothing where there is no ground. */
  separation?: number;
  /** Share of the silhouette's left and right, as the picture has them, along which both differ by half a stop or more. */
  coverage: { left?: number; right?: number };
  /**
   * Skin of the lit against the shadow cheek: colour difference CIEDE2000 at one luminance, and by how many stops red stands higher against blue in
   * the light than in the shadow.
   */
  colour?: { difference: number; warmer: number };
  /** Share of the skin far brighter than the rest of it, and where on the map. */
  hot: { share: number; cells: number[] };
  /** Places that are clipped. */
  clippedCells: number[];
  /** Luminance of the parts, stops from middle grey. */
  parts: Partial<Record<Target, number>>;
  lights: Given[];
}

export type FindingKind = 'idle' | 'doubled' | 'hot' | 'in frame' | 'clipped' | 'flat ratio' | 'strong colour' | 'front';

export interface Finding {
  /** Stays the same as long as it is the same matter: `kind` and the light that it is about. */
  id: string;
  kind: FindingKind;
  /** The light that it is about, and another that takes part. */
  light?: string;
  other?: string;
  measure: number;
  unit: 'stops' | '%' | '°' | 'ΔE';
  limit: { at: 'least' | 'most'; value: number };
  /** Places of the face that it is about. */
  cells?: readonly number[];
  /** What mends it, if it can be mended in one step: a change, or a pattern that its light is asked for. */
  mend?: Patch;
  ask?: { pattern: 'loop'; from: 'left' | 'right' };
}
