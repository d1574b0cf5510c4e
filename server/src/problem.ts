import type { FieldProblem, Setup } from '@plinket/core';
import type { Problem } from '@plinket/contract';

/** An error that becomes an RFC 9457 problem. */
export class HttpProblem extends Error {
  readonly problem: Problem;
  constructor(
    status: number,
    slug: string,
    title: string,
    more: { detail?: string; errors?: FieldProblem[]; current?: { revision: number; document: Setup } } = {},
  ) {
    super(more.detail ?? title);
    this.problem = { type: `urn:plinket:problem:${slug}`, title, status, ...more };
  }
}

export const notFound = (what: string): HttpProblem => new HttpProblem(404, 'not-found', `There is no such ${what}.`);

const GONE = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', '57P01', '57P02', '57P03', '08006', '08001', '08003']);

/** Whether an error says that the database is not there. */
export function isDatabaseGone(error: unknown): boolean {
  const e = error as { code?: string; message?: string; driverError?: unknown; errors?: unknown[] };
  if (!e) return false;
  return (
    (e.code !== undefined && GONE.has(e.code)) ||
    /Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error|is not connected/i.test(
      e.message ?? '',
    ) ||
    (e.driverError !== undefined && e.driverError !== error && isDatabaseGone(e.driverError)) ||
    (e.errors?.some(isDatabaseGone) ?? false)
  );
}
