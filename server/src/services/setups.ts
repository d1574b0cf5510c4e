import { setImmediate as turn, setTimeout as pause } from 'node:timers/promises';
import {
  describePatch,
  diff,
  follow,
  migrateSetup,
  parseSetup,
  SCHEMA_VERSION,
  SetupError,
  type FieldProblem,
  type Patch,
  type Setup,
} from '@plinket/core';
import type { DocumentRecord } from '@plinket/contract';
import type { EntityManager } from 'typeorm';
import type { BlobStore } from '../data/blobs.ts';
import { AssetEntity, DocumentEntity } from '../data/entities.ts';
import type { Asking } from '../people/index.ts';
import { HttpProblem } from '../problem.ts';
import { DocumentRefused, DocumentService, type Change, type KindOf, type Sent } from './documents.ts';
import type { Live } from './live.ts';
import { blobsIn, missingFiles } from './refs.ts';

/** Characters must have been brought in; one that was there before and is thrown away keeps nobody from going on. */
async function missingCharacters(manager: EntityManager, { subjects }: Setup, before?: Setup): Promise<FieldProblem[]> {
  const missing: FieldProblem[] = [],
    known = new Set(Object.values(before?.subjects.items ?? {}).map((s) => s.asset));
  for (const [key, subject] of Object.entries(subjects.items)) {
    if (known.has(subject.asset)) continue;
    const row = await manager.getRepository(AssetEntity).findOneBy({ sha256: subject.asset });
    if (!row || row.deletedAt)
      missing.push({ field: `subjects.items.${key}.asset`, reason: 'no character with this SHA-256 has been brought in' });
  }
  return missing;
}

/** What a setup follows must be there, and follow nothing itself; one that was thrown away later keeps nobody from going on. */
async function missingFollowed(manager: EntityManager, { follows }: Setup, before?: Setup): Promise<FieldProblem[]> {
  if (!follows || before?.follows?.setup === follows.setup) return [];
  const field = 'follows.setup',
    row = await manager.getRepository(DocumentEntity).findOneBy({ id: follows.setup, kind: 'setup' });
  if (!row || row.deletedAt) return [{ field, reason: 'there is no setup with this id' }];
  return 'follows' in row.document ? [{ field, reason: 'it follows another one itself' }] : [];
}

/** What of a setup names files of lights, plate and look. */
const withFiles = ({ lights, plate, look }: Setup) => ({ lights, plate, look });

/** What is particular about setups. */
export const setupKind = (blobs: Pick<BlobStore, 'renew'>): KindOf<Setup> => ({
  kind: 'setup',
  noun: 'setup',
  version: SCHEMA_VERSION,
  migrate: migrateSetup,
  parse: (document) => {
    try {
      return parseSetup(document);
    } catch (error) {
      throw error instanceof SetupError ? new DocumentRefused(error.message, error.problems) : error;
    }
  },
  describe: describePatch,
  blobs: blobsIn,
  missing: async (manager, document, before) => {
    const files = missingFiles(blobs, withFiles(document), before && withFiles(before));
    return [...(await missingCharacters(manager, document, before)), ...(await missingFollowed(manager, document, before)), ...files];
  },
});

/** A setup that follows another. */
export type Following = Setup & Required<Pick<Setup, 'follows'>>;

/** How often a setup is brought up to date anew where others change it meanwhile. */
const TIMES = 5;
/** Changes of a setup that follow each other within this are brought to its followers together, ms: each is a revision of all of them. */
const TOGETHER = 10;
/** So many followers are brought up to date in one transaction. */
const FEW = 7;
/** So many setups as they were are kept at hand. */
const MOMENTS = 40;

/**
 * The setups that a server keeps. One that follows another is brought up to date with it when it is asked for, and at once where somebody has it open;
 * each time is a revision of its own, so that its history loses nothing.
 */
export class SetupService extends DocumentService<Setup> {
  /** Setups whose followers are being told, and whether there is more to tell. */
  private readonly telling = new Map<string, 'once' | 'again'>();
  /** Setups as they were at a revision, which never changes: all that follow one ask for the same two. The oldest go first. */
  private readonly moments = new Map<string, Promise<DocumentRecord<Setup>>>();

  override async get(id: string): Promise<DocumentRecord<Setup>> {
    for (let times = 1; ; times++)
      try {
        return await this.upToDate(await super.get(id));
      } catch (error) {
        // somebody else changed it, or brought it up to date
        if (times === TIMES || !(error instanceof HttpProblem && error.problem.status === 412)) throw error;
      }
  }

  /** Which setup a setup follows is said by its sequence: no change from outside says another. */
  override async patch(id: string, sent: Sent, patch: Patch): Promise<DocumentRecord<Setup>> {
    const { follows: _, ...said } = patch;
    const record = await super.patch(id, sent, said);
    if (!record.document.follows) void this.tellFollowers(id);
    return record;
  }

  override create(document: Setup, id?: string): Promise<DocumentRecord<Setup>> {
    const { follows: _, ...free } = document;
    return super.create(free, id);
  }

