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
import { DocumentRefused, DocumentService, type KindOf, type Sent } from './documents.ts';
import type { Live } from './live.ts';
import { blobsIn, missingFiles } from './refs.ts';

/** Characters must have been brought in. */
async function missingCharacters(manager: EntityManager, { subjects }: Setup): Promise<FieldProblem[]> {
  const missing: FieldProblem[] = [];
  for (const [key, subject] of Object.entries(subjects.items)) {
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
    return [...(await missingCharacters(manager, document)), ...(await missingFollowed(manager, document, before)), ...files];
  },
});

/** A setup that follows another. */
export type Following = Setup & Required<Pick<Setup, 'follows'>>;

/** How often a setup is brought up to date anew where others change it meanwhile. */
const TIMES = 5;

/**
 * The setups that a server keeps. One that follows another is brought up to date with it when it is asked for, and at once where somebody has it open;
 * each time is a revision of its own, so that its history loses nothing.
 */
export class SetupService extends DocumentService<Setup> {
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
    const open = this.live.open();
    if (!record.document.follows && open.length) await this.tellFollowers(id, open);
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

  private async tellFollowers(id: string, open: string[]): Promise<void> {
    const rows = await this.manager.query<{ id: string }[]>(
      'SELECT id FROM document WHERE follows = $1 AND id::text = ANY($2) AND deleted_at IS NULL',
      [id, open],
    );
    // who has one of them open hears it; one that cannot be brought up to date is told when it is asked for
    await Promise.allSettled(rows.map((row) => this.get(row.id)));
  }

  private async upToDate(record: DocumentRecord<Setup>): Promise<DocumentRecord<Setup>> {
    const { follows } = record.document;
    if (!follows) return record;
    const row = await this.manager.getRepository(DocumentEntity).findOneBy({ id: follows.setup, kind: 'setup' });
    if (!row || row.deletedAt || row.revision === follows.revision) return record;
    const [then, now] = await Promise.all([this.at(follows.setup, follows.revision), this.at(follows.setup, row.revision)]);
    const { setup, lost, hidden } = follow(record.document, then.document, now.document, { setup: follows.setup, revision: row.revision });
    const change = diff(record.document, setup),
      { follows: __, ...seen } = change;
    const said = describePatch(record.document, seen as Patch) || 'nothing that is seen here';
    const told = (what: string, of: string[]) => (of.length ? ` · ${what}: ${of.join(', ')}` : '');
    const words = `from its sequence: ${said}${told('left out', lost)}${told('hidden by what departs here', hidden)}`;
    return super.patch(record.id, { revision: record.revision, words }, change);
  }
}

/** The setups that a server keeps; who listens to `live` hears of every accepted change. */
export const setupService = (manager: EntityManager, blobs: Pick<BlobStore, 'renew'>, live?: Live, asking?: Asking): SetupService =>
  new SetupService(manager, setupKind(blobs), live, asking);
