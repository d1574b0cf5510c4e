import {
  applyPatch,
  departuresOf,
  describeSequence,
  inOrder,
  migrateSetup,
  newShot,
  numberAt,
  orderOf,
  PRODUCTION_VERSION,
  productionSchema,
  ranksAt,
  reaches,
  SEQUENCE_VERSION,
  sequenceSchema,
  type FieldProblem,
  type KeptReading,
  type Patch,
  type Production,
  type Sequence,
  type Setup,
} from '@plinket/core';
import type { AddShots, Along, Board, DocumentRecord, Productions, SequenceRecord, Touched } from '@plinket/contract';
import type { EntityManager } from 'typeorm';
import type { Asking } from '../people/index.ts';
import { HttpProblem } from '../problem.ts';
import { DocumentService, parsedBy, type KindOf } from './documents.ts';
import type { Live } from './live.ts';
import type { SetupService } from './setups.ts';

const productionKind: KindOf<Production> = {
  kind: 'production',
  noun: 'production',
  version: PRODUCTION_VERSION,
  migrate: (document) => document,
  parse: parsedBy(productionSchema, 'The production'),
  describe: (before, change) => (change['name'] ? `renamed “${applyPatch(before, change).name}”` : 'changed'),
  blobs: () => [],
  missing: () => Promise.resolve([]),
};

/** The productions that a server keeps. */
export const productionService = (manager: EntityManager, asking?: Asking): DocumentService<Production> =>
  new DocumentService(manager, productionKind, undefined, asking);

/** Documents that a sequence names must be there; what it named before keeps nobody from going on. */
async function missingNamed(manager: EntityManager, document: Sequence, before?: Sequence): Promise<FieldProblem[]> {
  const named: [field: string, id: string, kind: string][] = [
    ...(document.setup === before?.setup ? [] : [['setup', document.setup, 'setup'] as [string, string, string]]),
    ...(document.production === undefined || document.production === before?.production
      ? []
      : [['production', document.production, 'production'] as [string, string, string]]),
    ...Object.keys(document.shots.items)
      .filter((id) => !before?.shots.items[id])
      .map((id): [string, string, string] => [`shots.items.${id}`, id, 'setup']),
  ];
  if (!named.length) return [];
  const rows = await manager.query<{ id: string; kind: string }[]>('SELECT id, kind FROM document WHERE id = ANY($1::uuid[])', [
    named.map(([, id]) => id),
  ]);
  const kinds = new Map(rows.map((r) => [r.id, r.kind]));
  return named
    .filter(([, id, kind]) => kinds.get(id) !== kind)
    .map(([field, , kind]) => ({ field, reason: `there is no ${kind} with this id` }));
}

const sequenceKind: KindOf<Sequence> = {
  kind: 'sequence',
  noun: 'sequence',
  version: SEQUENCE_VERSION,
  migrate: (document) => document,
  parse: parsedBy(sequenceSchema, 'The sequence'),
  describe: describeSequence,
  blobs: () => [],
  missing: missingNamed,
};

/** How often a change is made anew where others change the sequence meanwhile. */
const TIMES = 5;
/** Departures that are told of each shot; further ones are counted. */
const TOLD = 6;
/** Pictures of each sequence on the first screen. */
const STRIP = 7;

/** The sequences that a server keeps, with their shots: setups that follow the sequence's. */
export class SequenceService extends DocumentService<Sequence> {
  private readonly setups: SetupService;
  constructor(manager: EntityManager, setups: SetupService, live?: Live, asking?: Asking) {
    super(manager, sequenceKind, live, asking);
    this.setups = setups;
  }

