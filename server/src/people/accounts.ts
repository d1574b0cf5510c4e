import { createHash, randomBytes, randomUUID } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import type { Account, Invitations, MadeInvitation, People, Role } from '@plinket/contract';
import type { EntityManager } from 'typeorm';
import { HttpProblem, notFound } from '../problem.ts';

const digest = (token: string): string => createHash('sha256').update(token).digest('hex');

/** So long an invitation lets somebody in, days. */
const INVITED_DAYS = 7;

type Row = { id: string; name: string; role: Role; created_at: Date; seen_at: Date | null };
const toAccount = (r: Row): Account => ({
  id: r.id,
  name: r.name,
  role: r.role,
  createdAt: r.created_at.toISOString(),
  ...(r.seen_at ? { seenAt: r.seen_at.toISOString() } : {}),
});

const SHOWN = 'id, name, role, created_at, seen_at';
const wrong = (): HttpProblem => new HttpProblem(403, 'wrong-password', 'Name and password do not fit.');
const lastLead = (): HttpProblem => new HttpProblem(409, 'last-lead', 'Somebody must lead: let another lead first.');

/** The people of a server that listens beyond loopback. Passwords are kept as argon2id (RFC 9106), invitations as their hashes. */
export class Accounts {
  private readonly manager: EntityManager;
  /** Of a password that nobody has: a name that is not known takes as long as one that is. */
  private readonly nobody: Promise<string>;
  constructor(manager: EntityManager) {
    this.manager = manager;
    this.nobody = hash(randomBytes(16).toString('hex'));
    this.nobody.catch(() => undefined);
  }

  async list(): Promise<People> {
    const rows = await this.manager.query<Row[]>(`SELECT ${SHOWN} FROM account WHERE removed_at IS NULL ORDER BY lower(name)`);
    return { items: rows.map(toAccount) };
  }

  /** Who has an account, unless it was taken away. */
  async known(id: string): Promise<Account | undefined> {
    const [row] = await this.manager.query<Row[]>(`SELECT ${SHOWN} FROM account WHERE id = $1 AND removed_at IS NULL`, [id]);
    return row && toAccount(row);
  }

  /** @throws HttpProblem 403 where name and password do not fit */
  async signIn(name: string, password: string): Promise<Account> {
    const [row] = await this.manager.query<(Row & { password: string })[]>(
      `SELECT ${SHOWN}, password FROM account WHERE lower(name) = lower($1) AND removed_at IS NULL`,
      [name],
    );
    const fits = await verify(row?.password ?? (await this.nobody), password);
    if (!row || !fits) throw wrong();
    await this.manager.query('UPDATE account SET seen_at = now() WHERE id = $1', [row.id]);
    return toAccount(row);
  }

  /** Gives a new password; all sessions but the one that asks end. @throws HttpProblem 403 */
  async changePassword(id: string, { password, next }: { password: string; next: string }, session: string): Promise<void> {
    const [row] = await this.manager.query<{ password: string }[]>('SELECT password FROM account WHERE id = $1 AND removed_at IS NULL', [
      id,
    ]);
    if (!row || !(await verify(row.password, password)))
      throw new HttpProblem(422, 'invalid', 'The password was not changed.', {
        errors: [{ field: 'password', reason: 'is not the one that you have' }],
      });
    await this.manager.query('UPDATE account SET password = $2 WHERE id = $1', [id, await hash(next)]);
    await this.manager.query("DELETE FROM session WHERE sess ->> 'account' = $1 AND sid <> $2", [id, session]);
  }

  /** @throws HttpProblem 404, or 409 where nobody would lead */
  async changeRole(id: string, role: Role): Promise<Account> {
    return this.keepingALead(async (manager) => {
      const [row] = await manager.query<Row[]>(`SELECT ${SHOWN} FROM account WHERE id = $1 AND removed_at IS NULL`, [id]);
      if (!row) throw notFound('account');
      await manager.query('UPDATE account SET role = $2 WHERE id = $1', [id, role]);
      return toAccount({ ...row, role });
    });
  }

