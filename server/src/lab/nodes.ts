import { createHash, randomBytes, randomUUID } from 'node:crypto';
import { LAB_VERSION, LEASE_MS, HEARTBEAT_MS, type Hello, type MadeNode, type NodeList, type Welcome } from '@plinket/contract';
import type { EntityManager } from 'typeorm';
import { HttpProblem, notFound } from '../problem.ts';
import type { LabTold } from './told.ts';

const digest = (token: string): string => createHash('sha256').update(token).digest('hex');

/** Id of the node that `npm start` brings. */
const OWN_NODE = '00000000-0000-4000-8000-000000000001';

/** A node that may speak. */
export interface KnownNode {
  id: string;
  name: string;
  process: string | null;
}

/** The machines that render: each has a token, said once when it is made, which can be taken back. */
export class NodeService {
  private readonly manager: EntityManager;
  private readonly told: LabTold;
  readonly leaseMs: number;
  constructor(manager: EntityManager, told: LabTold, leaseMs = LEASE_MS) {
    this.manager = manager;
    this.told = told;
    this.leaseMs = leaseMs;
  }

  async list(): Promise<NodeList> {
    type Row = {
      id: string;
      name: string;
      created: Date;
      seen: Date | null;
      cores: number | null;
      here: boolean;
      works: string | null;
      done: number;
    };
    const rows = await this.manager.query<Row[]>(
      `SELECT n.id, n.name, n.created_at AS created, n.seen_at AS seen, n.cores,
         coalesce(n.seen_at > now() - $1 * interval '1 millisecond', false) AS here,
         (SELECT j.name || ' · ' || f.label || ' · ' || f.frame FROM render_frame f JOIN render_job j ON j.id = f.job
          WHERE f.node = n.id AND f.state = 'running' LIMIT 1) AS works,
         (SELECT count(*)::int FROM render_frame f WHERE f.node = n.id AND f.state = 'done') AS done
       FROM render_node n WHERE n.revoked_at IS NULL ORDER BY n.created_at`,
      [this.leaseMs],
    );
    const [pace] = await this.manager.query<{ pace: number | null }[]>(
      `SELECT sum(core_seconds) / nullif(sum(work), 0) AS pace FROM (SELECT core_seconds, work FROM render_frame
         WHERE state = 'done' AND films IS NULL ORDER BY finished_at DESC LIMIT 20) f`,
    );
    return {
      items: rows.map((r) => ({
        id: r.id,
        name: r.name,
        createdAt: r.created.toISOString(),
        ...(r.seen ? { seenAt: r.seen.toISOString() } : {}),
        ...(r.cores ? { cores: r.cores } : {}),
        here: r.here,
        ...(r.works ? { works: r.works } : {}),
        done: r.done,
      })),
      ...(pace?.pace ? { pace: pace.pace } : {}),
    };
  }

  /** Makes a node's token. It is kept as its hash only. */
  async make(name: string): Promise<MadeNode> {
    const id = randomUUID(),
      token = `plinket-${randomBytes(32).toString('base64url')}`;
    await this.manager.query('INSERT INTO render_node (id, name, token) VALUES ($1, $2, $3)', [id, name, digest(token)]);
    this.told.nodes();
    return { id, name, token };
  }

  /** The node that the start script brings with it: one row for ever, with the token of this start. */
  async keepOwn(token: string): Promise<void> {
    await this.manager.query(
      `INSERT INTO render_node (id, name, token) VALUES ($1, $2, $3)
       ON CONFLICT (id) DO UPDATE SET token = $3, revoked_at = NULL, process = CASE WHEN render_node.token = $3 THEN render_node.process END`,
      [OWN_NODE, 'this machine', digest(token)],
    );
  }

  /** Takes a token back: whoever has it is not heard any more. @throws HttpProblem 404 */
  async revoke(id: string): Promise<void> {
    const [, count] = await this.manager.query<[unknown, number]>(
      'UPDATE render_node SET revoked_at = now() WHERE id = $1 AND revoked_at IS NULL',
      [id],
    );
    if (!count) throw notFound('render node');
    this.told.nodes();
  }

  /** The node that a token belongs to. @throws HttpProblem 401 */
  async knownBy(header: string | undefined): Promise<KnownNode> {
    const token = /^bearer +(\S+)$/i.exec(header ?? '')?.[1];
    const [row] = token
      ? await this.manager.query<KnownNode[]>('SELECT id, name, process FROM render_node WHERE token = $1 AND revoked_at IS NULL', [
          digest(token),
        ])
      : [];
    if (!row)
      throw new HttpProblem(401, 'node-token', 'This node’s token is not known, or was taken back.', {
        detail: 'Make a new one in the Lab.',
      });
    return row;
  }

  /** A node has begun. @throws HttpProblem 409 when it is of another version */
  async hello({ id, name }: KnownNode, { version, process, cores, name: called }: Hello): Promise<Welcome> {
    if (version !== LAB_VERSION)
      throw new HttpProblem(409, 'node-version', 'This node is of another version.', {
        detail: `The server speaks version ${LAB_VERSION}, the node ${version}: their pictures would differ. Bring it up to date and start it again.`,
      });
    await this.manager.query('UPDATE render_node SET process = $2, cores = $3, name = coalesce($4, name), seen_at = now() WHERE id = $1', [
      id,
      process,
      cores,
      called ?? null,
    ]);
    this.told.nodes();
    return { id, name: called ?? name, heartbeatMs: Math.min(HEARTBEAT_MS, Math.ceil(this.leaseMs / 4)), leaseMs: this.leaseMs };
  }

  /** A node was heard of. One that waits asks every second: that is not written down each time. */
  async seen(id: string): Promise<void> {
    await this.manager.query("UPDATE render_node SET seen_at = now() WHERE id = $1 AND seen_at < now() - $2 * interval '1 millisecond'", [
      id,
      this.leaseMs / 8,
    ]);
  }
}
