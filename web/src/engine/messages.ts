import type { CharacterAsset, HeadFrame, ImportWarning, Setup } from '@plinket/core';

/** What the picture shows: all lights as balanced, or one light's share. */
export type PictureMode = { kind: 'light' } | { kind: 'share'; light: string };

/** What the page asks of the engine's worker. */
export type ToEngine =
  | { type: 'open'; urls: { shared: string; own: string } }
  | { type: 'show'; setup: Setup; width: number; height: number; solo: string | undefined; mode: PictureMode; thumb: [number, number] }
  | { type: 'inspect'; request: number; fileName: string; bytes: ArrayBuffer }
  | { type: 'export'; request: number; setup: Setup };

/** What an import found, for the sheet that the artist confirms. */
export interface AssetReport {
  name: string;
  fileName: string;
  size: { width: number; height: number; depth: number };
  floor: number;
  triangles: number;
  parts: { name: string; triangles: number }[];
  head: HeadFrame;
  landmarks: number;
  warnings: ImportWarning[];
}

export interface Thumb {
  id: string;
  width: number;
  height: number;
  rgba: ArrayBuffer;
}

/** One developed picture with what was measured in it. */
export interface Frame {
  type: 'frame';
  width: number;
  height: number;
  rgba: ArrayBuffer;
  bins: Uint32Array;
  clipped: number;
  crushed: number;
  samples: number;
  target: number;
  done: number;
  msLeft: number;
  /** Rays traced so far, and milliseconds that balance and development took. */
  rays: number;
  balanceMs: number;
  /** Number of the `show` that this picture answers in full or coarsely. */
  answers: number;
}

/** What the engine's worker tells the page. */
export type FromEngine =
  | Frame
  | { type: 'thumbs'; thumbs: Thumb[] }
  | { type: 'state'; state: 'loading' | 'building' | 'tracing' | 'finished' }
  | { type: 'inspected'; request: number; report: AssetReport }
  | { type: 'refused'; request: number; code: string; message: string }
  | { type: 'exported'; request: number; png: ArrayBuffer }
  | { type: 'failed'; message: string };

/** The report of a character that was read. */
export function reportOf(asset: CharacterAsset, fileName: string): AssetReport {
  const { min, max } = asset.bounds;
  return {
    name: asset.name,
    fileName,
    size: { width: max[0] - min[0], height: max[1] - min[1], depth: max[2] - min[2] },
    floor: min[1],
    triangles: asset.triangles,
    parts: asset.parts.map((p) => ({ name: p.name, triangles: p.indices.length / 3 })),
    head: asset.head,
    landmarks: Object.keys(asset.landmarks).length,
    warnings: asset.warnings,
  };
}
