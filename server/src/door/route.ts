import { idSchema, sha256Schema } from '@plinket/contract';
import type { Request, RequestHandler } from 'express';
import { z } from 'zod';
import { databaseGone, HttpProblem, notFound } from '../problem.ts';

/** What a route answers. */
export interface Answer {
  status?: number;
  headers?: Record<string, string>;
  body?: unknown;
}

/** So long may the database take, ms: a page waits for no more, and asks again. */
const DATABASE_MS = 4000;

/**
 * Waits for the database, but not for ever: one that hangs is told as one that is gone. What it does later counts; a change that is sent
 * again is known by its id.
 */
export function inTime<T>(work: Promise<T>, ms = DATABASE_MS): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(databaseGone()), ms);
  });
  // whoever comes second is heard by nobody
  work.catch(() => undefined);
  return Promise.race([work, late]).finally(() => clearTimeout(timer));
}

/** A handler that answers a value; what it throws becomes a problem. */
export const route =
  (handle: (req: Request) => Promise<Answer>): RequestHandler =>
  async (req, res) => {
    const { status = 200, headers = {}, body } = await handle(req);
    res.status(status).set(headers);
    if (body === undefined) res.end();
    else res.json(body);
  };

/** Reads a value by the contract. @throws HttpProblem 422 naming each field. */
export function read<T extends z.ZodType>(schema: T, value: unknown, title: string): z.infer<T> {
  const result = schema.safeParse(value);
  if (result.success) return result.data;
  throw new HttpProblem(422, 'invalid', title, {
    errors: result.error.issues.slice(0, 50).map((i) => ({ field: i.path.join('.').replace(/^document\./, ''), reason: i.message })),
  });
}

export const idOf = (req: Request): string => {
  const result = idSchema.safeParse(req.params['id']);
  if (!result.success) throw notFound('thing: the id is not a UUID');
  return result.data.toLowerCase();
};

export const sha256Of = (req: Request, what: string): string => {
  const sha256 = sha256Schema.safeParse(req.params['sha256']);
  if (!sha256.success) throw notFound(`${what}: its name is no SHA-256`);
  return sha256.data;
};

/** A text of at most so many characters, cut between characters and never inside one. */
export const cut = (text: string, most: number): string => (text.length <= most ? text : [...text].slice(0, most).join(''));

/** The name in the address (`?name=`). @throws HttpProblem 422 */
export function nameOf(req: Request, otherwise: string, most = 200): string {
  const name = read(
    z.object({
      name: z
        .string()
        .refine((s) => !s.includes('\0') && s.isWellFormed(), 'holds NUL or half of a character')
        .optional(),
    }),
    { name: req.query['name'] },
    'The name was not taken.',
  ).name?.trim();
  return cut(name ?? '', most) || otherwise;
}
