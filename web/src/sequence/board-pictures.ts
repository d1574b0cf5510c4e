import { browserStorage } from '../parts/storage.ts';

/** Which pictures the board shows: of the latest proofs, or of the shots as they are now. */
export const BOARD_PICTURES = ['proofs', 'first', 'middle', 'last'] as const;
export type BoardPictures = (typeof BOARD_PICTURES)[number];

const KEY = 'plinket-board-pictures';
type Shelf = Pick<Storage, 'getItem' | 'setItem'>;

/** What was chosen last; the proofs where nothing was, or where this browser keeps nothing. */
export function rememberedPictures(shelf: Shelf = browserStorage): BoardPictures {
  try {
    return BOARD_PICTURES.find((p) => p === shelf.getItem(KEY)) ?? 'proofs';
  } catch {
    return 'proofs';
  }
}

export function rememberPictures(which: BoardPictures, shelf: Shelf = browserStorage): void {
  try {
    shelf.setItem(KEY, which);
  } catch {
    // not kept: the choice holds until the page is left
  }
}
