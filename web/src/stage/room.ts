import type { SheetName } from './context.ts';

/** How PLAN and SIDE share the right column with the sheet: one of them large, both small side by side, or folded away. */
export const DRAWINGS = ['plan', 'side', 'both', 'none'] as const;
export type Drawings = (typeof DRAWINGS)[number];

/** What suits each sheet as long as nobody has chosen: lights are placed on paper, long sheets want the room. */
const SUITS: Record<SheetName, Drawings> = {
  light: 'plan',
  camera: 'both',
  look: 'plan',
  stage: 'both',
  surfaces: 'both',
  character: 'both',
};

const KEY = 'plinket-drawings';

/** What was chosen in this browser, sheet by sheet. */
export function chosenDrawings(storage: Pick<Storage, 'getItem'>): Partial<Record<SheetName, Drawings>> {
  try {
    const known: unknown = JSON.parse(storage.getItem(KEY) ?? '{}');
    if (typeof known !== 'object' || known === null) return {};
    return Object.fromEntries(
      Object.entries(known).filter(([sheet, d]) => sheet in SUITS && (DRAWINGS as readonly unknown[]).includes(d)),
    ) as Partial<Record<SheetName, Drawings>>;
  } catch {
    // nothing that anybody would miss
    return {};
  }
}

/** Remembers a choice; a storage that takes nothing forgets it, and nobody is told. */
export function keepDrawings(storage: Pick<Storage, 'setItem'>, chosen: Partial<Record<SheetName, Drawings>>): void {
  try {
    storage.setItem(KEY, JSON.stringify(chosen));
  } catch {
    return;
  }
}

export const drawingsFor = (sheet: SheetName, chosen: Partial<Record<SheetName, Drawings>>): Drawings => chosen[sheet] ?? SUITS[sheet];

export interface Box {
  width: number;
  height: number;
}

/** Shares of the column's height: a large drawing, a small one below it, two small ones side by side. */
const LARGE = 0.36,
  BELOW = 0.185,
  BESIDE = 0.23;

/** Where PLAN and SIDE lie in a column, pixels; nothing for one that is folded away. */
export function drawingBoxes({ width, height }: Box, drawings: Drawings): { plan?: Box; side?: Box } {
  const w = Math.floor(width),
    tall = (share: number) => Math.round(height * share);
  switch (drawings) {
    case 'plan':
      return { plan: { width: w, height: tall(LARGE) }, side: { width: w, height: tall(BELOW) } };
    case 'side':
      return { side: { width: w, height: tall(LARGE) }, plan: { width: w, height: tall(BELOW) } };
    case 'both':
      return { plan: { width: Math.floor(w / 2), height: tall(BESIDE) }, side: { width: w - Math.floor(w / 2), height: tall(BESIDE) } };
    case 'none':
      return {};
  }
}
