import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { dome, type Setup } from '@plinket/core';
import { demoKits } from '@plinket/demo';
import type { EntityManager } from 'typeorm';
import { bringDemo, bringKits } from '../demo.ts';
import { isDatabaseGone, problemOf } from '../problem.ts';
import { FileService } from '../services/files.ts';
import { problem, temporaryBlobs, TestServer } from '../testing/fixture.ts';
import { DataSource } from 'typeorm';
import { First1795000000000, Originals1796000000000 } from './migrations.ts';
import { openDatabase } from './source.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
  await server.bring();
}, 120_000);
afterAll(() => server?.stop());

describe('a database that goes away', () => {
  it('is told as 503, and all goes on when it is back', async () => {
    const { id } = await server.created();
    await server.cluster.stop();
    const body = problem(await server.patch(id, 1, { name: 'x' }), 503);
    expect(body.detail).toContain('Nothing was kept');
    expect((await server.api().get('/api/health')).body.database).toBe('down');
    await server.cluster.start();
    const again = await server.patch(id, 1, { name: 'back' });
    expect(again.status).toBe(200);
    expect(again.body).toMatchObject({ revision: 2, document: { name: 'back' } });
  }, 60_000);
});

describe('a database that hangs', () => {
  it('is told as one that is gone, while it hangs; a change that it took later is known by its id', async () => {
    const { id } = await server.created();
    const request = '6f1f7b5e-30a4-4d0e-9a39-5a3b8f4c9c01';
    const signal = (name: NodeJS.Signals) => server.cluster.processes().forEach((pid) => process.kill(pid, name));
    signal('SIGSTOP');
    try {
      problem(await server.patch(id, 1, { name: 'held up' }, request), 503);
      expect((await server.api().get('/api/health')).body.database).toBe('down');
    } finally {
      signal('SIGCONT');
    }
    const again = await server.patch(id, 1, { name: 'held up' }, request);
    expect(again.status).toBe(200);
    expect(again.body).toMatchObject({ revision: 2, document: { name: 'held up' } });
  }, 60_000);
});

describe('what is said of errors', () => {
  const postgres = (code: string) => Object.assign(new Error('x'), { code });
  it.each(['53100', '53200', '53300', '57014', '57P01', '57P02', '57P03', '08006', '58030', '55P03', '40P01', 'ECONNREFUSED'])(
    'code %s says that one may ask again',
    (code) => {
      expect(problemOf(postgres(code)).status).toBe(503);
      // as TypeORM wraps it
      expect(isDatabaseGone(Object.assign(new Error('query failed'), { driverError: postgres(code) }))).toBe(true);
    },
  );
  it.each(['23505', '22P05', '42601', 'ENOENT'])('code %s does not', (code) => {
    expect(problemOf(postgres(code)).status).toBe(500);
  });
  it('a runner that was released while the database died is the database’s death', () => {
    expect(problemOf(new Error('Query runner already released. Cannot run queries anymore.')).status).toBe(503);
    expect(problemOf(new Error('Query read timeout')).status).toBe(503);
  });
  it('a full disk is told as 507', () => {
    expect(problemOf(postgres('ENOSPC'))).toMatchObject({ status: 507, title: 'The disk of the server is full.' });
  });
});

