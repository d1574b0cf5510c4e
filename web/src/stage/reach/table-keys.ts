// How the table of reach is walked by keyboard.

/** Rows that Page Up and Page Down go by. */
const PAGE = 10;

/** A place in the table: row, and column by column two marks; −1 is the row's name. */
export interface Cell {
  row: number;
  mark: number;
}

/** Where a key takes the focus. */
export function stepOf(e: Pick<KeyboardEvent, 'key' | 'ctrlKey'>, { row, mark }: Cell, rows: number, marks: number): Cell | undefined {
  const within = (v: number, least: number, most: number) => Math.max(least, Math.min(most, v));
  const to = (r: number, m: number): Cell => ({ row: within(r, 0, rows - 1), mark: within(m, -1, marks - 1) });
  switch (e.key) {
    case 'ArrowDown':
      return to(row + 1, mark);
    case 'ArrowUp':
      return to(row - 1, mark);
    case 'ArrowRight':
      return to(row, mark + 1);
    case 'ArrowLeft':
      return to(row, mark - 1);
    case 'PageDown':
      return to(row + PAGE, mark);
    case 'PageUp':
      return to(row - PAGE, mark);
    case 'Home':
      return to(e.ctrlKey ? 0 : row, 0);
    case 'End':
      return to(e.ctrlKey ? rows - 1 : row, marks - 1);
  }
  return undefined;
}
