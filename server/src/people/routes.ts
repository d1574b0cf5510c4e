import {
  invitingSchema,
  joinSchema,
  listWishSchema,
  passwordChangeSchema,
  roleChangeSchema,
  signInSchema,
  type Account,
  type Here,
} from '@plinket/contract';
import { Router, type Request } from 'express';
import { rateLimit } from 'express-rate-limit';
import { idOf, inTime, read, route } from '../door/route.ts';
import { HttpProblem } from '../problem.ts';
import type { Guard } from './door.ts';

/** Passwords that one address may get wrong in five minutes. */
const WRONG = 20;
/** So old an id of a session is renewed when a page opens, ms: one that was stolen is worth nothing soon. */
const RENEW = 3600_000;
/** Hashing is slow by intention, ms. */
const HASH_MS = 15_000;

const here = ({ id, name, role }: Account): Here => ({ guarded: true, account: { id, name, role } });

/** Gives a request a new session for an account: an id that was known before is worth nothing. */
const renewed = (req: Request, account: string): Promise<void> =>
  new Promise((resolve, reject) =>
    req.session.regenerate((error: unknown) => {
      if (error) return reject(error as Error);
      Object.assign(req.session, { account, named: Date.now() });
      req.session.save((e: unknown) => (e ? reject(e as Error) : resolve()));
    }),
  );
const ended = (req: Request): Promise<void> =>
  new Promise((resolve, reject) => req.session.destroy((e: unknown) => (e ? reject(e as Error) : resolve())));

/** On a server of this machine only: nobody needs to say who they are. */
export function openHere(): Router {
  const router = Router();
  router.get(
    '/session',
    route(() => Promise.resolve({ body: { guarded: false } satisfies Here })),
  );
  return router;
}

/** Signing in and out, accounts, invitations, and who did what. */
export function peopleRoutes({ accounts, deeds, asking }: Guard): Router {
  const router = Router();
  const slow = () =>
    rateLimit({
      windowMs: 5 * 60_000,
      limit: WRONG,
      skipSuccessfulRequests: true,
      handler: () => {
        throw new HttpProblem(429, 'too-many', 'Too many wrong passwords. Wait five minutes.');
      },
    });
  /** Somebody comes in: that stands in the book, too. */
  const comes = async (req: Request, account: Account, status: number): Promise<void> => {
    await renewed(req, account.id);
    const answered = await deeds.begun({ ...account, account: account.id }, req.method, req.baseUrl + req.path);
    await answered(status);
  };
  /** The account that asks. @throws HttpProblem 403 for a program, which has none */
  const self = (): string => {
    const account = asking.current?.account;
    if (account === undefined) throw new HttpProblem(403, 'no-account', 'A program has no account.');
    return account;
  };
  router
    .route('/session')
    .get(
      route(async (req) => {
        const account = req.session.account === undefined ? undefined : await inTime(accounts.known(req.session.account));
        if (!account) return { body: { guarded: true } satisfies Here };
        if (Date.now() - (req.session.named ?? 0) > RENEW) await renewed(req, account.id);
        return { body: here(account) };
      }),
    )
    .post(
      slow(),
      route(async (req) => {
        const { name, password } = read(signInSchema, req.body, 'You were not signed in.');
        const account = await inTime(accounts.signIn(name, password), HASH_MS);
        await comes(req, account, 200);
        return { body: here(account) };
      }),
    )
    .delete(
      route(async (req) => {
        await ended(req);
        return { status: 204 };
      }),
    );
  router.post(
    '/session/password',
    slow(),
    route(async (req) => {
      const change = read(passwordChangeSchema, req.body, 'The password was not changed.');
      await inTime(accounts.changePassword(self(), change, req.sessionID), HASH_MS);
      return { status: 204 };
    }),
  );
  router.post(
    '/join',
    slow(),
    route(async (req) => {
      const { invitation, name, password } = read(joinSchema, req.body, 'The account was not made.');
      const account = await inTime(accounts.join(invitation, name, password), HASH_MS);
      await comes(req, account, 201);
      return { status: 201, body: here(account) };
    }),
  );
  router.get(
    '/accounts',
    route(async () => ({ body: await inTime(accounts.list()) })),
  );
  router
    .route('/accounts/:id')
    .patch(
      route(async (req) => ({
        body: await inTime(accounts.changeRole(idOf(req), read(roleChangeSchema, req.body, 'The role was not changed.').role)),
      })),
    )
    .delete(
      route(async (req) => {
        await inTime(accounts.remove(idOf(req)));
        return { status: 204 };
      }),
    );
  router
    .route('/invitations')
    .get(route(async () => ({ body: await inTime(accounts.invitations()) })))
    .post(
      route(async (req) => ({
        status: 201,
        body: await inTime(accounts.invite(read(invitingSchema, req.body, 'Nobody was invited.').role, asking.current?.account)),
      })),
    );
  router.delete(
    '/invitations/:id',
    route(async (req) => {
      await inTime(accounts.uninvite(idOf(req)));
      return { status: 204 };
    }),
  );
  router.get(
    '/deeds',
    route(async (req) => ({ body: await inTime(deeds.list(read(listWishSchema, req.query, 'The list cannot be shown.'))) })),
  );
  return router;
}
