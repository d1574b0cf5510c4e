import type { SheetName } from './context.ts';

/** How PLAN, SIDE and the reading share the right column with the sheet: one of them large, all small side by side, or folded away. */
export const DRAWINGS = ['plan', 'side', 'both', 'reading', 'none'] as const;
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

/** Shares of the column's height: a large drawing, the reading with all it says, small ones below it, small ones side by side. */
const LARGE = 0.36,
  READING = 0.385,
  BELOW = 0.185,
  UNDER = 0.16,
  BESIDE = 0.23;
/** Share of a row's width that the reading has beside one drawing, and beside two. */
const BESIDE_ONE = 0.56,
  BESIDE_TWO = 0.44;

/** Where things lie in a column, pixels; nothing for one that is folded away. */
export interface Boxes {
  plan?: Box;
  side?: Box;
  reading?: Box;
}

/** Where PLAN, SIDE and the reading lie in a column. */
export function drawingBoxes({ width, height }: Box, drawings: Drawings): Boxes {
  const w = Math.floor(width),
    tall = (share: number) => Math.round(height * share);
  const large = { width: w, height: tall(LARGE) };
  const row = (reading: number): { one: Box; reading: Box } => {
    const of = Math.floor(w * reading);
    return { one: { width: w - of, height: tall(BELOW) }, reading: { width: of, height: tall(BELOW) } };
  };
  switch (drawings) {
    case 'plan': {
      const { one, reading } = row(BESIDE_ONE);
      return { plan: large, side: one, reading };
    }
    case 'side': {
      const { one, reading } = row(BESIDE_ONE);
      return { side: large, plan: one, reading };
    }
    case 'reading': {
      const half = Math.floor(w / 2);
      return {
        reading: { width: w, height: tall(READING) },
        plan: { width: half, height: tall(UNDER) },
        side: { width: w - half, height: tall(UNDER) },
      };
    }
    case 'both': {
      const of = Math.floor(w * BESIDE_TWO),
        half = Math.floor((w - of) / 2),
        h = tall(BESIDE);
      return { plan: { width: half, height: h }, side: { width: w - of - half, height: h }, reading: { width: of, height: h } };
    }
    case 'none':
      return {};
  }
}