  /** Makes a setup that follows another. */
  createFollowing(document: Following, id?: string): Promise<DocumentRecord<Setup>> {
    return super.create(document, id);
  }

  /**
   * Brings those up to date that somebody has open and that follow a setup. Whoever changed it does not wait for that, and changes that come meanwhile are
   * told together.
   */
  private async tellFollowers(id: string): Promise<void> {
    if (this.telling.has(id)) return void this.telling.set(id, 'again');
    do {
      this.telling.set(id, 'once');
      // one that cannot be brought up to date now is when it is asked for
      await this.bringFollowers(id).catch(() => undefined);
      await pause(TOGETHER);
    } while (this.telling.get(id) === 'again');
    this.telling.delete(id);
  }

  private async bringFollowers(id: string): Promise<void> {
    const open = this.live.open();
    if (open.length === 0) return;
    const rows = await this.manager.query<(Change<Setup>['row'] & { base: number })[]>(
      `SELECT d.id, d.revision, d.document, b.revision AS base FROM document d JOIN document b ON b.id::text = d.follows
       WHERE d.follows = $1 AND d.id::text = ANY($2) AND d.deleted_at IS NULL AND b.deleted_at IS NULL`,
      [id, open],
    );
    // few at a time: whoever saves one of them waits no longer than for those few, and is seldom too late
    let going: Promise<void> | undefined;
    for (let from = 0; from < rows.length; from += FEW) {
      const changes: Change<Setup>[] = [];
      for (const row of rows.slice(from, from + FEW)) {
        // one that cannot become it stays as it is, and keeps none of the others
        const change = await this.following(row, row.base).catch(() => undefined);
        if (change) changes.push(change);
        // what people wait for comes in between
        await turn();
      }
      // the next are worked out while these are kept, but no more wait for the database than that
      await going;
      // those that cannot be kept now are brought up to date when they are asked for
      going = changes.length ? this.bring(id, changes).catch(() => undefined) : undefined;
    }
    await going;
  }

  /** Keeps changes of followers, but for those that were changed meanwhile: they come again. */
  private async bring(id: string, changes: Change<Setup>[]): Promise<void> {
    const kept = await this.manager.transaction(async (manager) => {
      const locked = await manager.query<{ id: string; revision: number }[]>(
        'SELECT id, revision FROM document WHERE id = ANY($1::uuid[]) ORDER BY id FOR UPDATE',
        [changes.map((c) => c.row.id)],
      );
      const now = new Map(locked.map((r) => [r.id, r.revision]));
      const still = changes.filter((c) => now.get(c.row.id) === c.row.revision);
      if (still.length) await this.keep(manager, still);
      return still;
    });
    for (const { row, change } of kept) this.live.tell(row.id, { revision: row.revision + 1, patch: change });
    if (kept.length < changes.length) this.telling.set(id, 'again');
  }

  /** What a setup becomes with the one that it follows as it is at a revision; nothing where it is as it should be, or cannot become it. */
  private async following(row: Change<Setup>['row'], revision: number): Promise<Change<Setup> | undefined> {
    const before = this.current(row.document),
      { follows } = before;
    if (!follows || follows.revision === revision) return undefined;
    const [then, now] = await Promise.all([this.moment(follows.setup, follows.revision), this.moment(follows.setup, revision)]);
    const { setup, lost, hidden } = follow(before, then.document, now.document, { setup: follows.setup, revision });
    const change = diff(before, setup),
      { follows: __, ...seen } = change;
    const said = describePatch(before, seen as Patch) || 'nothing that is seen here';
    const told = (what: string, of: string[]) => (of.length ? ` · ${what}: ${of.join(', ')}` : '');
    const words = `from its sequence: ${said}${told('left out', lost)}${told('hidden by what departs here', hidden)}`;
    return { row, before, document: setup, change, words };
  }

  private moment(id: string, revision: number): Promise<DocumentRecord<Setup>> {
    const key = `${id} ${revision}`;
    let known = this.moments.get(key);
    if (!known) {
      known = this.at(id, revision);
      known.catch(() => this.moments.delete(key));
    }
    // the last that was asked for stands last
    this.moments.delete(key);
    this.moments.set(key, known);
    if (this.moments.size > MOMENTS) this.moments.delete(this.moments.keys().next().value!);
    return known;
  }

  private async upToDate(record: DocumentRecord<Setup>): Promise<DocumentRecord<Setup>> {
    const { follows } = record.document;
    if (!follows) return record;
    const [base] = await this.manager.query<{ revision: number }[]>('SELECT revision FROM document WHERE id = $1 AND deleted_at IS NULL', [
      follows.setup,
    ]);
    if (!base || base.revision === follows.revision) return record;
    const change = await this.following(record, base.revision);
    return change ? super.patch(record.id, { revision: record.revision, words: change.words }, change.change) : record;
  }
}

/** The setups that a server keeps; who listens to `live` hears of every accepted change. */
export const setupService = (manager: EntityManager, blobs: Pick<BlobStore, 'renew'>, live?: Live, asking?: Asking): SetupService =>
  new SetupService(manager, setupKind(blobs), live, asking);
