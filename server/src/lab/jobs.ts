import { randomUUID } from 'node:crypto';
import { frameSize, frameWord, nameBy, templateProblem, versionWord } from '@plinket/core';
import { MOST_FRAMES, type FrameList, type Job, type JobChange, type JobFrame, type JobWish } from '@plinket/contract';
import type { EntityManager } from 'typeorm';
import type { BlobStore } from '../data/blobs.ts';
import { anywhere, pageOf, readCursor } from '../data/pages.ts';
import { HttpProblem, notFound } from '../problem.ts';
import type { ListWish } from '../services/documents.ts';
import type { FinishedFolder } from './finished.ts';
import { FILMS, planFrames, workOf, type Documents, type Planned } from './plan.ts';
import type { FrameQueue } from './queue.ts';
import type { LabTold } from './told.ts';

interface JobRow {
  id: string;
  name: string;
  version: number;
  wish: JobWish;
  state: 'going' | 'paused' | 'cancelled';
  priority: number;
  created: Date;
  at: string;
  counts: Partial<Record<JobFrame['state'], number>> | null;
  work: number;
  worked: number;
  finished_work: number;
  core: number;
  spent: number;
  picture: string | null;
  finished: Date | null;
}

/** One row a job, with what its frames come to. */
const SELECT_JOBS = `SELECT j.id, j.name, j.version, j.wish, j.state, j.priority, j.created_at AS created, j.created_at::text AS at,
    f.counts, f.work, f.worked, f.finished_work, f.core, f.spent, f.finished,
    (SELECT picture FROM render_frame p WHERE p.job = j.id AND p.picture IS NOT NULL ORDER BY p.changed DESC LIMIT 1) AS picture
  FROM render_job j LEFT JOIN LATERAL (
    SELECT jsonb_object_agg(state, count) AS counts, sum(work) AS work, sum(worked) AS worked, sum(finished_work) AS finished_work, sum(core) AS core,
      sum(spent) AS spent, max(finished) AS finished
    FROM (SELECT state, count(*)::int, sum(work) AS work,
        sum(CASE WHEN state = 'done' THEN work WHEN state = 'running' THEN work * progress ELSE 0 END) AS worked,
        sum(CASE WHEN state = 'done' THEN work ELSE 0 END) AS finished_work, sum(core_seconds) AS core,
        sum(CASE WHEN state = 'done' THEN seconds ELSE 0 END) AS spent, max(finished_at) AS finished
      FROM render_frame WHERE job = j.id GROUP BY state) s) f ON true`;

function stateOf(state: JobRow['state'], counts: Job['frames']): Job['state'] {
  if (state === 'cancelled') return 'cancelled';
  if (counts.waiting + counts.running === 0) return counts.dead > 0 ? 'unfinished' : 'done';
  if (state === 'paused') return 'paused';
  return counts.running > 0 ? 'running' : 'waiting';
}

/** Seconds for a unit of work of all nodes together, and how many of them are there. */
export interface Pace {
  seconds: number | undefined;
  nodes: number;
}

function toJob(row: JobRow, pace: Pace): Job {
  const of = (state: JobFrame['state']) => row.counts?.[state] ?? 0;
  const frames = { waiting: of('waiting'), running: of('running'), done: of('done'), dead: of('dead'), cancelled: of('cancelled') };
  const counts = { all: Object.values(frames).reduce((a, b) => a + b, 0), ...frames };
  const state = stateOf(row.state, counts);
  const left = Math.max(0, row.work - row.worked),
    seconds = row.finished_work > 0 ? row.spent / row.finished_work : pace.seconds;
  const going = state === 'waiting' || state === 'running';
  return {
    id: row.id,
    name: row.name,
    version: row.version,
    source: row.wish.source,
    quality: row.wish.quality,
    outputs: row.wish.outputs,
    template: row.wish.template,
    priority: row.priority,
    state,
    frames: counts,
    progress: row.work > 0 ? Math.min(1, row.worked / row.work) : 0,
    ...(going && seconds !== undefined && pace.nodes > 0 ? { msLeft: Math.round((left * seconds * 1000) / pace.nodes) } : {}),
    coreSeconds: row.core ?? 0,
    ...(row.picture ? { picture: row.picture } : {}),
    createdAt: row.created.toISOString(),
    ...(row.finished && !going && state !== 'paused' ? { finishedAt: row.finished.toISOString() } : {}),
  };
}

