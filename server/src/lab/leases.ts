import { statSync } from 'node:fs';
import { randomUUID } from 'node:crypto';
import type { FrameDone, FrameFailed, Heartbeat, Task } from '@plinket/contract';
import type { EntityManager } from 'typeorm';
import { HttpProblem } from '../problem.ts';
import type { LabParts } from './jobs.ts';
import type { KnownNode } from './nodes.ts';

/** Lines of a frame's log that are kept. */
const MOST_LINES = 60;
/** Queue entries of frames that are no more are passed over, so many in one go. */
const MOST_STALE = 200;

const lost = (): HttpProblem =>
  new HttpProblem(410, 'lease', 'This frame is not yours any more.', {
    detail: 'It was cancelled, or given to another node because nothing was heard of this one for too long.',
  });

interface HeldFrame {
  job: string;
  n: number;
  path: string;
  queued: string;
  node_name: string;
}

const stamp = 'to_jsonb(to_char(now() AT TIME ZONE \'UTC\', \'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"\'))';

/** Adds lines to a frame's log; the oldest go. */
const logged = (
  lines: string,
): string => `(SELECT coalesce(jsonb_agg(l ORDER BY o), '[]') FROM (SELECT l, o FROM jsonb_array_elements(log ||
  (SELECT coalesce(jsonb_agg(jsonb_build_object('at', ${stamp}, 'words', w)), '[]') FROM jsonb_array_elements_text(${lines}::jsonb) w)) WITH ORDINALITY x (l, o)
  ORDER BY o DESC LIMIT ${MOST_LINES}) y)`;

/** Frames in nodes' hands: taken, kept by heartbeats, finished once, or given back. */
export class LeaseService {
  private readonly parts: LabParts;
  private readonly leaseMs: number;
  constructor(parts: LabParts, leaseMs: number) {
    this.parts = parts;
    this.leaseMs = leaseMs;
  }

  /** The most urgent frame for a node; nothing where none waits. */
  async take(node: KnownNode): Promise<Task | undefined> {
    const { manager, queue, told } = this.parts;
    await queue.warm();
    const taken = await manager.transaction(async (m) => {
      for (let stale = 0; stale < MOST_STALE; stale++) {
        const queued = await queue.take(m);
        if (!queued) return undefined;
        type Row = {
          label: string;
          frame: number;
          setup: string;
          task: Task & { words?: object };
          wish: Task;
          name: string;
          state: string;
        };
        const [row] = await m.query<Row[]>(
          `SELECT f.label, f.frame, f.setup, f.task, j.wish, j.name, j.state FROM render_frame f JOIN render_job j ON j.id = f.job
           WHERE f.job = $1 AND f.n = $2 AND f.queued = $3 AND f.state = 'waiting' FOR UPDATE OF f`,
          [queued.job, queued.n, queued.id],
        );
        // gone, or paused since: it is put in anew when the job goes on
        if (!row || row.state !== 'going') {
          await queue.finish(m, queued.id);
          continue;
        }
        const lease = randomUUID();
        await m.query(
          `UPDATE render_frame SET state = 'running', lease = $3, node = $4, heard_at = now(), attempts = attempts + 1, progress = 0,
             log = ${logged('$5')}, changed = nextval('render_change') WHERE job = $1 AND n = $2`,
          [queued.job, queued.n, lease, node.id, JSON.stringify([`taken by ${node.name}`])],
        );
        const { words: _, ...task } = row.task;
        return {
          job: queued.job,
          task: {
            ...task,
            lease,
            job: row.name,
            label: row.label,
            frame: row.frame,
            setup: row.setup,
            quality: row.wish.quality,
            outputs: row.wish.outputs,
          },
        };
      }
      return undefined;
    });
    if (!taken) return undefined;
    told.job(taken.job);
    told.nodes();
    return taken.task;
  }

  private async held(m: EntityManager, lease: string, node?: KnownNode, silentMs?: number): Promise<HeldFrame> {
    const [row] = await m.query<HeldFrame[]>(
      `SELECT f.job, f.n, f.path, f.queued, n.name AS node_name FROM render_frame f JOIN render_node n ON n.id = f.node
       WHERE f.lease = $1 AND f.state = 'running' AND ($2::uuid IS NULL OR f.node = $2)
         AND ($3::int IS NULL OR f.heard_at < now() - $3 * interval '1 millisecond') FOR UPDATE OF f`,
      [lease, node?.id ?? null, silentMs ?? null],
    );
    if (!row) throw lost();
    return row;
  }

