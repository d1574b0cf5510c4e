import { isIP } from 'node:net';
import type { NextFunction, Request, Response } from 'express';
import { HttpProblem } from '../problem.ts';

const LOOPBACK = /^(localhost|127(\.\d{1,3}){3}|\[::1\])$/i;
const hostName = (host: string): string => host.replace(/:\d+$/, '');
const isAddress = (name: string): boolean => isIP(name.replace(/^\[|\]$/g, '')) !== 0;

export const isLoopback = (host: string): boolean => LOOPBACK.test(host) || host === '::1';

/**
 * Checks Host and, on every write, Origin: a page from elsewhere must not write into a server on this machine, by name
 * rebinding or by a plain form. Where people sign in (`open`), it also answers under its bare address.
 */
export function host(extraHosts: string[] = [], open = false) {
  return (req: Request, _res: Response, next: NextFunction): void => {
    const host = req.headers.host ?? '',
      name = hostName(host);
    const known = LOOPBACK.test(name) || extraHosts.includes(name) || (open && isAddress(name));
    if (!known) throw new HttpProblem(403, 'foreign-host', 'This server does not answer under that name.', { detail: `Host: ${host}` });
    if (!['GET', 'HEAD', 'OPTIONS'].includes(req.method)) {
      const origin = req.headers.origin;
      if (origin !== undefined && origin !== `http://${host}` && origin !== `https://${host}`)
        throw new HttpProblem(403, 'foreign-origin', 'Writing from another page is not allowed.', { detail: `Origin: ${origin}` });
    }
    next();
  };
}
