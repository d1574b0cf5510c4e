import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { fileURLToPath } from 'node:url';
import { afterEach, describe, expect, it } from '@jest/globals';
import { applyPatch, compile, dome, noiseOf, setupGains, type Scene, type Setup, type Tile } from '@plinket/core';
import { setupWith, panelLight } from '../../core/src/testing/setups.ts';
import { Pool, Renderer, serveTracing, type FromWorker, type RenderOptions, type ToWorker, type WorkerPort } from './index.ts';
import { loadFilmMath, loadKernel } from './node.ts';

const setup: Setup = setupWith({
  key: panelLight(),
  fill: panelLight({ name: 'Fill', place: { azimuth: -60, elevation: 10, distance: 2, aim: [0, 0, 0] } }),
  dome: dome({ name: 'Dome' }),
});
const scene = compile(setup, () => undefined);
const options: RenderOptions = { width: 96, height: 80, samples: 6, seed: 1, bounces: 2, coarse: false };

// what a test leaves running stops with it
const ports: WorkerPort[] = [];
afterEach(() => ports.splice(0).forEach((p) => p.close()));

/** A worker in this thread, which answers a turn later, or so many milliseconds after its last answer. */
function localPort(slow = 0): WorkerPort & { jobs: number } {
  let hear: (m: FromWorker) => void = () => undefined;
  const handle = serveTracing((m) => hear(m));
  let closed = false,
    free = 0;
  const port = {
    jobs: 0,
    post: (m: ToWorker) => {
      if (m.type === 'trace') port.jobs++;
      free = Math.max(free, performance.now()) + slow;
      setTimeout(() => closed || handle(m), free - performance.now());
    },
    listen: (h: (m: FromWorker) => void) => void (hear = h),
    close: () => void (closed = true),
  };
  ports.push(port);
  return port;
}

/** A pool of workers that are there already. */
const poolOf = (workers: WorkerPort[], kernel: ReturnType<typeof loadKernel>): Pool =>
  new Pool(() => workers.shift()!, workers.length, kernel);

function rendered(pool: Pool, what: Scene, how = options): Promise<Renderer> {
  const renderer = new Renderer(pool);
  return new Promise((resolve, reject) => {
    renderer.onError = reject;
    renderer.onProgress = () => renderer.finished && resolve(renderer);
    renderer.update(what, how);
  });
}
const bytes = (r: Renderer) =>
  [...r.films.values()].map((f) =>
    createHash('sha256')
      .update(Buffer.from(f.film.diffuse.buffer, f.film.diffuse.byteOffset, f.film.diffuse.byteLength))
      .digest('hex'),
  );