  /** A node is still at it. @throws HttpProblem 410 when the frame is not its own any more */
  async heartbeat(node: KnownNode, lease: string, { progress, words }: Heartbeat): Promise<void> {
    const job = await this.parts.manager.transaction(async (m) => {
      const { job, n } = await this.held(m, lease, node);
      await m.query(
        `UPDATE render_frame SET heard_at = now(), progress = $3, log = ${logged('$4')}, changed = nextval('render_change') WHERE job = $1 AND n = $2`,
        [job, n, progress, JSON.stringify(words)],
      );
      return job;
    });
    this.parts.told.job(job);
  }

  /**
   * A frame is finished: its files get their names, once. Sent again by who lost the answer, it is taken for done.
   * @throws HttpProblem 410 when the frame is not the node's any more, 422 when a file never came
   */
  async done(node: KnownNode, lease: string, result: FrameDone): Promise<void> {
    const { manager, queue, blobs, finished, told } = this.parts;
    const missing = [...result.files.map((f) => f.sha256), result.picture].find((sha256) => !blobs.renew(sha256));
    if (missing)
      throw new HttpProblem(422, 'missing-file', 'The frame was not taken.', {
        errors: [{ field: 'files', reason: `no file with the SHA-256 ${missing} has come` }],
      });
    await queue.warm();
    const job = await manager.transaction(async (m) => {
      const { job, n, path, queued } = await this.held(m, lease, node);
      const files = result.files.map(({ ending, sha256 }) => ({
        name: `${path}.${ending}`,
        sha256,
        bytes: statSync(blobs.path(sha256)).size,
      }));
      for (const { name, sha256 } of files) await finished.put(name, sha256);
      await m.query(
        `UPDATE render_frame SET state = 'done', lease = NULL, finished_at = now(), progress = 1, seconds = $3, core_seconds = core_seconds + $4, picture = $5,
           files = $6, log = ${logged('$7')}, changed = nextval('render_change') WHERE job = $1 AND n = $2`,
        [job, n, result.seconds, result.coreSeconds, result.picture, JSON.stringify(files), JSON.stringify([...result.words, 'finished'])],
      );
      await queue.finish(m, queued);
      return job;
    });
    told.job(job);
    told.nodes();
  }

  /** A frame could not be rendered. @throws HttpProblem 410 */
  async failed(node: KnownNode, lease: string, { reason, words }: FrameFailed): Promise<void> {
    await this.giveBack(lease, `failed: ${reason}`, { words, node });
  }

  /** Gives a frame back to the queue, or to the dead ones when it was tried often enough. */
  private async giveBack(
    lease: string,
    reason: string,
    { words = [], node, silentMs }: { words?: string[]; node?: KnownNode; silentMs?: number } = {},
  ): Promise<void> {
    const { manager, queue, told } = this.parts;
    await queue.warm();
    const job = await manager.transaction(async (m) => {
      const { job, n, queued } = await this.held(m, lease, node, silentMs);
      const again = await queue.fail(m, queued, reason);
      const lines = [...words, reason, again ? 'waits for another try' : 'was tried often enough'];
      await m.query(
        `UPDATE render_frame SET state = $3, lease = NULL, progress = 0, log = ${logged('$4')}, changed = nextval('render_change') WHERE job = $1 AND n = $2`,
        [job, n, again ? 'waiting' : 'dead', JSON.stringify(lines)],
      );
      return job;
    });
    told.job(job);
    told.nodes();
  }

  /** What a node had in hand when it was started anew, or was told to end. */
  async giveBackOf(node: KnownNode, reason: string): Promise<void> {
    const rows = await this.parts.manager.query<{ lease: string }[]>(
      "SELECT lease FROM render_frame WHERE node = $1 AND state = 'running'",
      [node.id],
    );
    for (const { lease } of rows) await this.giveBack(lease, reason).catch(passLost);
  }

  /** Takes frames from nodes that are not heard of any more. Answers how many. */
  async sweep(): Promise<number> {
    const rows = await this.parts.manager.query<{ lease: string }[]>(
      "SELECT lease FROM render_frame WHERE state = 'running' AND heard_at < now() - $1 * interval '1 millisecond'",
      [this.leaseMs],
    );
    for (const { lease } of rows)
      await this.giveBack(lease, `nothing was heard of its node for ${Math.round(this.leaseMs / 1000)} s`, {
        silentMs: this.leaseMs,
      }).catch(passLost);
    return rows.length;
  }
}

/** Somebody else was quicker: finished, or cancelled meanwhile. */
function passLost(error: unknown): void {
  if (!(error instanceof HttpProblem && error.problem.status === 410)) throw error;
}
