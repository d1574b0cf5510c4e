// Many pictures on one sheet, each with what it is called.
import { picture, sheet, SHEET, text, wrapped } from './svg.ts';
import type { PaperProof } from './wall.ts';

/** Room between pictures, and the words below one, mm. */
const GAP = 3,
  CAPTION = 8,
  SMALL = 2.3;

/** Most pictures of a sheet: more would be stamps. */
export const GRID_MOST = 60;

/** Of so many things at most so many, evenly chosen, the first and the last among them. */
export function evenly<T>(all: readonly T[], most: number): T[] {
  if (all.length <= most) return [...all];
  return Array.from({ length: most }, (_, i) => all[Math.round((i * (all.length - 1)) / Math.max(1, most - 1))]!);
}

/** How many columns let pictures of a shape, with their words, be widest on a sheet. */
function columnsFor(count: number, aspect: number, width: number, height: number): { columns: number; w: number } {
  let best = { columns: 1, w: 0 };
  for (let columns = 1; columns <= count; columns++) {
    const rows = Math.ceil(count / columns);
    const w = Math.min((width - (columns - 1) * GAP) / columns, (height / rows - CAPTION - GAP) * aspect);
    if (w > best.w) best = { columns, w };
  }
  return best;
}

/**
 * Draws pictures in rows, as large as they fit, all within cells of the first one's shape.
 * @param pictures at most `GRID_MOST`
 */
export function gridPaper(title: string, pictures: readonly PaperProof[]): string {
  const { width, height, margin } = SHEET;
  const top = margin + 9,
    [first] = pictures;
  let out = text(margin, margin + 4, wrapped(title, width - 2 * margin, 4.6, 1)[0]!, { size: 4.6, bold: true });
  if (!first) return sheet(title, out);
  const aspect = first.width / first.height,
    { columns, w } = columnsFor(pictures.length, aspect, width - 2 * margin, height - margin - top),
    h = w / aspect;
  for (const [i, p] of pictures.entries()) {
    const x = margin + (i % columns) * (w + GAP),
      y = top + Math.floor(i / columns) * (h + CAPTION + GAP);
    // another shape stands in the middle of its cell
    const k = Math.min(w / p.width, h / p.height);
    out += picture(p.picture, x + (w - k * p.width) / 2, y + (h - k * p.height) / 2, k * p.width, k * p.height);
    out += text(x, y + h + 3.4, wrapped(p.name, w, SMALL, 1)[0] ?? '', { size: SMALL, bold: true });
    out += text(x, y + h + 6.4, wrapped(p.under, w, SMALL, 1)[0] ?? '', { size: SMALL });
  }
  return sheet(title, out);
}