describe('the demo', () => {
  it('comes whole or not at all, and once', async () => {
    const fresh = await TestServer.start();
    try {
      const { manager } = fresh.db;
      const files = new FileService(fresh.blobs, fresh.readers);
      const counts = async () => {
        const [row] = await manager.query<{ documents: number; assets: number }[]>(
          'SELECT (SELECT count(*)::int FROM document) AS documents, (SELECT count(*)::int FROM asset) AS assets',
        );
        return row;
      };
      await expect(bringDemo(dyingAt(manager, 3), fresh.blobs, files)).rejects.toThrow('the power went');
      expect(await counts()).toEqual({ documents: 0, assets: 0 });
      await bringDemo(manager, fresh.blobs, files);
      // a production, its two sequences with their lights and eight shots, and six setups of their own
      expect(await counts()).toEqual({ documents: 19, assets: 6 });
      await expect(bringKits(dyingAt(manager, 3), fresh.blobs)).rejects.toThrow('the power went');
      const kits = async () => ((await fresh.api().get('/api/kits?limit=200')).body as { items: { id: string; name: string }[] }).items;
      expect(await kits()).toEqual([]);
      for (let twice = 0; twice < 2; twice++) await bringKits(manager, fresh.blobs);
      expect((await kits()).map((k) => k.name)).toEqual(demoKits().map((k) => k.name));
      const { items } = (await fresh.api().get('/api/setups')).body as { items: { id: string; name: string }[] };
      expect(items[0]!.name).toBe('The keeper, first look');
      // who threw it away does not get it again
      for (const s of items) await fresh.api().delete(`/api/setups/${s.id}`).expect(204);
      await bringDemo(manager, fresh.blobs, files);
      expect((await fresh.api().get('/api/setups')).body).toEqual({ items: [] });
    } finally {
      await fresh.stop();
    }
  }, 120_000);
});

/** A database that fails at the n-th document. */
function dyingAt(manager: EntityManager, n: number): EntityManager {
  const failing = (inner: EntityManager): EntityManager =>
    new Proxy(inner, {
      get(target, key) {
        if (key === 'query')
          return (sql: string, parameters?: unknown[]) => {
            if (sql.startsWith('UPDATE document SET created_at') && --n === 0) throw new Error('the power went');
            return target.query(sql, parameters as never);
          };
        const value = Reflect.get(target, key) as unknown;
        return typeof value === 'function' ? value.bind(target) : value;
      },
    });
  return new Proxy(manager, {
    get(target, key) {
      if (key === 'transaction')
        return (work: (m: EntityManager) => Promise<unknown>) => target.transaction((inner) => work(failing(inner)));
      const value = Reflect.get(target, key) as unknown;
      return typeof value === 'function' ? value.bind(target) : value;
    },
  });
}

describe('a database of the first version', () => {
  it('is brought up to date with all that its documents and their histories need', async () => {
    const fresh = await TestServer.start();
    try {
      const url = fresh.cluster.url.replace(/\/postgres$/, '/older');
      await fresh.db.query('CREATE DATABASE older');
      const older = new DataSource({ type: 'postgres', url, migrations: [First1795000000000, Originals1796000000000] });
      await older.initialize();
      await older.runMigrations();
      const id = '6f1f7b5e-30a4-4d0e-9a39-5a3b8f4c9c02';
      const [now, before, undone] = ['a', 'b', 'c'].map((c) => c.repeat(64)) as [string, string, string];
      const light = dome({ fill: { kind: 'picture', asset: now, name: 'cove.hdr', layer: '' } });
      const document = { ...fresh.setup, lights: { items: { cove: light } } } as Setup;
      await older.query('INSERT INTO setup (id, revision, document) VALUES ($1, 2, $2)', [id, JSON.stringify(document)]);
      await older.query("INSERT INTO setup_patch (setup_id, revision, patch, inverse, words) VALUES ($1, 2, $2, $3, 'x')", [
        id,
        JSON.stringify({ look: { lut: null }, plate: { asset: undone } }),
        JSON.stringify({ look: { lut: before }, plate: { asset: null } }),
      ]);
      await older.destroy();

      const today = await openDatabase(url);
      const refs = await today.query<{ sha256: string }[]>('SELECT sha256 FROM blob_ref WHERE owner = $1 ORDER BY sha256', [id]);
      const keeper = Object.values(fresh.setup.subjects.items)[0]!.asset;
      expect(refs.map((r) => r.sha256)).toEqual([keeper, now, before, undone].sort());
      // it had setups: the demo does not come a second time
      await bringDemo(today.manager, temporaryBlobs(), new FileService(fresh.blobs, fresh.readers));
      expect(await today.query('SELECT name FROM document')).toEqual([{ name: fresh.setup.name }]);
      await today.destroy();
    } finally {
      await fresh.stop();
    }
  }, 120_000);
});
