import { afterEach, describe, expect, it } from '@jest/globals';
import { Pool, Renderer, type FromWorker, type ToWorker, type WorkerPort } from './index.ts';
import { loadKernel } from './node.ts';
import { bytes, options, poolOf, Ports, rendered, scene, update } from './testing.ts';

const ports = new Ports();
const localPort = () => ports.local();
afterEach(() => ports.close());

/** The same picture asked for once more, until it is finished. */
const triedAgain = (renderer: Renderer): Promise<void> =>
  new Promise((resolve, reject) => {
    renderer.onError = reject;
    renderer.onProgress = () => renderer.finished && resolve();
    update(renderer, scene, options);
  });

describe('workers that die', () => {
  /** A worker that dies, as one in a browser or a thread does, at its n-th job. */
  function mortal(dies: number, about: (m: ToWorker) => boolean = (m) => m.type === 'job'): WorkerPort {
    const port = localPort();
    let hear: (m: FromWorker) => void = () => undefined,
      n = 0;
    return {
      listen: (h) => port.listen((hear = h)),
      post: (m) => {
        if (about(m) && ++n === dies) setTimeout(() => (port.close(), hear({ type: 'died', message: 'out of memory' })), 1);
        else if (n < dies) port.post(m);
      },
      close: () => port.close(),
    };
  }
  const poolStarting = (start: (n: number) => WorkerPort, size: number) => {
    let n = 0;
    return new Pool(() => start(n++), size, loadKernel(false));
  };

  it('are started again with their geometry, and their jobs are done by others: the same bytes', async () => {
    const whole = await rendered(poolOf([localPort()], loadKernel(false)), scene, { ...options, coarse: true });
    // of three workers two die in the middle of mixed work, one of them twice
    const pool = poolStarting((n) => (n === 0 ? mortal(3) : n === 1 ? mortal(5) : n === 3 ? mortal(2) : localPort()), 3);
    const renderer = await rendered(pool, scene, { ...options, coarse: true });
    expect(pool.deaths).toBe(3);
    expect(bytes(renderer)).toEqual(bytes(whole));
  });
  it('over the same job again and again fail it, and trying again goes on where it stopped', async () => {
    let deadly = true;
    const isTile = (m: ToWorker) => deadly && m.type === 'job' && m.kind === 'trace' && m.job.tile.x === 0 && m.job.tile.y === 0;
    const pool = poolStarting(() => mortal(1, isTile), 2);
    const renderer = new Renderer(pool);
    const failure = await new Promise<Error>((resolve) => {
      renderer.onError = resolve;
      update(renderer, scene, options);
    });
    expect(failure.message).toContain('ended over the same work: out of memory');
    deadly = false;
    await triedAgain(renderer);
    expect(bytes(renderer)).toEqual(bytes(await rendered(poolOf([localPort()], loadKernel(false)), scene)));
  });
  it('before they ever did anything are not started for ever; the next picture tries anew', async () => {
    let started = 0,
      dead = true;
    const pool = poolStarting(() => {
      started++;
      return dead ? mortal(1, (m) => m.type === 'geometry') : localPort();
    }, 2);
    const renderer = new Renderer(pool);
    const failure = await new Promise<Error>((resolve) => {
      renderer.onError = resolve;
      update(renderer, scene, options);
    });
    expect(failure.message).toContain('end again and again');
    expect(started).toBe(6);
    dead = false;
    await triedAgain(renderer);
    expect(renderer.finished).toBe(true);
  });
  it('and a job that fails frees its tile: trying again does the rest', async () => {
    let broken = true;
    const port = localPort();
    let hear: (m: FromWorker) => void = () => undefined;
    const failing: WorkerPort = {
      ...port,
      listen: (h) => port.listen((hear = h)),
      post: (m) => {
        if (broken && m.type === 'job' && m.kind === 'trace' && m.job.tile.x > 0)
          setTimeout(() => hear({ type: 'failed', id: m.id, message: 'a bad moment' }), 1);
        else port.post(m);
      },
    };
    const renderer = new Renderer(poolOf([failing], loadKernel(false)));
    const failure = await new Promise<Error>((resolve) => {
      renderer.onError = resolve;
      update(renderer, scene, options);
    });
    expect(failure.message).toBe('a bad moment');
    broken = false;
    await triedAgain(renderer);
    expect(bytes(renderer)).toEqual(bytes(await rendered(poolOf([localPort()], loadKernel(false)), scene)));
  });
});