describe('the engine', () => {
  it('gives the same bytes with one thread, with two, and with memory that is not shared', () => {
    // real worker threads in a process of their own: Jest's sandbox cannot hand a compiled module to a thread
    const fixture = fileURLToPath(new URL('./threads.fixture.ts', import.meta.url));
    const run = spawnSync(process.execPath, ['--no-warnings', '--import', import.meta.resolve('tsx'), fixture], { encoding: 'utf8' });
    expect(run.stderr).toBe('');
    const [one, two, own] = JSON.parse(run.stdout) as string[][];
    expect(two).toEqual(one);
    expect(own).toEqual(one);
    expect(new Set(one).size).toBe(3);
  });

  it('traces a moved light alone, and to the same bytes as from the start', async () => {
    const port = localPort();
    const pool = poolOf([port], loadKernel(false));
    const renderer = await rendered(pool, scene);
    const key = renderer.films.get('key')!.film,
      fill = renderer.films.get('fill')!.film;
    const moved = compile(applyPatch(setup, { lights: { items: { key: { place: { azimuth: 70 } } } } }), () => undefined, scene);
    const before = { ...pool.rays };
    await new Promise<void>((resolve) => {
      renderer.onProgress = () => renderer.finished && resolve();
      renderer.update(moved, options);
    });
    expect(renderer.films.get('fill')!.film).toBe(fill);
    expect(renderer.films.get('key')!.film).not.toBe(key);
    const retraced = pool.rays.shadow - before.shadow;
    expect(retraced).toBeGreaterThan(0);
    expect(retraced).toBeLessThan(before.shadow * 0.7);
    const fresh = await rendered(poolOf([localPort()], loadKernel(false)), moved);
    expect(bytes(renderer)).toEqual(bytes(fresh));
  });

  it('traces no ray when only level, colour or exposure change', async () => {
    const pool = poolOf([localPort()], loadKernel(false));
    const renderer = await rendered(pool, scene);
    const before = { ...pool.rays };
    const quieter = compile(
      applyPatch(setup, { lights: { items: { key: { stops: -2, kelvin: 3000, on: false } } }, camera: { ev: 3 } }),
      () => undefined,
      scene,
    );
    renderer.update(quieter, options);
    await new Promise((resolve) => setTimeout(resolve, 60));
    expect(pool.rays).toEqual(before);
    expect(renderer.finished).toBe(true);
  });

  it('shows a coarse picture first and the old one until then', async () => {
    const pool = poolOf([localPort()], loadKernel(false));
    const renderer = new Renderer(pool);
    const seen: boolean[] = [];
    await new Promise<void>((resolve) => {
      renderer.onProgress = () => {
        seen.push(renderer.presentable);
        if (renderer.presentable) resolve();
      };
      renderer.update(scene, { ...options, coarse: true, width: 640, height: 400 });
    });
    expect(renderer.progress().samples).toBe(0);
    expect(seen.length).toBeGreaterThan(1);
    const old = renderer.shown('key')!;
    renderer.update(
      compile(applyPatch(setup, { lights: { items: { key: { width: 2 } } } }), () => undefined, scene),
      { ...options, coarse: true, width: 640, height: 400 },
    );
    expect(renderer.shown('key')!.coarse).toBe(old.coarse);
    await new Promise<void>((resolve) => (renderer.onProgress = () => renderer.presentable && resolve()));
    expect(renderer.shown('key')!.coarse).not.toBe(old.coarse);
  });

  describe('under a hand that never rests', () => {
    const size = { ...options, coarse: true, width: 320, height: 256 };
    const at = (azimuth: number, stops = 0) =>
      compile(applyPatch(setup, { lights: { items: { key: { stops, place: { azimuth } } } } }), () => undefined, scene);
    /** A renderer with its first picture, as wish 1. */
    const begun = async (slow = 0) => {
      const port = localPort(slow);
      const pool = poolOf([port], loadKernel(false));
      const renderer = new Renderer(pool);
      await new Promise<void>((resolve) => {
        renderer.onProgress = () => renderer.presentable && resolve();
        renderer.update(at(0), size, 1);
      });
      expect(renderer.shownMark).toBe(1);
      return { renderer, port, pool };
    };

    it('pictures come all the while: the one on its way is finished, then the newest wish is taken', async () => {
      // six tiles take longer than the hand
      const { renderer } = await begun(4);
      const seen = new Set<number>();
      renderer.onProgress = () => void seen.add(renderer.shownMark);
      for (let mark = 2; mark <= 120; mark++) {
        renderer.update(at(mark), size, mark);
        await new Promise((resolve) => setTimeout(resolve, 8));
      }
      // several of them while the hand moved, in order, and not each one
      const marks = [...seen];
      expect(marks.length).toBeGreaterThan(3);
      expect(marks.length).toBeLessThan(90);
      expect(marks).toEqual([...marks].sort((a, b) => a - b));
      await new Promise<void>((resolve) => (renderer.onProgress = () => renderer.shownMark === 120 && resolve()));
      const key = renderer.films.get('key')!;
      expect(key.key).toBe(at(120).lights.find((l) => l.id === 'key')!.key);
    });
    it('what only balances waits for nothing', async () => {
      const { renderer } = await begun();
      renderer.update(at(20), size, 2);
      renderer.update(at(20, -2), size, 3);
      expect(renderer.shownMark).toBe(1);
      await new Promise<void>((resolve) => (renderer.onProgress = () => renderer.presentable && resolve()));
      expect(renderer.shownMark).toBe(3);
      renderer.update(at(20, 1), size, 4);
      expect(renderer.shownMark).toBe(4);
    });
    it('after a failure the next wish is taken at once: nothing would come that it could wait for', async () => {
      const { renderer, pool } = await begun();
      renderer.update(at(20), size, 2);
      const waited = renderer.films.get('key');
      renderer.update(at(40), size, 3);
      const waits = renderer.films.get('key') === waited;
      expect(waits).toBe(true);
      const told: string[] = [];
      renderer.onError = (e) => told.push(e.message);
      pool.onError(new Error('a worker died'));
      renderer.update(at(60), size, 4);
      expect(told).toEqual(['a worker died']);
      expect(renderer.films.get('key') === waited).toBe(false);
    });
    it('another size does not wait either', async () => {
      const { renderer } = await begun();
      renderer.update(at(20), size, 2);
      const waited = renderer.films.get('key');
      renderer.update(at(40), size, 3);
      expect(renderer.films.get('key')).toBe(waited);
      renderer.update(at(40), { ...size, width: 64, height: 64 }, 4);
      expect(renderer.films.get('key')).not.toBe(waited);
      expect(renderer.films.get('key')!.film.width).toBe(64);
    });
    it('a coarse picture is handed out whole, so that its worker need not ask again', async () => {
      const { renderer, port } = await begun();
      await new Promise<void>((resolve) => (renderer.onProgress = () => renderer.progress().samples >= 1 && resolve()));
      const before = port.jobs;
      renderer.update(at(30), size, 2);
      // 80 × 64 pixels in tiles of 32
      expect(port.jobs - before).toBe(6);
    });
  });

  it('gives up what is not wanted any more: a new size starts at once', async () => {
    const port = localPort();
    const pool = poolOf([port], loadKernel(false));
    const renderer = new Renderer(pool);
    renderer.update(scene, { ...options, width: 640, height: 640, samples: 64 });
    await new Promise<void>((resolve) => (renderer.onProgress = resolve));
    const before = port.jobs;
    await new Promise<void>((resolve) => {
      renderer.onProgress = () => renderer.finished && resolve();
      renderer.update(scene, { ...options, width: 32, height: 32, samples: 1 });
    });
    // one tile of the new picture, and at most what was already under way
    expect(port.jobs - before).toBeLessThanOrEqual(3);
  });

  it('goes on when one tile is all there is: its passes follow each other', async () => {
    const renderer = await rendered(poolOf([localPort(), localPort()], loadKernel(false)), scene, {
      ...options,
      width: 16,
      height: 16,
      samples: 40,
    });
    expect(renderer.progress().samples).toBe(40);
  });

  it('lets a tile rest once its noise is low enough, and asks again when the balance changes', async () => {
    let enough = true;
    const adaptive = { enough: 1, least: 2, noise: (tile: { x: number }) => (enough && tile.x === 0 ? 0.5 : 2) };
    const renderer = await rendered(poolOf([localPort()], loadKernel(false)), scene, {
      ...options,
      width: 64,
      height: 32,
      samples: 8,
      adaptive,
    });
    const film = renderer.films.get('key')!.film;
    expect(film.counts[0]).toBe(2);
    expect(film.counts[63]).toBe(8);
    enough = false;
    renderer.rejudge();
    await new Promise<void>((resolve) => {
      renderer.onProgress = () => renderer.finished && resolve();
      renderer.resume();
    });
    expect(film.counts[0]).toBe(8);
  });

  it('writes the first surfaces down once, with the first samples', async () => {
    const port = localPort();
    const pool = poolOf([port], loadKernel(false));
    const renderer = await rendered(pool, scene, { ...options, samples: 20 });
    const { guides } = renderer;
    expect(guides.counts[0]).toBe(16);
    expect(guides.mean(renderer.guides.width * 30 + 10, 10)).toBeGreaterThan(0.5);
    const moved = compile(applyPatch(setup, { lights: { items: { key: { width: 2 } } } }), () => undefined, scene);
    await new Promise<void>((resolve) => {
      renderer.onProgress = () => renderer.finished && resolve();
      renderer.update(moved, { ...options, samples: 20 });
    });
    expect(renderer.guides).toBe(guides);
    expect(guides.counts[0]).toBe(16);
  });

  it('builds again only what moved, in memory that is shared', async () => {
    const ball = (x: number) => ({
      items: {
        b: {
          kind: 'ball' as const,
          finish: 'grey' as const,
          name: 'B',
          visible: true,
          radius: 0.2,
          position: [x, 1, 0] as [number, number, number],
        },
      },
    });
    const first = compile({ ...setup, props: ball(0) }, () => undefined);
    const pool = poolOf([localPort()], loadKernel(true));
    const renderer = await rendered(pool, first);
    const second = compile({ ...setup, props: ball(0.5) }, () => undefined, first);
    await new Promise<void>((resolve) => {
      renderer.onProgress = () => renderer.finished && resolve();
      renderer.update(second, options);
    });
    expect(pool.built).toEqual({ parts: 1, wholes: 1 });
    const fresh = await rendered(
      poolOf([localPort()], loadKernel(false)),
      compile({ ...setup, props: ball(0.5) }, () => undefined),
    );
    expect(bytes(renderer)).toEqual(bytes(fresh));
  });

  it('gives all memory back when it is closed', async () => {
    const math = loadFilmMath();
    const renderer = new Renderer(poolOf([localPort()], loadKernel(false)), math);
    const before = math.used;
    await new Promise<void>((resolve) => {
      renderer.onProgress = () => renderer.finished && resolve();
      renderer.update(scene, { ...options, coarse: true });
    });
    expect(math.used).toBeGreaterThan(before);
    for (let i = 0; i < 5; i++)
      renderer.update(
        compile(applyPatch(setup, { lights: { items: { key: { width: 1 + i / 10 } } } }), () => undefined, scene),
        { ...options, coarse: true },
      );
    renderer.close();
    expect(math.used).toBe(before);
  });

  it('holds and resumes', async () => {
    const port = localPort();
    const renderer = new Renderer(poolOf([port], loadKernel(false)));
    renderer.hold();
    renderer.update(scene, options);
    await new Promise((resolve) => setTimeout(resolve, 50));
    expect(port.jobs).toBe(0);
    renderer.resume();
    await new Promise<void>((resolve) => (renderer.onProgress = () => renderer.finished && resolve()));
    expect(renderer.progress()).toMatchObject({ done: 1, samples: 6 });
  });

  it('tells why a worker failed', async () => {
    const port = localPort();
    const pool = poolOf([port], loadKernel(false));
    const told = new Promise<Error>((resolve) => (pool.onError = resolve));
    pool.setGeometry({ ...scene.geometry, mesh: { ...scene.geometry.mesh, indices: Uint32Array.from([0, 1, 9999]) } });
    expect((await told).message).toContain('Triangle 0 uses vertex 9999');
  });

  it('works without SIMD on the plain twin', async () => {
    const renderer = await rendered(poolOf([localPort()], { module: undefined, shared: false }), scene, {
      ...options,
      width: 24,
      height: 24,
      samples: 1,
    });
    expect(renderer.films.get('key')!.film.diffuse.some((v) => v > 0)).toBe(true);
  });
});

