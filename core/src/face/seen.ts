// What a picture shows of a face and its figure, as numbers: `film` measures it, readings and findings tell it.
import type { Vec3 } from '../math/index.ts';
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
  /** Skin of the lit cheek: linear Rec.709, white at 1. */
  face?: Vec3;
  /** Share of the skin far brighter than the rest of it, where on the map, by how many stops, and the light that gives most of it. */
  hot: { share: number; cells: number[]; stops: number; light?: string };
  /** Places that are clipped. */
  clippedCells: number[];
  /** Luminance of the parts, stops from middle grey. */
  parts: Partial<Record<Target, number>>;
  lights: Given[];
}

/** A place of the picture, 0…1 from its left and top. */
export type PictureSpot = [number, number];

/** A spot of the stage that is so much brighter than all of it, and the light that makes it. */
export interface StageSpot {
  light: string;
  /** Share of the stage that is seen, 0…1, and stops over its middle. */
  area: number;
  stops: number;
  dots: PictureSpot[];
}

/** A light's shadow on what is seen of the stage. */
export interface StageShadow {
  light: string;
  /** Share of the stage that lies in it, 0…1, and how much of the light there it takes, 0…1. */
  area: number;
  depth: number;
  /** Characters and things that cast it. */
  by: string[];
  dots: PictureSpot[];
}

export type FindingKind = 'idle' | 'doubled' | 'hot' | 'in frame' | 'clipped' | 'flat ratio' | 'strong colour' | 'front' | SetFindingKind;
/** What is said of the set, not of a face. */
export type SetFindingKind = 'stage spot' | 'shadows' | 'half space' | 'stage edge' | 'floating' | 'reaches nothing';

export interface Finding {
  /** Stays the same as long as it is the same matter: `kind` and the light that it is about. */
  id: string;
  kind: FindingKind;
  /** The light that it is about, and another that takes part. */
  light?: string;
  other?: string;
  measure: number;
  unit: 'stops' | '%' | '°' | 'ΔE' | 'cm' | 'shadows';
  limit: { at: 'least' | 'most'; value: number };
  /** A second measure, in percent of the stage that is seen; other lights that take part. */
  area?: number;
  /** How far over the rest of it, stops. */
  stops?: number;
  others?: readonly string[];
  /** A character that it is about. */
  subject?: string;
  /** Places of the picture that it is about. */
  dots?: readonly PictureSpot[];
  /** Places of the face that it is about. */
  cells?: readonly number[];
  /** What mends it, if it can be mended in one step: a change, or a pattern that its light is asked for. */
  mend?: Patch;
  ask?: { pattern: 'loop'; from: 'left' | 'right' };
}