interface FrameRow extends Omit<JobFrame, 'picture' | 'node' | 'films'> {
  picture: string | null;
  films: string | null;
  node: string | null;
  changed: string;
}
const toFrame = ({ changed: _, picture, node, films, ...rest }: FrameRow): JobFrame => ({
  ...rest,
  ...(picture ? { picture } : {}),
  ...(films ? { films } : {}),
  ...(node ? { node } : {}),
});

/** So many versions are tried before one is named as taken. */
const MOST_VERSIONS = 9999;

export interface LabParts {
  manager: EntityManager;
  blobs: BlobStore;
  queue: FrameQueue;
  finished: FinishedFolder;
  told: LabTold;
}

/** Jobs of the Lab: what is asked for, how far it is, and what comes of it. */
export class JobService {
  private readonly parts: LabParts;
  private readonly documents: Documents;
  constructor(parts: LabParts, documents: Documents) {
    this.parts = parts;
    this.documents = documents;
  }

  /** Plans a wish and puts its frames into the queue. @throws HttpProblem 404, or 422 that names each field */
  async send(wish: JobWish): Promise<Job> {
    const { manager, queue, blobs } = this.parts;
    const planned = await planFrames(wish, manager, this.documents);
    const field = (name: string, reason: string) =>
      new HttpProblem(422, 'invalid', 'The job was not sent.', { detail: reason, errors: [{ field: name, reason }] });
    if (planned.length > MOST_FRAMES) throw field('source', `it has ${planned.length} frames; a job has at most ${MOST_FRAMES}`);
    const labels = new Set(planned.map((p) => p.label));
    const problem = templateProblem(wish.template, { frames: planned.length > labels.size, shots: labels.size > 1 });
    if (problem) throw field('template', problem);
    const setups = new Map<object, string>();
    for (const { setup } of planned)
      if (!setups.has(setup)) setups.set(setup, await blobs.keep(await blobs.receive(bytesOf(JSON.stringify(setup)))));
    const id = randomUUID();
    await queue.warm();
    await manager.transaction(async (m) => {
      // one at a time: two that are sent at once get different versions
      await m.query("SELECT pg_advisory_xact_lock(hashtext('render_job'))");
      const { version, paths } = await this.freePaths(m, wish, planned);
      const twice = paths.find((p, i) => paths.indexOf(p) !== i);
      if (twice) throw field('template', `two frames would be called “${twice}”`);
      await m.query('INSERT INTO render_job (id, name, version, wish, priority) VALUES ($1, $2, $3, $4, $5)', [
        id,
        wish.name,
        version,
        JSON.stringify(wish),
        wish.priority,
      ]);
      const frames = planned.map((p, n) => ({
        n,
        label: p.label,
        frame: p.frame,
        path: paths[n]!,
        task: { ...p.task, words: p.words },
        work: workOf(p, { ...frameSize(p.setup, wish.quality.side), samples: wish.quality.samples }),
        setup: setups.get(p.setup)!,
        films: p.task.films ?? null,
        queued: randomUUID(),
      }));
      await m.query(
        `INSERT INTO render_frame (job, n, label, frame, path, task, work, setup, films, queued)
         SELECT $1, n, label, frame, path, task, work, setup, films, queued FROM jsonb_to_recordset($2::jsonb)
           AS f (n int, label text, frame int, path text, task jsonb, work float8, setup char(64), films char(64), queued uuid)`,
        [id, JSON.stringify(frames)],
      );
      await queue.put(
        m,
        frames.map(({ n, queued }) => ({ id: queued, job: id, n })),
        wish.priority,
      );
    });
    this.parts.told.job(id);
    return this.get(id);
  }