/** The same picture asked for once more, until it is finished. */
const triedAgain = (renderer: Renderer): Promise<void> =>
  new Promise((resolve, reject) => {
    renderer.onError = reject;
    renderer.onProgress = () => renderer.finished && resolve();
    renderer.update(scene, options);
  });

describe('workers that die', () => {
  /** A worker that dies, as one in a browser or a thread does, at its n-th job. */
  function mortal(dies: number, about: (m: ToWorker) => boolean = (m) => m.type === 'trace'): WorkerPort {
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
    const isTile = (m: ToWorker) => deadly && m.type === 'trace' && m.job.tile.x === 0 && m.job.tile.y === 0;
    const pool = poolStarting(() => mortal(1, isTile), 2);
    const renderer = new Renderer(pool);
    const failure = await new Promise<Error>((resolve) => {
      renderer.onError = resolve;
      renderer.update(scene, options);
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
      renderer.update(scene, options);
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
        if (broken && m.type === 'trace' && m.job.tile.x > 0)
          setTimeout(() => hear({ type: 'failed', id: m.id, message: 'a bad moment' }), 1);
        else port.post(m);
      },
    };
    const renderer = new Renderer(poolOf([failing], loadKernel(false)));
    const failure = await new Promise<Error>((resolve) => {
      renderer.onError = resolve;
      renderer.update(scene, options);
    });
    expect(failure.message).toBe('a bad moment');
    broken = false;
    await triedAgain(renderer);
    expect(bytes(renderer)).toEqual(bytes(await rendered(poolOf([localPort()], loadKernel(false)), scene)));
  });
});

describe('noise of haze', () => {
  it('counts: a picture of nothing but haze does not rest while it is noisy', async () => {
    const hazy = compile(
      setupWith({ key: panelLight() }, { stage: { ...setup.stage, kind: 'none' }, haze: { density: 0.3, anisotropy: 0.4 } }),
      () => undefined,
    );
    const gains = setupGains(setup);
    const judged: number[] = [];
    const renderer: Renderer = new Renderer(poolOf([localPort()], loadKernel(false)));
    await new Promise<void>((resolve, reject) => {
      renderer.onError = reject;
      renderer.onProgress = () => renderer.finished && resolve();
      const noise = (tile: Tile) => {
        const found = noiseOf([{ film: renderer.films.get('key')!.film, gain: gains['key']! }], tile, (y) => 255 * Math.min(1, y));
        judged.push(found);
        return found;
      };
      renderer.update(hazy, {
        width: 32,
        height: 32,
        samples: 16,
        seed: 1,
        bounces: 0,
        coarse: false,
        adaptive: { enough: 1e-9, least: 2, noise },
      });
    });
    expect(Math.min(...judged)).toBeGreaterThan(0);
    // and falls as samples come
    expect(judged.at(-1)!).toBeLessThan(judged[0]!);
  });
});
