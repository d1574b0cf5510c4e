import type { FieldProblem } from '@plinket/core';
import type { Problem } from '@plinket/contract';

/** A problem with a document of any kind. */
export type AnyProblem = Omit<Problem, 'current'> & { current?: { revision: number; document: object } };

/** An error that becomes an RFC 9457 problem. */
export class HttpProblem extends Error {
  readonly problem: AnyProblem;
  constructor(
    status: number,
    slug: string,
    title: string,
    more: { detail?: string; errors?: FieldProblem[]; current?: { revision: number; document: object } } = {},
  ) {
    super(more.detail ?? title);
    this.problem = { type: `urn:plinket:problem:${slug}`, title, status, ...more };
  }
}

export const notFound = (what: string): HttpProblem => new HttpProblem(404, 'not-found', `There is no such ${what}.`);
export const deleted = (what: string): HttpProblem =>
  new HttpProblem(410, 'deleted', `The ${what} was thrown away.`, { detail: 'It can be brought back from where it was thrown away.' });
export const databaseGone = (): HttpProblem =>
  new HttpProblem(503, 'database', 'The database does not answer.', { detail: 'Nothing was kept. Try again in a moment.' });
export const diskFull = (): HttpProblem =>
  new HttpProblem(507, 'disk-full', 'The disk of the server is full.', {
    detail: 'Nothing was kept. Free some space; what waits is then sent again.',
  });

const GONE = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', '55P03', '40001', '40P01']);
/**
 * Classes of PostgreSQL's error codes (its manual, appendix A) that say nothing against what was asked: connection exception,
 * insufficient resources, operator intervention, system error.
 */
const GONE_CLASS = /^(08|53|57|58)[0-9A-Z]{3}$/;
const GONE_WORDS =
  /Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error|Query read timeout|not queryable|is not connected|Query ?runner already released|Transaction is not started/i;

/** Whether an error says that the database is not there, or cannot take anything now. */
export function isDatabaseGone(error: unknown): boolean {
  const e = error as { code?: string; message?: string; driverError?: unknown; errors?: unknown[] };
  if (!e) return false;
  return (
    (e.code !== undefined && (GONE.has(e.code) || GONE_CLASS.test(e.code))) ||
    GONE_WORDS.test(e.message ?? '') ||
    (e.driverError !== undefined && e.driverError !== error && isDatabaseGone(e.driverError)) ||
    (e.errors?.some(isDatabaseGone) ?? false)
  );
}

const TOO_LARGE = 'entity.too.large';

/** What the one who asked is told of an error; its inner parts are not. */
export function problemOf(error: unknown): AnyProblem {
  if (error instanceof HttpProblem) return error.problem;
  const e = error as { type?: string; code?: string; status?: number; message?: string };
  if (e.type === TOO_LARGE) return { type: 'urn:plinket:problem:too-large', title: 'The body is too large.', status: 413 };
  if (e.type === 'entity.parse.failed')
    return { type: 'urn:plinket:problem:not-json', title: 'The body is not JSON.', status: 400, detail: e.message };
  if (e.type === 'encoding.unsupported')
    return { type: 'urn:plinket:problem:media-type', title: 'Bodies are wanted as they are, not compressed.', status: 415 };
  if (e.code === 'ENOSPC' || e.code === 'EDQUOT') return diskFull().problem;
  if (isDatabaseGone(error)) return databaseGone().problem;
  if (e.status && e.status < 500) return { type: 'about:blank', title: e.message ?? 'Bad request', status: e.status };
  return { type: 'about:blank', title: 'Something went wrong here.', status: 500 };
}
