// The Lab over HTTP: jobs, what nodes may say, and what becomes of frames that are lost, fail, wait, or are wished no more.
import { createHash, randomUUID } from 'node:crypto';
import { existsSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync, mkdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from '@jest/globals';
import { jobSchema, LAB_VERSION, nodeListSchema, taskSchema, welcomeSchema, type Job, type JobFrame, type Task } from '@plinket/contract';
import { TURNTABLE_DEFAULTS, type Patch } from '@plinket/core';
import request from 'supertest';
import { createServer, FrameQueue } from '../index.ts';
import { neededBlobs } from '../services/upkeep.ts';
import { NOWHERE, problem, silent, TestServer } from '../testing/fixture.ts';

const folder = mkdtempSync(join(tmpdir(), 'plinket-finished-'));
const LEASE_MS = 60_000;
let server: TestServer, setup: string, token: string;
let running: string = randomUUID();

const quality = { side: 64, samples: 1, bounces: 1 },
  outputs = { png: 8, exr: false };
const wish = (more: object = {}) => ({ name: 'Lamp room', source: { kind: 'setups', setups: [setup] }, quality, outputs, ...more });
const send = async (more: object = {}): Promise<Job> => {
  const response = await server.api().post('/api/lab/jobs').send(wish(more));
  expect([response.status, response.body]).toEqual([201, expect.anything()]);
  return jobSchema.parse(response.body);
};
const job = async (id: string): Promise<Job> => jobSchema.parse((await server.api().get(`/api/lab/jobs/${id}`).expect(200)).body);
const frames = async (id: string): Promise<JobFrame[]> => (await server.api().get(`/api/lab/jobs/${id}/frames`).expect(200)).body.items;
const asNode = (path: string, body: object = {}, by = token, own = running) =>
  server.api().post(`/api/node/${path}`).set('Authorization', `Bearer ${by}`).set('X-Process', own).send(body);
const take = async (): Promise<Task | undefined> => {
  const { status, body } = await asNode('lease');
  return status === 204 ? undefined : taskSchema.parse(body);
};
const put = async (bytes: Buffer): Promise<string> =>
  (
    await server
      .api()
      .post('/api/node/blobs')
      .set('Authorization', `Bearer ${token}`)
      .set('Content-Type', 'application/octet-stream')
      .send(bytes)
  ).body.sha256;
const finish = async ({ lease }: Task, text: string, by = token, own = running) => {
  const sha256 = await put(Buffer.from(text));
  return asNode(`leases/${lease}/done`, { seconds: 2, coreSeconds: 3, files: [{ ending: 'png', sha256 }], picture: sha256 }, by, own);
};
const hello = async (by = token): Promise<string> => {
  const own = randomUUID();
  welcomeSchema.parse((await asNode('hello', { version: LAB_VERSION, process: own, cores: 2 }, by).expect(200)).body);
  return own;
};
/** The queue’s pauses before another try are over. */
const soon = () => server.db.query("UPDATE pgboss.job SET start_after = now() WHERE state = 'retry'");
const newNode = async (name: string): Promise<{ id: string; token: string }> =>
  (await server.api().post('/api/lab/nodes').send({ name }).expect(201)).body;

beforeAll(async () => {
  server = await TestServer.start((db) => ({
    lab: { queue: new FrameQueue(db, silent, { pauseSeconds: 30, retries: 2 }), folder, leaseMs: LEASE_MS },
  }));
  await server.bring().expect(201);
  setup = (await server.created({ name: 'Näher' })).id;
  token = (await newNode('north')).token;
});
afterAll(async () => {
  await server.stop();
  rmSync(folder, { recursive: true, force: true });
});
beforeEach(async () => {
  running = await hello();
  for (const { id, state } of (await server.api().get('/api/lab/jobs')).body.items as Job[])
    if (state !== 'done') await server.api().patch(`/api/lab/jobs/${id}`).send({ state: 'cancelled' });
});

describe('a job', () => {
  it('becomes frames that a node takes, renders and sends back; its files lie under their names', async () => {
    const { id, version, state } = await send();
    expect([version, state]).toEqual([1, 'waiting']);
    const task = (await take())!;
    expect(task).toMatchObject({ job: 'Lamp room', label: 'Näher', frame: 1, quality: { side: 64 }, outputs });
    const sent = await server
      .api()
      .get(`/api/node/blobs/${task.setup}`)
      .set('Authorization', `Bearer ${token}`)
      .buffer(true)
      .parse((res, done) => {
        const parts: Buffer[] = [];
        res.on('data', (d: Buffer) => parts.push(d)).on('end', () => done(null, Buffer.concat(parts)));
      });
    expect(JSON.parse((sent.body as Buffer).toString()).name).toBe('Näher');
    expect((await job(id)).state).toBe('running');
    await asNode(`leases/${task.lease}/heartbeat`, { progress: 0.5 }).expect(204);
    expect((await job(id)).progress).toBeCloseTo(0.5);
    await finish(task, 'one').then((r) => expect(r.status).toBe(204));
    expect(await job(id)).toMatchObject({ state: 'done', progress: 1, coreSeconds: 3, frames: { done: 1, all: 1 } });
    const [frame] = await frames(id);
    expect(frame).toMatchObject({
      state: 'done',
      node: 'north',
      attempts: 1,
      files: [{ name: 'lamp-room/v001/naher.0001.png', bytes: 3 }],
    });
    expect(frame!.log.map((l) => l.words)).toEqual(['taken by north', 'finished']);
    expect(readFileSync(join(folder, 'lamp-room/v001/naher.0001.png'), 'utf8')).toBe('one');
    // checksums as coreutils' sha256sum writes them
    const sums = (await server.api().get(`/api/lab/jobs/${id}/checksums`).expect(200)).text;
    expect(sums).toBe(`${createHash('sha256').update('one').digest('hex')}  lamp-room/v001/naher.0001.png\n`);
    const zip = await server
      .api()
      .get(`/api/lab/jobs/${id}/files`)
      .buffer(true)
      .parse((res, done) => {
        const parts: Buffer[] = [];
        res.on('data', (d: Buffer) => parts.push(d)).on('end', () => done(null, Buffer.concat(parts)));
      });
    expect((zip.body as Buffer).subarray(0, 2).toString()).toBe('PK');
    expect((zip.body as Buffer).includes('lamp-room/v001/naher.0001.png')).toBe(true);
  });
  it('is a version of its own each time, and no file is written over another, whoever made it', async () => {
    mkdirSync(join(folder, 'lamp-room/v003'), { recursive: true });
    writeFileSync(join(folder, 'lamp-room/v003/naher.0001.png'), 'an artist’s own');
    expect([(await send()).version, (await send()).version]).toEqual([2, 4]);
    expect(readFileSync(join(folder, 'lamp-room/v003/naher.0001.png'), 'utf8')).toBe('an artist’s own');
  });
  it('sent twice at once is two versions', async () => {
    const both = await Promise.all([send({ name: 'Twice' }), send({ name: 'Twice' })]);
    expect(both.map((j) => j.version).sort()).toEqual([1, 2]);
  });
  it.each([
    ['a template that leaves its folder', { template: '../{version}' }, 'template', /\.\./],
    ['one that tells nothing apart', { source: { kind: 'turn', setup: 'TURN' }, template: '{job}/{version}' }, 'template', /\{frame\}/],
    ['nothing to write', { outputs: { png: 0, exr: false } }, 'outputs.png', /PNG or an EXR/],
    ['passes without a file for them', { outputs: { png: 8, exr: false, passes: ['depth'] } }, 'outputs.passes', /EXR/],
    ['a setup without a turntable', { source: { kind: 'turn', setup: 'SETUP' } }, 'source.setup', /no turntable/],
    ['too many pixels', { quality: { ...quality, side: 100_000 } }, 'quality.side', /8192/],
  ])('is refused with field and reason: %s', async (_, more, field, reason) => {
    const turn = (await server.created({ turntable: TURNTABLE_DEFAULTS })).id;
    const text = JSON.stringify(wish(more)).replace('TURN', turn).replace('SETUP', setup);
    const said = problem(await server.api().post('/api/lab/jobs').set('Content-Type', 'application/json').send(text), 422);
    expect(said.errors).toEqual([{ field, reason: expect.stringMatching(reason) as string }]);
  });
  it('of what is not there is not sent', async () => {
    problem(
      await server
        .api()
        .post('/api/lab/jobs')
        .send(wish({ source: { kind: 'setups', setups: [NOWHERE] } })),
      404,
    );
    problem(
      await server
        .api()
        .post('/api/lab/jobs')
        .send(wish({ source: { kind: 'balance', job: NOWHERE, balance: { lights: {} } } })),
      404,
    );
    problem(await server.api().get(`/api/lab/jobs/${NOWHERE}`), 404);
    problem(await server.api().get(`/api/lab/jobs/${NOWHERE}/frames`), 404);
  });
  it('of a turntable has all its frames, the first one first; the more urgent job goes before', async () => {
    const turn = (await server.created({ name: 'Turn', turntable: { ...TURNTABLE_DEFAULTS, frames: 4, before: 0, after: 0 } })).id;
    const slow = await send({ name: 'Slow', source: { kind: 'turn', setup: turn } });
    expect(slow.frames.all).toBe(4);
    const first = (await take())!;
    expect([first.frame, first.turn?.frames]).toEqual([1, 4]);
    await send({ name: 'Urgent', priority: 5 });
    expect([(await take())!.job, (await take())!.frame, (await take())!.frame]).toEqual(['Urgent', 2, 3]);
  });
});

describe('a frame', () => {
  it('that fails is tried again, then dead with its reason, and lives again when that is wished', async () => {
    const { id } = await send({ name: 'Fails' });
    for (let times = 1; times <= 3; times++) {
      const task = (await take())!;
      await asNode(`leases/${task.lease}/failed`, { reason: 'the mesh is gone' }).expect(204);
      expect(await take()).toBeUndefined();
      await soon();
    }
    expect(await take()).toBeUndefined();
    expect(await job(id)).toMatchObject({ state: 'unfinished', frames: { dead: 1 } });
    expect((await frames(id))[0]!.log.at(-2)!.words).toBe('failed: the mesh is gone');
    await server.api().post(`/api/lab/jobs/${id}/again`).expect(200);
    await finish((await take())!, 'at last').then((r) => expect(r.status).toBe(204));
    expect((await job(id)).state).toBe('done');
  });
  it('is lost by a node that is not heard of, and given to the next; what the first sends late is not taken', async () => {
    const { id } = await send({ name: 'Lost' });
    const task = (await take())!;
    expect(await server.lab!.leases.sweep()).toBe(0);
    await server.db.query("UPDATE render_frame SET heard_at = now() - interval '61 seconds' WHERE lease = $1", [task.lease]);
    expect(await server.lab!.leases.sweep()).toBe(1);
    problem(await asNode(`leases/${task.lease}/heartbeat`, { progress: 0.9 }), 410);
    problem(await finish(task, 'late'), 410);
    const other = (await newNode('south')).token,
      own = await hello(other);
    await soon();
    const again = taskSchema.parse((await asNode('lease', {}, other, own)).body);
    await finish(again, 'in time', other, own).then((r) => expect(r.status).toBe(204));
    problem(await finish(again, 'twice', other, own), 410);
    const [frame] = await frames(id);
    expect(readFileSync(join(folder, frame!.files[0]!.name), 'utf8')).toBe('in time');
    expect(frame!.attempts).toBe(2);
  });
  it('is given back at once when its node was started anew', async () => {
    await send({ name: 'Anew' });
    const task = (await take())!;
    running = await hello();
    await soon();
    expect((await take())!.frame).toBe(task.frame);
  });
  it('whose files never came is not taken', async () => {
    await send({ name: 'No files' });
    const { lease } = (await take())!;
    const sha256 = 'ab'.repeat(32);
    const said = problem(
      await asNode(`leases/${lease}/done`, { seconds: 1, coreSeconds: 1, files: [{ ending: 'png', sha256 }], picture: sha256 }),
      422,
    );
    expect(said.errors![0]!.reason).toContain(sha256);
  });
  it('that the queue has lost is put back into it', async () => {
    const { id } = await send({ name: 'Forgotten' });
    await server.db.query('DELETE FROM pgboss.job');
    expect(await take()).toBeUndefined();
    expect(await server.lab!.jobs.mend()).toBe(1);
    expect(await server.lab!.jobs.mend()).toBe(0);
    await finish((await take())!, 'found').then((r) => expect(r.status).toBe(204));
    expect((await job(id)).state).toBe('done');
  });
});

describe('a job that is', () => {
  const change = (id: string, body: object) => server.api().patch(`/api/lab/jobs/${id}`).send(body);
  it('paused finishes what runs and begins nothing; let go on, it loses and repeats nothing', async () => {
    const turn = (await server.created({ name: 'Turn', turntable: { ...TURNTABLE_DEFAULTS, frames: 3, before: 0, after: 0 } })).id;
    const { id } = await send({ name: 'Paused', source: { kind: 'turn', setup: turn } });
    const task = (await take())!;
    expect((await change(id, { state: 'paused' }).expect(200)).body.state).toBe('paused');
    expect(await take()).toBeUndefined();
    await finish(task, 'ran').then((r) => expect(r.status).toBe(204));
    await change(id, { state: 'going' }).expect(200);
    const rest = [(await take())!, (await take())!];
    expect(rest.map((t) => t.frame)).toEqual([2, 3]);
    expect(await take()).toBeUndefined();
  });
  it('paused does not begin again what fails meanwhile', async () => {
    const { id } = await send({ name: 'Paused and failed' });
    const task = (await take())!;
    await change(id, { state: 'paused' }).expect(200);
    await asNode(`leases/${task.lease}/failed`, { reason: 'no room' }).expect(204);
    await soon();
    expect(await take()).toBeUndefined();
    await change(id, { state: 'going' }).expect(200);
    expect((await take())!.frame).toBe(task.frame);
  });
  it('cancelled takes nothing any more, and does not begin again', async () => {
    const { id } = await send({ name: 'Cancelled' });
    const task = (await take())!;
    await change(id, { state: 'cancelled' }).expect(200);
    problem(await asNode(`leases/${task.lease}/heartbeat`, { progress: 0.5 }), 410);
    expect(await job(id)).toMatchObject({ state: 'cancelled', frames: { cancelled: 1 } });
    problem(await change(id, { state: 'going' }), 409);
    problem(await change(id, {}), 422);
    await server.api().delete(`/api/lab/jobs/${id}`).expect(204);
    problem(await server.api().get(`/api/lab/jobs/${id}`), 404);
  });
  it('going is not taken off the list', async () => {
    const { id } = await send({ name: 'Going' });
    problem(await server.api().delete(`/api/lab/jobs/${id}`), 409);
  });
  it('finished with its lights is balanced anew without a ray, as a version of its own', async () => {
    const { id } = await send({ name: 'Grade', outputs: { png: 8, exr: true } });
    problem(
      await server
        .api()
        .post('/api/lab/jobs')
        .send(wish({ source: { kind: 'balance', job: id, balance: { lights: {} } } })),
      422,
    );
    const { lease } = (await take())!;
    const sha256 = await put(Buffer.from('films'));
    await asNode(`leases/${lease}/done`, { seconds: 1, coreSeconds: 1, files: [{ ending: 'exr', sha256 }], picture: sha256 }).expect(204);
    const light = Object.keys(server.setup.lights.items)[0]!;
    const balance = { lights: { [light]: { stops: -2.5 }, gone: { stops: 1 } } };
    const was = server.setup.lights.items[light]!.stops;
    await send({ name: 'Grade', source: { kind: 'balance', job: id, balance } });
    const task = (await take())!;
    expect(task.films).toBe(sha256);
    const bytes = readFileSync(server.blobs.path(task.setup), 'utf8');
    const now = JSON.parse(bytes) as { lights: { items: Record<string, Patch> } };
    expect([now.lights.items[light]!['stops'], now.lights.items['gone']]).toEqual([was - 2.5, undefined]);
    problem(
      await server
        .api()
        .post('/api/lab/jobs')
        .send(wish({ source: { kind: 'balance', job: id, balance: { lights: { [light]: { place: {} } } } } })),
      422,
    );
  });
});

describe('a node', () => {
  it('without a token, with a forged one, or one that was taken back, is not heard', async () => {
    problem(await server.api().post('/api/node/lease').send({}), 401);
    problem(await asNode('lease', {}, 'plinket-forged'), 401);
    problem(await asNode('lease', {}, `${token}x`), 401);
    const { id, token: short } = await newNode('short');
    const own = await hello(short);
    await asNode('lease', {}, short, own).expect(204);
    await server.api().delete(`/api/lab/nodes/${id}`).expect(204);
    problem(await asNode('lease', {}, short, own), 401);
    problem(await server.api().delete(`/api/lab/nodes/${id}`), 404);
    // tokens are kept as hashes only
    expect(JSON.stringify(await server.db.query('SELECT * FROM render_node'))).not.toContain(token);
  });
  it('of another version is refused with its reason', async () => {
    const said = problem(await asNode('hello', { version: '0', process: randomUUID(), cores: 1 }), 409);
    expect(said.detail).toContain(`version ${LAB_VERSION}, the node 0`);
  });
  it('has a token of its own: of two processes with one the later counts', async () => {
    const earlier = running;
    running = await hello();
    problem(await asNode('lease', {}, token, earlier), 409);
    await asNode('lease').expect(204);
  });
  it('cannot finish another’s frame', async () => {
    await send({ name: 'Mine' });
    const task = (await take())!;
    const other = (await newNode('other')).token,
      own = await hello(other);
    problem(await finish(task, 'theirs', other, own), 410);
  });
  it('is listed with what it does', async () => {
    await send({ name: 'Listed' });
    const task = (await take())!;
    const { items } = nodeListSchema.parse((await server.api().get('/api/lab/nodes').expect(200)).body);
    expect(items.find((n) => n.name === 'north')).toMatchObject({ here: true, cores: 2, works: 'Listed · Näher · 1' });
    await asNode('bye').expect(204);
    await soon();
    expect((await take())!.frame).toBe(task.frame);
  });
  it('is let in by its token where people sign in for the rest', async () => {
    const { app, lab } = createServer({
      db: server.db,
      blobs: server.blobs,
      readers: server.readers,
      log: silent,
      people: { secret: 'signs sessions' },
      lab: { queue: new FrameQueue(server.db, silent), folder },
    });
    problem(await request(app).get('/api/lab/jobs'), 401);
    problem(await request(app).post('/api/node/lease').send({}), 401);
    await request(app).post('/api/node/lease').set('Authorization', `Bearer ${token}`).set('X-Process', running).send({}).expect(204);
    await lab!.close();
  });
});

describe('what jobs need', () => {
  it('stays when the store is swept', async () => {
    const { id } = await send({ name: 'Swept' });
    const task = (await take())!;
    const [file, picture] = [await put(Buffer.from('kept')), await put(Buffer.from('kept, small'))];
    const done = { seconds: 2, coreSeconds: 3, files: [{ ending: 'png', sha256: file }], picture };
    await asNode(`leases/${task.lease}/done`, done).expect(204);
    const needed = await neededBlobs(server.db.manager),
      [frame] = await frames(id);
    expect([task.setup, file!, picture!].map((sha) => needed.has(sha))).toEqual([true, true, true]);
    expect(existsSync(join(folder, frame!.files[0]!.name))).toBe(true);
    // the same file under two names: no room is taken twice
    expect(statSync(join(folder, frame!.files[0]!.name)).ino).toBe(statSync(server.blobs.path(frame!.files[0]!.sha256)).ino);
  });
});
