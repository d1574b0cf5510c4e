import { afterEach, describe, expect, it } from '@jest/globals';
import { plainFilmMath, plainKernel } from '@plinket/kernel';
import { Tracer, type ReadJob, type TraceResult } from '@plinket/core';
import { Cancelled, render, serveTracing, type FromWorker, type ToWorker } from './index.ts';
import { loadKernel } from './node.ts';
import { joinReads, splitRead } from './reads.ts';
import { bytes, options, poolOf, Ports, rendered, scene } from './testing.ts';

const ports = new Ports();
afterEach(() => ports.close());

const grid = (n: number): ReadJob => ({
  points: Float32Array.from({ length: n * 3 }, (_, i) => (i % 3 === 1 ? 0.5 : ((i * 7) % 23) / 23 - 0.5)),
  normals: Float32Array.from({ length: n * 3 }, (_, i) => (i % 3 === 2 ? 1 : 0)),
  lights: scene.lights,
  samples: 4,
  seed: 1,
});

describe('readings', () => {
  it('are shared out by points, and put together as if one had done it', () => {
    const job = grid(700),
      tracer = new Tracer(plainKernel(scene.geometry.mesh), scene.geometry);
    const parts = splitRead(job, 3);
    expect(parts).toHaveLength(3);
    expect(parts.reduce((n, p) => n + p.points.length, 0)).toBe(2100);
    const whole = tracer.read(job),
      joined = joinReads(
        job,
        parts.map((p) => tracer.read(p)),
      );
    expect([...joined.lit]).toEqual([...whole.lit]);
    expect([...joined.open]).toEqual([...whole.open]);
    expect([...joined.blockers]).toEqual([...whole.blockers]);
    expect(joined.rays).toBe(whole.rays);
    // few points are not worth it, none are none
    expect(splitRead(grid(20), 8)).toHaveLength(1);
    expect(
      joinReads(
        grid(0),
        splitRead(grid(0), 8).map((p) => tracer.read(p)),
      ).lit,
    ).toHaveLength(0);
  });
  it('come from the workers beside tiles, whose bytes stay the same', async () => {
    const pool = poolOf([ports.local(), ports.local()], loadKernel(false));
    const picture = rendered(pool, scene);
    const read = await pool.read(grid(300));
    const alone = new Tracer(plainKernel(scene.geometry.mesh), scene.geometry).read(grid(300));
    for (const [i, v] of alone.lit.entries()) expect(read.lit[i]).toBeCloseTo(v, 4);
    expect(bytes(await picture)).toEqual(bytes(await rendered(poolOf([ports.local()], loadKernel(false)), scene)));
  });
  it('wait for the geometry that is coming, and are given up when another comes', async () => {
    const pool = poolOf([ports.local()], loadKernel(false));
    const early = pool.read(grid(5));
    pool.setGeometry({ ...scene.geometry });
    await expect(early).rejects.toBeInstanceOf(Cancelled);
    const waiting = pool.read(grid(5));
    expect((await waiting).lit.length).toBe(scene.lights.length * 15);
  });
  it('go before the tiles that wait at a worker', () => {
    const order: string[] = [];
    const turns: (() => void)[] = [];
    const kinds = new Map<number, string>();
    const handle = serveTracing(
      (m: FromWorker) => m.type === 'done' && order.push(kinds.get(m.id)!),
      (run) => turns.push(run),
    );
    handle({ type: 'geometry', geometry: scene.geometry, seat: 0 } satisfies ToWorker);
    const tile = { x: 0, y: 0, width: 2, height: 2 };
    const trace = { camera: scene.camera, width: 2, height: 2, tile, from: 0, to: 1, seed: 1, bounces: 0, lights: [] };
    [1, 2, 3].forEach((id) => {
      kinds.set(id, `tile ${id}`);
      handle({ type: 'job', id, kind: 'trace', job: trace });
    });
    turns.shift()!();
    kinds.set(4, 'reading');
    handle({ type: 'job', id: 4, kind: 'read', job: grid(1) });
    while (turns.length) turns.shift()!();
    expect(order).toEqual(['tile 1', 'reading', 'tile 2', 'tile 3']);
  });
  it('a picture that is to be there at once comes between the slices of a tile, whose sums stay what they are', () => {
    const order: number[] = [];
    const results = new Map<number, TraceResult>();
    const turns: (() => void)[] = [];
    const handle = serveTracing(
      (m: FromWorker) => {
        if (m.type !== 'done') return;
        order.push(m.id);
        results.set(m.id, m.result as TraceResult);
      },
      (run) => turns.push(run),
    );
    handle({ type: 'geometry', geometry: scene.geometry, seat: 0 } satisfies ToWorker);
    const tile = { x: 0, y: 0, width: 4, height: 4 };
    const { camera, lights } = scene;
    const trace = { camera, width: 4, height: 4, tile, from: 0, to: 6, seed: 1, bounces: 1, lights, guides: true };
    handle({ type: 'job', id: 1, kind: 'trace', job: trace });
    turns.shift()!();
    expect(order).toEqual([]);
    handle({ type: 'job', id: 2, kind: 'trace', job: trace });
    handle({ type: 'job', id: 3, kind: 'trace', job: { ...trace, to: 1, shallow: true } });
    while (turns.length) turns.shift()!();
    expect(order).toEqual([3, 1, 2]);
    const [one, two] = [results.get(1)!, results.get(2)!];
    expect(one.films).toEqual(two.films);
    const whole = new Tracer(plainKernel(scene.geometry.mesh), scene.geometry).trace(trace);
    one.films.forEach((v, i) => expect(v).toBeCloseTo(whole.films[i]!, 4));
    one.squares.forEach((v, i) => expect(v).toBeCloseTo(whole.squares[i]!, 3));
    one.guides!.sums.forEach((v, i) => expect(v).toBeCloseTo(whole.guides!.sums[i]!, 3));
    expect(one.guides!.ids).toEqual(whole.guides!.ids);
    expect(one.alpha).toEqual(whole.alpha);
    expect(one.rays).toEqual(whole.rays);
    expect(whole.films.some((v) => v > 0)).toBe(true);
  });
  it('tiles that are dropped are given back, readings and pictures that are to be there at once are done', () => {
    const told: string[] = [];
    const turns: (() => void)[] = [];
    const handle = serveTracing(
      (m: FromWorker) => {
        if (m.type === 'done' || m.type === 'dropped') told.push(`${m.type} ${m.id}`);
      },
      (run) => turns.push(run),
    );
    handle({ type: 'geometry', geometry: scene.geometry, seat: 0 } satisfies ToWorker);
    const tile = { x: 0, y: 0, width: 2, height: 2 };
    const { camera, lights } = scene;
    const trace = { camera, width: 2, height: 2, tile, from: 0, to: 6, seed: 1, bounces: 0, lights };
    handle({ type: 'job', id: 1, kind: 'trace', job: trace });
    handle({ type: 'job', id: 2, kind: 'trace', job: trace });
    turns.shift()!();
    handle({ type: 'job', id: 3, kind: 'read', job: grid(1) });
    handle({ type: 'job', id: 4, kind: 'trace', job: { ...trace, to: 1, shallow: true } });
    handle({ type: 'drop' });
    while (turns.length) turns.shift()!();
    expect(told).toEqual(['dropped 1', 'dropped 2', 'done 3', 'done 4']);
    // nothing is left to be done, and what comes next is
    handle({ type: 'drop' });
    handle({ type: 'job', id: 5, kind: 'trace', job: { ...trace, to: 1 } });
    while (turns.length) turns.shift()!();
    expect(told.at(-1)).toBe('done 5');
  });
});

describe('rendering to the end', () => {
  it('answers finished films, and says how far it has come', async () => {
    const told: number[] = [];
    const how = {
      pool: poolOf([ports.local()], loadKernel(false)),
      math: plainFilmMath(),
      progress: (done: number) => void told.push(done),
    };
    const { coarse: _, ...wish } = options;
    const set = await render(scene, wish, how);
    expect(set.progress(options.samples)).toEqual({ samples: 6, most: 6, done: 1 });
    expect(told.at(-1)).toBe(1);
    expect(told).toEqual([...told].sort((a, b) => a - b));
    expect([...set.films.keys()]).toEqual(['key', 'fill', 'dome']);
    expect([...set.films.values()].every((f) => f.coarse === undefined)).toBe(true);
  });
  it('can be ended before its time, and gives back what it took', async () => {
    const { coarse: _, ...wish } = options;
    const math = plainFilmMath(),
      ending = new AbortController();
    const work = render(
      scene,
      { ...wish, samples: 4096 },
      { pool: poolOf([ports.local()], loadKernel(false)), math, signal: ending.signal },
    );
    setTimeout(() => ending.abort(new Error('Stop.')), 20);
    await expect(work).rejects.toThrow('Stop.');
    expect(math.used).toBe(0);
  });
});
