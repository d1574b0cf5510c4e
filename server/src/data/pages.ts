import { z } from 'zod';
import { HttpProblem } from '../problem.ts';

// Lists come in pages, the latest first. A cursor says after which row the next page begins: when that was, to the microsecond, and its id.

const cursorSchema = z.tuple([
  z.string().regex(/^\d{4}-\d\d-\d\d \d\d:\d\d:\d\d(\.\d+)?[+-]\d\d(:?\d\d)?$/),
  z
    .string()
    .max(64)
    .regex(/^[0-9a-f-]+$/),
]);

export type Cursor = z.infer<typeof cursorSchema>;

export interface Page<T> {
  items: T[];
  /** Cursor of the next page; absent on the last. */
  next?: string;
}

export const writeCursor = (cursor: Cursor): string => Buffer.from(JSON.stringify(cursor)).toString('base64url');

/** @throws HttpProblem 400 when it is none of ours */
export function readCursor(text: string | undefined): Cursor | undefined {
  if (text === undefined) return undefined;
  try {
    return cursorSchema.parse(JSON.parse(Buffer.from(text, 'base64url').toString('utf8')));
  } catch {
    throw new HttpProblem(400, 'cursor', 'The page cannot be found.', { detail: 'The cursor is none that this server gave.' });
  }
}

/** Makes a page of one row more than was asked for. */
export function pageOf<R extends { at: string; key: string }, T>(rows: R[], limit: number, make: (row: R) => T): Page<T> {
  const shown = rows.slice(0, limit),
    last = shown.at(-1);
  return { items: shown.map(make), ...(rows.length > limit && last ? { next: writeCursor([last.at, last.key]) } : {}) };
}

/** A text as a pattern of LIKE that finds it anywhere. */
export const anywhere = (text: string | undefined): string | null => (text?.trim() ? `%${text.trim().replace(/[\\%_]/g, '\\$&')}%` : null);
