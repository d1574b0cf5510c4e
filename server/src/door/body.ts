import { MAX_JSON_BYTES } from '@plinket/contract';
import express, { type NextFunction, type Request, type RequestHandler, type Response } from 'express';
import { HttpProblem } from '../problem.ts';
import { jsonProblems } from './json.ts';

/** Compressed bodies are refused: a few bytes could become any number. */
export function plainBodies(req: Request, _res: Response, next: NextFunction): void {
  const encoding = req.headers['content-encoding'];
  if (encoding !== undefined && encoding !== 'identity')
    throw new HttpProblem(415, 'media-type', 'Bodies are wanted as they are, not compressed.', { detail: `Content-Encoding: ${encoding}` });
  next();
}

/** Reads JSON bodies and looks them over. */
export const jsonBodies: RequestHandler[] = [
  express.json({ limit: MAX_JSON_BYTES, inflate: false, type: ['application/json', 'application/merge-patch+json'], strict: false }),
  (req, _res, next) => {
    const errors = jsonProblems(req.body);
    if (errors.length)
      throw new HttpProblem(422, 'invalid', 'The body was not taken.', {
        errors: errors.map(({ field, reason }) => ({ field: field.replace(/^document\./, ''), reason })),
      });
    next();
  },
];