  /**
   * Adds shots, each a setup that says what the sequence's setup says.
   * @throws HttpProblem 404, 410, or 422 that names each field
   */
  async addShots(id: string, { shots, after }: AddShots): Promise<SequenceRecord> {
    const { document, revision } = await this.get(id),
      base = await this.setups.get(document.setup);
    const at = after === undefined ? -1 : orderOf(document.shots).indexOf(after);
    const ranks = ranksAt(document.shots, shots.length, at < 0 ? Infinity : at + 1);
    const items: Sequence['shots']['items'] = {};
    try {
      for (const [i, shot] of shots.entries()) {
        const name = `${document.name} ${shot.code}`.slice(0, 120);
        const made = await this.setups.createFollowing(
          newShot(base.document, { setup: base.id, revision: base.revision }, name, shot.brief),
        );
        items[made.id] = { ...shot, rank: ranks[i]! };
      }
      return await this.patchAnyhow(id, revision, { shots: { items } } as unknown as Patch);
    } catch (error) {
      // all or nothing: a shot that no sequence knows would be seen nowhere
      await Promise.allSettled(Object.keys(items).map((made) => this.setups.remove(made)));
      throw error;
    }
  }

  /** Changes the sequence whatever others do to it meanwhile; for changes that touch nothing of theirs. */
  private async patchAnyhow(id: string, revision: number, patch: Patch): Promise<SequenceRecord> {
    for (let of = revision, times = 1; ; times++)
      try {
        return await this.patch(id, { revision: of }, patch);
      } catch (error) {
        if (times === TIMES || !(error instanceof HttpProblem && error.problem.current)) throw error;
        of = error.problem.current.revision;
      }
  }

  /** The sequence that a setup is a shot of, or that follows it; nothing where it is of none. */
  async of(setup: string): Promise<DocumentRecord<Sequence> | undefined> {
    const [row] = await this.manager.query<{ id: string }[]>(
      `SELECT id FROM document WHERE kind = 'sequence' AND deleted_at IS NULL AND (document ->> 'setup' = $1 OR document #> '{shots,items}' ? $1)
       ORDER BY updated_at DESC LIMIT 1`,
      [setup],
    );
    return row && this.get(row.id);
  }

  /** How the shots of a sequence stand: their latest proofs with readings, and their departures. @throws HttpProblem 404 */
  async board(id: string): Promise<Board> {
    const { document } = await this.get(id);
    type Row = {
      id: string;
      document: object;
      updated: Date;
      deleted: Date | null;
      proof: string | null;
      picture: string;
      reading: KeptReading | null;
      created: Date;
    };
    const rows = await this.manager.query<Row[]>(
      `SELECT d.id, d.document, d.updated_at AS updated, d.deleted_at AS deleted, p.id AS proof, p.picture, p.reading, p.created_at AS created
       FROM document d LEFT JOIN LATERAL (SELECT id, picture, reading, created_at FROM proof WHERE setup_id = d.id AND deleted_at IS NULL
         ORDER BY created_at DESC LIMIT 1) p ON true
       WHERE d.id = ANY($1::uuid[])`,
      [Object.keys(document.shots.items)],
    );
    const base = await this.setups.get(document.setup).catch(() => undefined),
      baseAt = this.basesOf(document.setup);
    const shots = rows.map(async (row): Promise<Board['shots'][number]> => {
      const setup = migrateSetup(row.document) as Setup,
        follows = setup.follows?.setup === document.setup ? setup.follows : undefined;
      const departures = follows && base ? departuresOf(await baseAt(follows.revision), setup).map((d) => d.words) : [];
      const more = departures.length - TOLD;
      return {
        id: row.id,
        gone: row.deleted !== null,
        updatedAt: row.updated.toISOString(),
        ...(row.proof
          ? {
              proof: {
                id: row.proof,
                picture: row.picture,
                ...(row.reading ? { reading: row.reading } : {}),
                createdAt: row.created.toISOString(),
              },
            }
          : {}),
        characters: inOrder(setup.subjects).map((s) => s.name),
        departures: more > 0 ? [...departures.slice(0, TOLD), `${more} more`] : departures,
        behind: follows !== undefined && base !== undefined && follows.revision < base.revision,
      };
    });
    return { shots: await Promise.all(shots) };
  }

  /** Asks for revisions of a setup, each once. */
  private basesOf(setup: string): (revision: number) => Promise<Setup> {
    const known = new Map<number, Promise<Setup>>();
    return (revision) => {
      const asked = known.get(revision) ?? this.setups.at(setup, revision).then((r) => r.document);
      known.set(revision, asked);
      return asked;
    };
  }

