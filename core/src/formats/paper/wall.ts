// The proof wall on one sheet: pictures side by side, and below each what was read of it.
import { element, picture, sheet, SHEET, text, wrapped } from './svg.ts';

export interface PaperProof {
  name: string;
  /** Whose it is, and when it was kept. */
  under: string;
  /** A data URL. */
  picture: string;
  width: number;
  height: number;
}

export interface PaperFact {
  label: string;
  values: readonly string[];
  differs: readonly boolean[];
}

/** Room between columns, and the width of the first one, which says what stands in a row, mm. */
const GAP = 4,
  LABELS = 26;
/** Sizes of type, and height of a line, mm. */
const SMALL = 2.5,
  LINE = 3.4;

/** Draws a wall: at most nine proofs and their facts, one sheet. */
export function wallPaper(title: string, proofs: readonly PaperProof[], facts: readonly PaperFact[]): string {
  const { width, height, margin } = SHEET;
  const column = (width - 2 * margin - LABELS) / Math.max(1, proofs.length);
  const xOf = (i: number) => margin + LABELS + i * column;
  // the facts take what they need, the pictures the rest
  const rows = facts.map(({ label, values, differs }) => ({
    label,
    cells: values.map((v, i) => wrapped(differs[i] ? `≠ ${v}` : v, column - GAP, SMALL, 6)),
    differs,
  }));
  const tall = rows.reduce((sum, { cells }) => sum + Math.max(1, ...cells.map((c) => c.length)) * LINE + 1.2, 0);
  const top = margin + 9,
    captions = 2 * LINE + 2,
    room = Math.max(30, height - margin - top - captions - tall - 6);
  let out = text(margin, margin + 4, title, { size: 4.6, bold: true });
  let below = top;
  for (const [i, p] of proofs.entries()) {
    const w = Math.min(column - GAP, room * (p.width / p.height)),
      h = w * (p.height / p.width);
    out += picture(p.picture, xOf(i), top, w, h);
    below = Math.max(below, top + h);
  }
  for (const [i, p] of proofs.entries()) {
    out += text(xOf(i), below + 4, wrapped(`${i + 1} ${p.name}`, column - GAP, 2.9, 1)[0]!, { size: 2.9, bold: true });
    out += text(xOf(i), below + 4 + LINE, wrapped(p.under, column - GAP, SMALL, 1)[0]!, { size: SMALL });
  }
  let y = below + captions + 3;
  for (const { label, cells, differs } of rows) {
    out += element('line', { x1: margin, x2: width - margin, y1: y - 0.4, y2: y - 0.4, stroke: '#000', 'stroke-width': 0.1 });
    out += text(margin, y + 2.5, label, { size: SMALL });
    for (const [i, lines] of cells.entries())
      for (const [k, line] of lines.entries()) out += text(xOf(i), y + 2.5 + k * LINE, line, { size: SMALL, bold: differs[i]! });
    y += Math.max(1, ...cells.map((c) => c.length)) * LINE + 1.2;
  }
  return sheet(title, out);
}
