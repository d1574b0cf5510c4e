import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { afterEach, describe, expect, it } from '@jest/globals';
import { applyPatch, compile, noiseOf, setupGains, type Tile } from '@plinket/core';
import { setupWith, panelLight } from '../../core/src/testing/setups.ts';
import { Renderer } from './index.ts';
import { loadFilmMath, loadKernel } from './node.ts';
import { bytes, options, poolOf, Ports, rendered, scene, setup, update } from './testing.ts';

// what a test leaves running stops with it
const ports = new Ports();
const localPort = (slow?: number) => ports.local(slow);
afterEach(() => ports.close());

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
    const key = renderer.set.films.get('key')!.film,
      fill = renderer.set.films.get('fill')!.film;
    const moved = compile(applyPatch(setup, { lights: { items: { key: { place: { azimuth: 70 } } } } }), () => undefined, scene);
    const before = { ...pool.rays };
    await new Promise<void>((resolve) => {
      renderer.onProgress = () => renderer.finished && resolve();
      update(renderer, moved, options);
    });
    expect(renderer.set.films.get('fill')!.film).toBe(fill);
    expect(renderer.set.films.get('key')!.film).not.toBe(key);
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
    update(renderer, quieter, options);
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
        seen.push(renderer.set.presentable);
        if (renderer.set.presentable) resolve();
      };
      update(renderer, scene, { ...options, coarse: true, width: 640, height: 400 });
    });
    expect(renderer.progress().samples).toBe(0);
    expect(seen.length).toBeGreaterThan(1);
    const old = renderer.set.shown('key')!;
    update(
      renderer,
      compile(applyPatch(setup, { lights: { items: { key: { width: 2 } } } }), () => undefined, scene),
      { ...options, coarse: true, width: 640, height: 400 },
    );
    expect(renderer.set.shown('key')!.coarse).toBe(old.coarse);
    await new Promise<void>((resolve) => (renderer.onProgress = () => renderer.set.presentable && resolve()));
    expect(renderer.set.shown('key')!.coarse).not.toBe(old.coarse);
  });

  describe('under a hand that never rests', () => {
    const size = { ...options, coarse: true, width: 320, height: 256 };
    const at = (azimuth: number, stops = 0) =>
      compile(applyPatch(setup, { lights: { items: { key: { stops, place: { azimuth } } } } }), () => undefined, scene);
    /** What came is heard, and a worker that waits for it does its next piece of work. */
    const turn = async (turns: (() => void)[] = []) => {
      await new Promise((resolve) => setTimeout(resolve, 1));
      turns.shift()?.();
    };
    /** A renderer with its first picture, as wish 1; `turns`: where its worker waits with what it has to do. */
    const begun = async (turns?: (() => void)[]) => {
      const port = ports.local(0, turns && ((run) => turns.push(run)));
      const pool = poolOf([port], loadKernel(false));
      const renderer = new Renderer(pool);
      update(renderer, at(0), size, 1);
      while (!renderer.set.presentable) await turn(turns);
      expect(renderer.shown).toBe(1);
      return { renderer, port, pool };
    };

    it('pictures come all the while: the one on its way is finished, then the newest wish is taken', async () => {
      // the hand moves once for each turn of the worker, and a picture takes six tiles
      const turns: (() => void)[] = [];
      const { renderer } = await begun(turns);
      const seen = new Set<number>();
      renderer.onProgress = () => void seen.add(renderer.shown);
      for (let mark = 2; mark <= 120; mark++) {
        update(renderer, at(mark), size, mark);
        await turn(turns);
      }
      // several of them while the hand moved, in order, and not each one
      const marks = [...seen];
      expect(marks.length).toBeGreaterThan(3);
      expect(marks.length).toBeLessThan(90);
      expect(marks).toEqual([...marks].sort((a, b) => a - b));
      while (renderer.shown < 120) await turn(turns);
      const key = renderer.set.films.get('key')!;
      expect(key.key).toBe(at(120).lights.find((l) => l.id === 'key')!.key);
    });
    it('what only balances waits for nothing', async () => {
      const { renderer } = await begun();
      update(renderer, at(20), size, 2);
      update(renderer, at(20, -2), size, 3);
      expect(renderer.shown).toBe(1);
      await new Promise<void>((resolve) => (renderer.onProgress = () => renderer.set.presentable && resolve()));
      expect(renderer.shown).toBe(3);
      update(renderer, at(20, 1), size, 4);
      expect(renderer.shown).toBe(4);
    });
    it('after a failure the next wish is taken at once: nothing would come that it could wait for', async () => {
      const { renderer, pool } = await begun();
      update(renderer, at(20), size, 2);
      const waited = renderer.set.films.get('key');
      update(renderer, at(40), size, 3);
      const waits = renderer.set.films.get('key') === waited;
      expect(waits).toBe(true);
      const told: string[] = [];
      renderer.onError = (e) => told.push(e.message);
      pool.fail(new Error('a worker died'));
      update(renderer, at(60), size, 4);
      expect(told).toEqual(['a worker died']);
      expect(renderer.set.films.get('key') === waited).toBe(false);
    });
    it('another size does not wait either', async () => {
      const { renderer } = await begun();
      update(renderer, at(20), size, 2);
      const waited = renderer.set.films.get('key');
      update(renderer, at(40), size, 3);
      expect(renderer.set.films.get('key')).toBe(waited);
      update(renderer, at(40), { ...size, width: 64, height: 64 }, 4);
      expect(renderer.set.films.get('key')).not.toBe(waited);
      expect(renderer.set.films.get('key')!.film.width).toBe(64);
    });
    it('a coarse picture is handed out whole, so that its worker need not ask again', async () => {
      const { renderer, port } = await begun();
      await new Promise<void>((resolve) => (renderer.onProgress = () => renderer.progress().samples >= 1 && resolve()));
      const before = port.jobs;
      update(renderer, at(30), size, 2);
      // 80 × 64 pixels of the coarse picture, all of its tiles at once
      expect(port.jobs - before).toBe(renderer.set.coarseTiles.length);
    });
  });

  it('gives up what is not wanted any more: a new size starts at once', async () => {
    const port = localPort();
    const pool = poolOf([port], loadKernel(false));
    const renderer = new Renderer(pool);
    update(renderer, scene, { ...options, width: 640, height: 640, samples: 64 });
    await new Promise<void>((resolve) => (renderer.onProgress = resolve));
    const before = port.jobs;
    await new Promise<void>((resolve) => {
      renderer.onProgress = () => renderer.finished && resolve();
      update(renderer, scene, { ...options, width: 32, height: 32, samples: 1 });
    });
    // one tile of the new picture, and at most what was already under way
    expect(port.jobs - before).toBeLessThanOrEqual(3);
  });

  it('held it traces coarse pictures only, one after the other, and goes on when it is let go', async () => {
    const port = localPort();
    const renderer = await rendered(poolOf([port], loadKernel(false)), scene, { ...options, coarse: true, samples: 2 });
    renderer.hold(true);
    const wide = (width: number) => compile(applyPatch(setup, { lights: { items: { key: { width } } } }), () => undefined, scene);
    for (const width of [2, 2.5]) {
      const before = port.jobs;
      update(renderer, wide(width), { ...options, coarse: true, samples: 2 });
      while (!renderer.set.presentable) await new Promise((resolve) => setTimeout(resolve, 2));
      await new Promise((resolve) => setTimeout(resolve, 30));
      expect(port.jobs - before).toBe(renderer.set.coarseTiles.length);
      expect(renderer.progress().samples).toBe(0);
    }
    renderer.hold(false);
    while (!renderer.finished) await new Promise((resolve) => setTimeout(resolve, 2));
    expect(renderer.progress().samples).toBe(2);
  });

  it('a hand has the tiles given back that are on their way, and does not wait for them; they end as they would have', async () => {
    const how = { ...options, coarse: true };
    // a turn of the worker comes only when the test lets it
    const turns: (() => void)[] = [];
    const pool = poolOf([ports.local(0, (run) => turns.push(run))], loadKernel(false));
    const renderer = new Renderer(pool);
    const moment = () => new Promise((resolve) => setTimeout(resolve, 2));
    const until = async (done: () => boolean) => {
      while (!done()) {
        await moment();
        turns.shift()?.();
      }
    };
    const mean = () => [...renderer.set.films.keys()].map((id) => renderer.set.meanSamplesOf(id));
    update(renderer, scene, how);
    await until(() => mean()[0]! > 3);
    const wide = compile(applyPatch(setup, { lights: { items: { key: { width: 2 } } } }), () => undefined, scene);
    renderer.hold(true);
    update(renderer, wide, how, 2);
    await moment();
    let waited = 0;
    while (renderer.shown < 2) {
      await moment();
      if (turns.length) waited++;
      turns.shift()?.();
    }
    // a turn for each tile of the coarse picture, and none for the others; one more in which there was nothing left
    expect(waited).toBeLessThanOrEqual(renderer.set.coarseTiles.length + 1);
    renderer.hold(false);
    await until(() => renderer.finished);
    const fresh = await rendered(poolOf([ports.local()], loadKernel(false)), wide, how);
    expect(bytes(renderer)).toEqual(bytes(fresh));
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
    const film = renderer.set.films.get('key')!.film;
    expect(film.counts[0]).toBe(2);
    expect(film.counts[63]).toBe(8);
    enough = false;
    renderer.rejudge();
    await new Promise<void>((resolve) => {
      renderer.onProgress = () => renderer.finished && resolve();
    });
    expect(film.counts[0]).toBe(8);
  });

  it('writes the first surfaces down once, with the first samples', async () => {
    const port = localPort();
    const pool = poolOf([port], loadKernel(false));
    const renderer = await rendered(pool, scene, { ...options, samples: 20 });
    const { guides } = renderer.set;
    expect(guides.counts[0]).toBe(16);
    expect(guides.mean(renderer.set.guides.width * 30 + 10, 10)).toBeGreaterThan(0.5);
    const moved = compile(applyPatch(setup, { lights: { items: { key: { width: 2 } } } }), () => undefined, scene);
    await new Promise<void>((resolve) => {
      renderer.onProgress = () => renderer.finished && resolve();
      update(renderer, moved, { ...options, samples: 20 });
    });
    expect(renderer.set.guides).toBe(guides);
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
      update(renderer, second, options);
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
      update(renderer, scene, { ...options, coarse: true });
    });
    expect(math.used).toBeGreaterThan(before);
    for (let i = 0; i < 5; i++)
      update(
        renderer,
        compile(applyPatch(setup, { lights: { items: { key: { width: 1 + i / 10 } } } }), () => undefined, scene),
        { ...options, coarse: true },
      );
    renderer.close();
    expect(math.used).toBe(before);
  });

  it('tells why a worker failed', async () => {
    const port = localPort();
    const pool = poolOf([port], loadKernel(false));
    const told = new Promise<Error>((resolve) => pool.watch({ idle: () => undefined, error: resolve }));
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
    expect(
      renderer.set.films
        .get('key')!
        .film.plane('diffuse')!
        .some((v) => v > 0),
    ).toBe(true);
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
        const found = noiseOf([{ film: renderer.set.films.get('key')!.film, gain: gains['key']! }], tile, (y) => 255 * Math.min(1, y));
        judged.push(found);
        return found;
      };
      update(renderer, hazy, {
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