  /** Which shots a change of the sequence's setup would be seen in. @throws HttpProblem 404, 410 */
  async touched(id: string, patch: Patch): Promise<Touched> {
    const { document } = await this.get(id),
      base = await this.setups.get(document.setup),
      baseAt = this.basesOf(document.setup);
    const rows = await this.manager.query<{ id: string; document: object }[]>(
      'SELECT id, document FROM document WHERE id = ANY($1::uuid[]) AND deleted_at IS NULL',
      [orderOf(document.shots)],
    );
    const seen = new Set<string>();
    for (const row of rows) {
      const shot = migrateSetup(row.document) as Setup;
      if (shot.follows?.setup !== document.setup) continue;
      if (reaches(patch, base.document, shot, await baseAt(shot.follows.revision))) seen.add(row.id);
    }
    const order = orderOf(document.shots);
    return { seen: order.filter((s) => seen.has(s)), hidden: order.filter((s) => !seen.has(s)) };
  }

  /** A value of the sequence's light in each of its shots, which are brought up to date for it. @throws HttpProblem 404, 410 */
  async along(id: string, path: string): Promise<Along> {
    const { document } = await this.get(id),
      light = await this.setups.get(document.setup),
      order = orderOf(document.shots),
      base = numberAt(light.document, path);
    const rows = await this.manager.query<{ id: string; revision: number; document: object }[]>(
      'SELECT id, revision, document FROM document WHERE id = ANY($1::uuid[]) AND deleted_at IS NULL',
      [order],
    );
    const there = new Map(rows.map((r) => [r.id, r]));
    const shots: Along['shots'] = [];
    for (const shot of order) {
      const row = there.get(shot);
      // one that was thrown away has none
      if (!row) continue;
      let [setup, revision] = [migrateSetup(row.document) as Setup, row.revision];
      if (setup.follows?.setup === document.setup && setup.follows.revision !== light.revision)
        ({ document: setup, revision } = await this.setups.get(shot));
      const value = numberAt(setup, path);
      shots.push({ id: shot, revision, ...(value === undefined ? {} : { value }) });
    }
    return { ...(base === undefined ? {} : { base }), shots };
  }

  /** Productions and sequences for the first screen. */
  async productions(): Promise<Productions> {
    type Made = { id: string; revision: number; document: Production };
    type Row = { id: string; document: Sequence; pictures: Record<string, string> | null };
    const made = await this.manager.query<Made[]>(
      `SELECT id, revision, document FROM document WHERE kind = 'production' AND deleted_at IS NULL ORDER BY created_at DESC LIMIT 200`,
    );
    const rows = await this.manager.query<Row[]>(
      `SELECT q.id, q.document, (
         SELECT jsonb_object_agg(s.id, p.picture) FROM (
           SELECT k.key::uuid AS id FROM jsonb_each(q.document #> '{shots,items}') k ORDER BY k.value ->> 'rank' COLLATE "C" LIMIT $1) s
         JOIN LATERAL (SELECT picture FROM proof WHERE setup_id = s.id AND deleted_at IS NULL ORDER BY created_at DESC LIMIT 1) p ON true) AS pictures
       FROM document q WHERE q.kind = 'sequence' AND q.deleted_at IS NULL ORDER BY q.created_at DESC LIMIT 500`,
      [STRIP],
    );
    return {
      productions: made.map(({ id, revision, document: { name, brief, fps } }) => ({ id, revision, name, brief, fps })),
      sequences: rows.map(({ id, document, pictures }) => {
        const states: Record<string, number> = {};
        for (const { state } of Object.values(document.shots.items)) states[state] = (states[state] ?? 0) + 1;
        return {
          id,
          ...(document.production ? { production: document.production } : {}),
          rank: document.rank,
          name: document.name,
          brief: document.brief,
          setup: document.setup,
          shots: Object.keys(document.shots.items).length,
          states,
          pictures: orderOf(document.shots).flatMap((shot) => pictures?.[shot] ?? []),
        };
      }),
    };
  }
}