  /** The first version of which no file is there and none was ever promised, and the names of its frames. */
  private async freePaths(m: EntityManager, wish: JobWish, planned: Planned[]): Promise<{ version: number; paths: string[] }> {
    for (let version = 1; version <= MOST_VERSIONS; version++) {
      const paths = planned.map(({ words, frame }) =>
        nameBy(wish.template, { ...words, job: wish.name, version: versionWord(version), frame: frameWord(frame) }),
      );
      const taken = await m.query<object[]>('SELECT FROM render_frame WHERE path = ANY($1) LIMIT 1', [paths]);
      if (!taken.length && !paths.some((p) => this.parts.finished.has(`${p}.png`) || this.parts.finished.has(`${p}.exr`)))
        return { version, paths };
    }
    throw new HttpProblem(409, 'versions', 'There are too many versions of this job.', { detail: 'Give it another name.' });
  }

  private async pace(): Promise<Pace> {
    const [row] = await this.parts.manager.query<{ pace: number | null; nodes: number }[]>(
      `SELECT (SELECT sum(seconds) / nullif(sum(work), 0) FROM (SELECT seconds, work FROM render_frame
          WHERE state = 'done' AND films IS NULL ORDER BY finished_at DESC LIMIT 20) f) AS pace,
        (SELECT count(*)::int FROM render_node WHERE revoked_at IS NULL AND seen_at > now() - interval '1 minute') AS nodes`,
    );
    return { seconds: row!.pace ?? undefined, nodes: row!.nodes };
  }

  /** A page of jobs, the latest first. */
  async list({ search, cursor, limit }: ListWish): Promise<{ items: Job[]; next?: string }> {
    const [at, id] = readCursor(cursor) ?? [null, null];
    const rows = await this.parts.manager.query<JobRow[]>(
      `${SELECT_JOBS} WHERE ($1::timestamptz IS NULL OR (j.created_at, j.id) < ($1, $2::uuid)) AND ($4::text IS NULL OR j.name ILIKE $4)
       ORDER BY j.created_at DESC, j.id DESC LIMIT $3`,
      [at, id, limit + 1, anywhere(search)],
    );
    const pace = await this.pace();
    return pageOf(
      rows.map((r) => ({ ...r, key: r.id })),
      limit,
      (row) => toJob(row, pace),
    );
  }

  /** @throws HttpProblem 404 */
  async get(id: string): Promise<Job> {
    const [row] = await this.parts.manager.query<JobRow[]>(`${SELECT_JOBS} WHERE j.id = $1`, [id]);
    if (!row) throw notFound('job');
    return toJob(row, await this.pace());
  }

  /** Frames that changed since; all of them at first. @throws HttpProblem 404 */
  async frames(id: string, after: string): Promise<FrameList> {
    const rows = await this.parts.manager.query<FrameRow[]>(
      `SELECT f.n, f.label, f.frame, f.state, f.progress, f.seconds, f.attempts, f.picture, f.files, f.log, f.setup, ${FILMS} AS films,
         f.changed::text AS changed, n.name AS node
       FROM render_frame f LEFT JOIN render_node n ON n.id = f.node WHERE f.job = $1 AND f.changed > $2 ORDER BY f.n`,
      [id, after],
    );
    if (!rows.length) await this.get(id);
    const latest = rows.reduce((most, r) => (BigInt(r.changed) > most ? BigInt(r.changed) : most), BigInt(after));
    return { items: rows.map(toFrame), changed: String(latest) };
  }

  /**
   * Pauses a job (what runs is finished), lets it go on, cancels it (what runs is not taken any more), or makes it more urgent.
   * @throws HttpProblem 404, 409
   */
  async change(id: string, { state, priority }: JobChange): Promise<Job> {
    const { manager, queue } = this.parts;
    await queue.warm();
    await manager.transaction(async (m) => {
      const [job] = await m.query<{ state: string; priority: number }[]>(
        'SELECT state, priority FROM render_job WHERE id = $1 FOR UPDATE',
        [id],
      );
      if (!job) throw notFound('job');
      if (job.state === 'cancelled' && state && state !== 'cancelled')
        throw new HttpProblem(409, 'cancelled', 'The job was cancelled.', { detail: 'Send it again: it becomes a version of its own.' });
      const next = { state: state ?? job.state, priority: priority ?? job.priority };
      await m.query('UPDATE render_job SET state = $2, priority = $3 WHERE id = $1', [id, next.state, next.priority]);
      const waiting = await m.query<{ n: number; queued: string }[]>(
        "SELECT n, queued FROM render_frame WHERE job = $1 AND state = 'waiting' FOR UPDATE",
        [id],
      );
      await queue.drop(
        m,
        waiting.map((w) => w.queued),
      );
      if (next.state === 'cancelled')
        await m.query(
          "UPDATE render_frame SET state = 'cancelled', lease = NULL, changed = nextval('render_change') WHERE job = $1 AND state IN ('waiting', 'running', 'dead')",
          [id],
        );
      if (next.state === 'going')
        await this.requeue(
          m,
          id,
          waiting.map((w) => w.n),
          next.priority,
        );
    });
    this.parts.told.job(id);
    return this.get(id);
  }

