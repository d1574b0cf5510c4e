import { ROLES, type Role } from '@plinket/contract';
import pgSession from 'connect-pg-simple';
import { Router, type NextFunction, type Request, type Response } from 'express';
import session from 'express-session';
import type { Logger } from 'pino';
import type { DataSource } from 'typeorm';
import { HttpProblem } from '../problem.ts';
import type { Accounts } from './accounts.ts';
import type { Asker, Asking } from './asking.ts';
import type { DeedBook } from './deeds.ts';
import { isProgram } from './programs.ts';

declare module 'express-session' {
  interface SessionData {
    /** Who has signed in. */
    account: string;
    /** When the session got its id, ms since 1970. */
    named: number;
  }
}

/** A session that nobody uses ends after so long, ms. */
const IDLE = 14 * 24 * 3600_000;
/** An event stream is let go when who listens has no say any more: so often that is asked, ms. */
const STILL_IN = 10_000;

const READS = new Set(['GET', 'HEAD', 'OPTIONS']);
/** What anybody may ask: how the server is, who one is, to be let in; and what render nodes say, who have tokens of their own. */
const OPEN = /^\/(health$|session$|join$|node\/)/;
/** What only who leads may do: people, what they did, and which machines render. */
const LEADS = /^\/(accounts|invitations|deeds)(\/|$)/,
  LEADS_WRITES = /^\/lab\/nodes(\/|$)/;
/** What is sent as POST but changes nothing. */
const ASKS = /^\/(sequences\/[^/]+\/touched|(setups|sequences)\/[^/]+\/hand)$/;

/** What a request needs. `path` is below `/api`. */
function needed({ method, path }: { method: string; path: string }): Role {
  const reads = READS.has(method) || ASKS.test(path) || path === '/session/password';
  if (LEADS.test(path) || (LEADS_WRITES.test(path) && !reads)) return 'lead';
  return reads ? 'look' : 'light';
}

/** How people are known: their accounts, the book of their deeds, and what a server needs to know them. */
export interface Guard {
  accounts: Accounts;
  deeds: DeedBook;
  asking: Asking;
  log: Logger;
  /** What session ids are signed with. */
  secret: string;
  /** Password of programs. */
  token?: string | undefined;
  /** So often it is asked whether who listens to events still may, ms. */
  stillInMs?: number;
}

/** Sessions of browsers, kept in the database. */
export const sessions = (db: DataSource, secret: string, log: Logger) =>
  session({
    name: 'plinket',
    secret,
    resave: false,
    saveUninitialized: false,
    // another site's page, and a script of our own page, never have it
    cookie: { httpOnly: true, sameSite: 'strict', secure: 'auto', maxAge: IDLE },
    store: new (pgSession(session))({
      pool: (db.driver as unknown as { master: never }).master,
      tableName: 'session',
      disableTouch: true,
      pruneSessionInterval: false,
      errorLog: (...said: unknown[]) => log.warn({ said }, 'Sessions'),
    }),
  });

/**
 * The one check that every route of a guarded server is behind: who asks, and whether they may. A write that comes with a browser's cookie must also
 * say that a page of ours sent it (Origin, which the door has looked at, or Fetch Metadata), so that no other site's page writes by it.
 * @throws HttpProblem 401, 403
 */
export function guard({ accounts, deeds, asking, token, log, stillInMs = STILL_IN }: Guard): Router {
  const router = Router();
  const whoAsks = async (req: Request): Promise<Asker> => {
    if (isProgram(req.headers.authorization, token)) return { name: 'a program', role: 'lead' };
    const id = req.session.account,
      account = id === undefined ? undefined : await accounts.known(id);
    if (!account) throw new HttpProblem(401, 'sign-in', 'Sign in first.', { detail: 'You are not signed in here, or not any more.' });
    if (!READS.has(req.method) && req.headers.origin === undefined && req.headers['sec-fetch-site'] !== 'same-origin')
      throw new HttpProblem(403, 'foreign-origin', 'Writing from another page is not allowed.', {
        detail: 'Neither Origin nor Sec-Fetch-Site says where it comes from.',
      });
    return { account: account.id, name: account.name, role: account.role };
  };
  router.use(async (req: Request, res: Response, next: NextFunction) => {
    if (OPEN.test(req.path)) return next();
    const asker = await whoAsks(req),
      wanted = needed(req);
    if (ROLES.indexOf(asker.role) < ROLES.indexOf(wanted))
      throw new HttpProblem(403, 'role', wanted === 'lead' ? 'Only who leads may do that.' : 'You may look, not change.');
    // patches of documents are written down with the document, in one transaction
    if (!READS.has(req.method) && !ASKS.test(req.path) && req.headers['if-match'] === undefined) {
      const answered = await deeds.begun(asker, req.method, req.baseUrl + req.path);
      res.on('finish', () => void answered(res.statusCode).catch((error: unknown) => log.warn({ err: error as Error }, 'A deed’s answer')));
    }
    if (req.path.endsWith('/events')) endWhenGone(req, res);
    asking.run(asker, next);
  });
  /** Ends a stream of events once who listens is signed out, taken away, or may only look less. */
  const endWhenGone = (req: Request, res: Response): void => {
    const id = req.session.account;
    if (id === undefined) return;
    const timer = setInterval(() => {
      req.sessionStore.get(req.sessionID, (error, kept) => {
        // a session whose id was renewed is gone under its old one: the page listens anew by itself
        if (!error && kept?.account !== id) res.end();
      });
    }, stillInMs);
    res.on('close', () => clearInterval(timer));
  };
  return router;
}
