// How the proofs on the wall are looked at: which are there stands in the address, how they are seen in here.
import { createStore, type StoreApi } from 'zustand/vanilla';

/** Most proofs on the wall. */
export const MOST = 9;

export type Looking = 'side' | 'wipe' | 'blink' | 'difference' | 'shares';

/** The same part of every picture: `zoom` 1 shows all of it; `x` and `y` are the middle of what is seen, 0…1. */
export interface Crop {
  zoom: number;
  x: number;
  y: number;
}
export const WHOLE: Crop = { zoom: 1, x: 0.5, y: 0.5 };
const MOST_ZOOM = 16;

export interface WallState {
  looking: Looking;
  crop: Crop;
  /** The proof in hand, by its id. */
  inHand: string | undefined;
  /** Where the line of the wipe stands, 0…1 of the frame. */
  line: number;
  /** The next click on the picture in hand puts a pin. */
  pinning: boolean;
}

export const createWall = (): StoreApi<WallState> =>
  createStore<WallState>(() => ({ looking: 'side', crop: WHOLE, inHand: undefined, line: 0.5, pinning: false }));

/** A crop that stays within the picture. */
export function within({ zoom, x, y }: Crop): Crop {
  const z = Math.min(MOST_ZOOM, Math.max(1, zoom)),
    half = 0.5 / z;
  const inside = (v: number) => Math.min(1 - half, Math.max(half, v));
  return { zoom: z, x: inside(x), y: inside(y) };
}

/** Nearer by a factor, with the point `at` (0…1 of the frame) staying where it is on the screen. */
export function zoomed(crop: Crop, factor: number, at: readonly [number, number] = [0.5, 0.5]): Crop {
  const zoom = Math.min(MOST_ZOOM, Math.max(1, crop.zoom * factor));
  const stay = (middle: number, v: number) => middle + (v - 0.5) * (1 / crop.zoom - 1 / zoom);
  return within({ zoom, x: stay(crop.x, at[0]), y: stay(crop.y, at[1]) });
}

/** Where a place of the frame, 0…1, lies in the picture, and the way back. */
export const inPicture = ({ zoom, x, y }: Crop, [u, v]: readonly [number, number]): [number, number] => [
  x + (u - 0.5) / zoom,
  y + (v - 0.5) / zoom,
];
export const inFrame = ({ zoom, x, y }: Crop, [u, v]: readonly [number, number]): [number, number] => [
  0.5 + (u - x) * zoom,
  0.5 + (v - y) * zoom,
];

/** Columns that make pictures of this shape (width to height) largest in a room of so many pixels. */
export function columnsFor(count: number, shape: number, width: number, height: number): number {
  let best = 1,
    size = 0;
  for (let columns = 1; columns <= count; columns++) {
    const w = Math.min(width / columns, (height / Math.ceil(count / columns)) * shape);
    if (w > size) [best, size] = [columns, w];
  }
  return best;
}