  /** Takes an account away, and all that is signed in by it. @throws HttpProblem 404, or 409 where nobody would lead */
  async remove(id: string): Promise<void> {
    await this.keepingALead(async (manager) => {
      const [, count] = await manager.query<[unknown, number]>(
        "UPDATE account SET removed_at = now(), password = '' WHERE id = $1 AND removed_at IS NULL",
        [id],
      );
      if (!count) throw notFound('account');
      await manager.query("DELETE FROM session WHERE sess ->> 'account' = $1", [id]);
      await manager.query('DELETE FROM invitation WHERE by = $1', [id]);
    });
  }

  async invitations(): Promise<Invitations> {
    type Made = { id: string; role: Role; by: string | null; created_at: Date; expires_at: Date };
    const rows = await this.manager.query<Made[]>(
      `SELECT i.id, i.role, a.name AS by, i.created_at, i.expires_at FROM invitation i LEFT JOIN account a ON a.id = i.by
       WHERE i.expires_at > now() ORDER BY i.created_at DESC`,
    );
    return {
      items: rows.map((r) => ({
        id: r.id,
        role: r.role,
        ...(r.by ? { by: r.by } : {}),
        createdAt: r.created_at.toISOString(),
        expiresAt: r.expires_at.toISOString(),
      })),
    };
  }

  /** Makes a word that lets one person in, once. */
  async invite(role: Role, by?: string): Promise<MadeInvitation> {
    const id = randomUUID(),
      invitation = randomBytes(24).toString('base64url');
    const [row] = await this.manager.query<{ created_at: Date; expires_at: Date }[]>(
      `INSERT INTO invitation (id, token, role, by, expires_at) VALUES ($1, $2, $3, $4, now() + $5 * interval '1 day')
       RETURNING created_at, expires_at`,
      [id, digest(invitation), role, by ?? null, INVITED_DAYS],
    );
    return { id, role, invitation, createdAt: row!.created_at.toISOString(), expiresAt: row!.expires_at.toISOString() };
  }

  /** An invitation for the first who leads, where nobody does yet; older ones of the kind are worth nothing any more. */
  async inviteFirst(): Promise<MadeInvitation | undefined> {
    const [lead] = await this.manager.query<unknown[]>("SELECT FROM account WHERE role = 'lead' AND removed_at IS NULL LIMIT 1");
    if (lead) return undefined;
    await this.manager.query('DELETE FROM invitation WHERE by IS NULL');
    return this.invite('lead');
  }

  /** @throws HttpProblem 404 */
  async uninvite(id: string): Promise<void> {
    const [, count] = await this.manager.query<[unknown, number]>('DELETE FROM invitation WHERE id = $1', [id]);
    if (!count) throw notFound('invitation');
  }

  /**
   * Makes an account by an invitation, which is then used up.
   * @throws HttpProblem 403 where it is not known, used or too old; 422 where the name is another's
   */
  async join(invitation: string, name: string, password: string): Promise<Account> {
    const kept = await hash(password);
    return this.manager.transaction(async (manager) => {
      const [invited] = await manager.query<[{ role: Role }[]]>(
        'DELETE FROM invitation WHERE token = $1 AND expires_at > now() RETURNING role',
        [digest(invitation)],
      );
      if (!invited[0]) throw new HttpProblem(403, 'invitation', 'This invitation is not known, too old, or was used.');
      const taken = await manager.query<unknown[]>('SELECT FROM account WHERE lower(name) = lower($1) AND removed_at IS NULL', [name]);
      if (taken.length)
        throw new HttpProblem(422, 'invalid', 'The account was not made.', { errors: [{ field: 'name', reason: 'is another’s already' }] });
      const [row] = await manager.query<Row[]>(
        `INSERT INTO account (id, name, password, role, seen_at) VALUES ($1, $2, $3, $4, now()) RETURNING ${SHOWN}`,
        [randomUUID(), name, kept, invited[0].role],
      );
      return toAccount(row!);
    });
  }

  /** Does what may take a lead away, one at a time: two leads that take each other's lead leave one. */
  private async keepingALead<T>(work: (manager: EntityManager) => Promise<T>): Promise<T> {
    return this.manager.transaction(async (manager) => {
      await manager.query("SELECT FROM account WHERE role = 'lead' AND removed_at IS NULL FOR UPDATE");
      const result = await work(manager);
      const leads = await manager.query<unknown[]>("SELECT FROM account WHERE role = 'lead' AND removed_at IS NULL LIMIT 1");
      if (!leads.length) throw lastLead();
      return result;
    });
  }
}