  /** Tries the dead frames of a job once more. @throws HttpProblem 404 */
  async again(id: string): Promise<Job> {
    const { manager, queue } = this.parts;
    await queue.warm();
    await manager.transaction(async (m) => {
      const [job] = await m.query<{ priority: number }[]>('SELECT priority FROM render_job WHERE id = $1 FOR UPDATE', [id]);
      if (!job) throw notFound('job');
      const dead = await m.query<{ n: number }[]>("SELECT n FROM render_frame WHERE job = $1 AND state = 'dead' FOR UPDATE", [id]);
      await this.requeue(
        m,
        id,
        dead.map((d) => d.n),
        job.priority,
      );
    });
    this.parts.told.job(id);
    return this.get(id);
  }

  private async requeue(m: EntityManager, job: string, ns: number[], priority: number): Promise<void> {
    const frames = ns.map((n) => ({ n, id: randomUUID(), job }));
    await m.query(
      `UPDATE render_frame f SET state = 'waiting', queued = q.id, attempts = 0, progress = 0, lease = NULL, changed = nextval('render_change')
       FROM jsonb_to_recordset($2::jsonb) AS q (n int, id uuid) WHERE f.job = $1 AND f.n = q.n`,
      [job, JSON.stringify(frames)],
    );
    await this.parts.queue.put(m, frames, priority);
  }

  /** Frames that wait and that the queue has lost, however that came, are put back into it. Answers how many. */
  async mend(): Promise<number> {
    const { manager, queue } = this.parts;
    await queue.warm();
    return manager.transaction(async (m) => {
      const waiting = await m.query<{ job: string; n: number; queued: string; priority: number }[]>(
        `SELECT f.job, f.n, f.queued, j.priority FROM render_frame f JOIN render_job j ON j.id = f.job
         WHERE f.state = 'waiting' AND j.state = 'going' FOR UPDATE OF f SKIP LOCKED`,
      );
      const there = await queue.waiting(
        m,
        waiting.map((w) => w.queued),
      );
      const lost = waiting.filter((w) => !there.has(w.queued));
      for (const { job, n, priority } of lost) await this.requeue(m, job, [n], priority);
      return lost.length;
    });
  }

  /** The files of a job's frames, as they are called, in order. @throws HttpProblem 404 */
  async files(id: string): Promise<{ name: string; sha256: string; bytes: number }[]> {
    await this.get(id);
    return this.parts.manager.query(
      `SELECT f ->> 'name' AS name, f ->> 'sha256' AS sha256, (f ->> 'bytes')::float8 AS bytes
       FROM render_frame r, jsonb_array_elements(r.files) f WHERE r.job = $1 AND r.state = 'done' ORDER BY 1`,
      [id],
    );
  }

  /** Takes a finished, cancelled or unfinished job off the list; its files stay where they are. @throws HttpProblem 404, 409 */
  async remove(id: string): Promise<void> {
    const { state } = await this.get(id);
    if (state === 'running' || state === 'waiting' || state === 'paused')
      throw new HttpProblem(409, 'going', 'The job is not done.', { detail: 'Cancel it first.' });
    await this.parts.manager.query('DELETE FROM render_job WHERE id = $1', [id]);
    this.parts.told.job(id);
  }
}

async function* bytesOf(text: string): AsyncGenerator<Uint8Array> {
  yield Buffer.from(text);
}
