// The queue of frames: pg-boss on the same PostgreSQL, spoken to within our own transactions, so that queue and rows never say different things.
import PgBoss from 'pg-boss';
import type { Pool } from 'pg';
import type { DataSource, EntityManager } from 'typeorm';
import type { Logger } from 'pino';

const QUEUE = 'frames';
/** A frame that fails or is lost is tried again so often, after pauses that double from so many seconds on. */
export const RETRIES = 4;
const PAUSE_SECONDS = 2;
const YEAR_DAYS = 365;
/** Urgency comes first, then what was sent first, then the frames in their order. */
const STEP = 100_000;

/** What of a frame the queue knows. */
export interface Queued {
  job: string;
  n: number;
}

type Db = PgBoss.Db;

/** pg-boss speaks through our pool; within a transaction through that one's connection. */
const through = (manager: EntityManager): Db => ({
  executeSql: async (text, values) => {
    const { records } = (await manager.queryRunner!.query(text, values, true)) as { records?: unknown[] };
    return { rows: (records ?? []) as object[] };
  },
});

export interface QueueOptions {
  /** Seconds before the first retry. */
  pauseSeconds?: number;
  retries?: number;
}

/** Frames that wait. It starts when it is first asked for something. */
export class FrameQueue {
  private readonly db: DataSource;
  private readonly log: Logger;
  private readonly options: Required<QueueOptions>;
  private started: Promise<PgBoss> | undefined;

  constructor(db: DataSource, log: Logger, { pauseSeconds = PAUSE_SECONDS, retries = RETRIES }: QueueOptions = {}) {
    this.db = db;
    this.log = log;
    this.options = { pauseSeconds, retries };
  }

  private boss(): Promise<PgBoss> {
    this.started ??= this.start().catch((error: unknown) => {
      // the next one who asks begins anew
      this.started = undefined;
      throw error;
    });
    return this.started;
  }

  private async start(): Promise<PgBoss> {
    const { master } = this.db.driver as unknown as { master: Pool };
    const boss = new PgBoss({
      db: { executeSql: async (text, values) => ({ rows: (await master.query<object>(text, values)).rows }) },
      schedule: false,
      retentionDays: YEAR_DAYS,
    });
    boss.on('error', (error) => this.log.warn({ err: error }, 'The queue'));
    await boss.start();
    const { retries, pauseSeconds } = this.options;
    const policy = {
      name: QUEUE,
      retryLimit: retries,
      retryDelay: pauseSeconds,
      retryBackoff: true,
      expireInHours: 23,
      retentionDays: YEAR_DAYS,
    };
    if (await boss.getQueue(QUEUE)) await boss.updateQueue(QUEUE, policy);
    else await boss.createQueue(QUEUE, policy);
    return boss;
  }

  /** Makes ready what later calls need. */
  async warm(): Promise<void> {
    await this.boss();
  }

  /** Puts frames in; `id` is what the queue knows each by. */
  async put(manager: EntityManager, frames: (Queued & { id: string })[], priority: number): Promise<void> {
    if (!frames.length) return;
    const boss = await this.boss(),
      { retries, pauseSeconds } = this.options;
    const jobs = frames.map(({ id, job, n }) => ({
      id,
      name: QUEUE,
      data: { job, n },
      priority: priority * STEP - Math.min(n, STEP - 1),
      retryLimit: retries,
      retryDelay: pauseSeconds,
      retryBackoff: true,
    }));
    await boss.insert(jobs, { db: through(manager) });
  }

  /** Takes the most urgent frame; it is that one's who took it until it is finished or given back. */
  async take(manager: EntityManager): Promise<(Queued & { id: string }) | undefined> {
    const boss = await this.boss();
    const [job] = await boss.fetch<Queued>(QUEUE, { priority: true, batchSize: 1, db: through(manager) });
    return job && { id: job.id, ...job.data };
  }

  async finish(manager: EntityManager, id: string): Promise<void> {
    await (await this.boss()).complete(QUEUE, id, {}, { db: through(manager) });
  }

  /** Gives one back that failed. Answers whether it will be tried again. */
  async fail(manager: EntityManager, id: string, reason: string): Promise<boolean> {
    const boss = await this.boss(),
      db = through(manager);
    await boss.fail(QUEUE, id, { reason }, { db });
    const job = await boss.getJobById(QUEUE, id, { db, includeArchive: false });
    return job?.state === 'retry';
  }

  /** Takes out frames that wait. */
  async drop(manager: EntityManager, ids: string[]): Promise<void> {
    if (ids.length) await (await this.boss()).cancel(QUEUE, ids, { db: through(manager) });
  }

  /** Of these, which the queue still has waiting. */
  async waiting(manager: EntityManager, ids: string[]): Promise<Set<string>> {
    await this.boss();
    const rows = await manager.query<{ id: string }[]>(
      `SELECT id FROM pgboss.job WHERE name = $1 AND id = ANY($2::uuid[]) AND state IN ('created', 'retry')`,
      [QUEUE, ids],
    );
    return new Set(rows.map((r) => r.id));
  }

  /** Ends it; what is in it stays. */
  async close(): Promise<void> {
    const boss = await this.started?.catch(() => undefined);
    this.started = undefined;
    await boss?.stop({ graceful: false, wait: true, close: false }).catch(() => undefined);
  }
}
