import type { Camera } from '@plinket/core';

/** Where pictures lie between two visits; a subset of the browser's storage. */
export interface Shelf {
  getItem(key: string): string | null;
  setItem(key: string, value: string): void;
}

const KEY = 'plinket-camera-pictures';
/** Pictures that are kept in this browser, at most: the oldest go. */
const MOST = 60;

/** What a camera's picture depends on; its name and locks do not count. */
export const viewOf = (setup: string, { position, target, focal, sensor, roll, aspect }: Camera): string =>
  JSON.stringify([setup, position, target, focal, sensor, roll, aspect]);

function all(shelf: Shelf): [string, string][] {
  try {
    const known: unknown = JSON.parse(shelf.getItem(KEY) ?? '[]');
    return Array.isArray(known) ? (known as [string, string][]).filter((e) => Array.isArray(e) && e.length === 2) : [];
  } catch {
    // what another version or a hand left there is not worth more than a picture
    return [];
  }
}

/** The picture that was last seen through a camera, as a data URL; nothing where none is known. */
export const pictureThrough = (shelf: Shelf, view: string): string | undefined => all(shelf).find(([v]) => v === view)?.[1];

/** Keeps the picture seen through a camera. A full storage keeps nothing, and nobody is told: it is a convenience. */
export function keepPicture(shelf: Shelf, view: string, picture: string): void {
  const next = [[view, picture] as [string, string], ...all(shelf).filter(([v]) => v !== view)].slice(0, MOST);
  try {
    shelf.setItem(KEY, JSON.stringify(next));
  } catch {
    return;
  }
}
