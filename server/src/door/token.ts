import { createHash, timingSafeEqual } from 'node:crypto';
import type { NextFunction, Request, Response } from 'express';
import { HttpProblem } from '../problem.ts';

/** Shortest password of a server that listens beyond loopback. */
export const MIN_TOKEN = 12;

const digest = (text: string): Buffer => createHash('sha256').update(text).digest();

/** The password of a request: HTTP Basic (RFC 7617, any user name), which browsers ask for by themselves, or Bearer (RFC 6750). */
function given(header: string | undefined): string | undefined {
  const [, scheme = '', value = ''] = /^(\S+) +(.*)$/.exec(header ?? '') ?? [];
  if (/^bearer$/i.test(scheme)) return value;
  if (!/^basic$/i.test(scheme)) return undefined;
  return Buffer.from(value, 'base64')
    .toString('utf8')
    .replace(/^[^:]*:/, '');
}

/** Render nodes say tokens of their own. */
const NODES = '/api/node/';

/** Lets only those in who know the password. How the server is may be asked without. */
export function token(wanted: string) {
  const expected = digest(wanted);
  return (req: Request, res: Response, next: NextFunction): void => {
    const said = given(req.headers.authorization);
    if (req.path === '/api/health' || req.path.startsWith(NODES) || (said !== undefined && timingSafeEqual(digest(said), expected)))
      return next();
    res.setHeader('WWW-Authenticate', 'Basic realm="Plinket", charset="UTF-8"');
    throw new HttpProblem(401, 'password', 'This server wants its password.', { detail: 'Any name, and what PLINKET_TOKEN was set to.' });
  };
}
