// Turns traced by threads: what a frame shows must not depend on which others are made along with it.
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import {
  applyPatch,
  collected,
  compile,
  compileLights,
  dome,
  standIn,
  turnedAt,
  TURNTABLE_DEFAULTS,
  type CharacterAsset,
  type Scene,
  type Setup,
  type Turntable,
} from '@plinket/core';
import { panelLight, setupWith, subjectWith } from '../../core/src/testing/setups.ts';
import { render, TurnRenderer, type Pool, type TurnFilms } from './index.ts';
import { nodePool } from './node.ts';

const options = { width: 40, height: 50, samples: 2, seed: 1, bounces: 1 };
/** Dark on one side, once it is tilted. */
const GRADIENT: { elevation: number; colour: [number, number, number] }[] = [
  { elevation: -90, colour: [0, 0, 0] },
  { elevation: 90, colour: [1, 1, 1] },
];
const AXIS: [number, number] = [0, 0];
let asset: CharacterAsset, setup: Setup, still: Scene, pool: Pool;
beforeAll(() => {
  asset = standIn('bust');
  setup = setupWith(
    {
      key: panelLight(),
      dome: dome({ tilt: 70, fill: { kind: 'gradient', stops: GRADIENT } }),
    },
    { subjects: collected({ who: subjectWith({ head: asset.head }) }) },
  );
  still = compile(setup, () => asset);
  pool = nodePool({ workers: 2 });
}, 60_000);
afterAll(() => pool?.close());

/** The sum of what each light's film holds, for every frame. */
async function traced(
  plan: Partial<Turntable>,
  frames: number[],
  how = options,
  by = pool,
): Promise<Map<number, Record<string, number[]>>> {
  const turn = new TurnRenderer(by);
  const table = { ...TURNTABLE_DEFAULTS, frames: 6, ...plan };
  const out = new Map<number, Record<string, number[]>>();
  const sceneOf = (n: number, last = still) => compile(setup, () => asset, last, { turned: turnedAt(table, AXIS, n) });
  for await (const { frame, films } of turn.frames(frames, sceneOf, how)) out.set(frame, pixels(films));
  turn.close();
  return out;
}
const pixels = ({ films }: Pick<TurnFilms, 'films'>) =>
  Object.fromEntries([...films].map(([id, { film }]) => [id, [...film.plane('diffuse')!]]));
const mean = (values: number[]) => values.reduce((s, v) => s + v, 0) / values.length;

describe('frames of a turn', () => {
  it('are the same numbers alone and along with others, and the first comes again after the last', async () => {
    for (const turning of ['figure', 'dome'] as const) {
      const all = await traced({ turning }, [1, 2, 3, 7]);
      const alone = await traced({ turning }, [3]);
      expect(alone.get(3)).toEqual(all.get(3));
      expect(all.get(7)).toEqual(all.get(1));
      expect(all.get(2)).not.toEqual(all.get(1));
    }
  }, 60_000);
  it('of a dome that turns share all but the dome', async () => {
    // workers of their own for each: what a worker has walked already it does not walk again, and which of two takes a tile is chance
    const many = { ...options, samples: 12 }; // more than a worker remembers
    const counted = async (frames: number[]) => {
      const own = nodePool({ workers: 1 });
      try {
        return { all: await traced({ turning: 'dome' }, frames, many, own), rays: own.rays.walk };
      } finally {
        own.close();
      }
    };
    const one = await counted([1]),
      { all, rays } = await counted([1, 2, 3, 4, 5, 6]);
    expect(one.rays).toBeGreaterThan(0);
    // the camera's rays are traced once for all six
    expect(rays).toBe(one.rays);
    expect(all.get(4)!['key']).toEqual(all.get(1)!['key']);
    expect(all.get(4)!['dome']).not.toEqual(all.get(1)!['dome']);
  }, 60_000);
  it('show a figure as if it had been turned and all else had stayed', async () => {
    // without bounces, whose directions are chosen by the world's axes
    const direct = { ...options, bounces: 0 };
    const turned = (await traced({ turning: 'figure', frames: 6 }, [2], direct)).get(2)!;
    const truly = compile(applyPatch(setup, { subjects: { items: { who: { turn: 60 } } } }), () => asset);
    const set = await render({ ...truly, lights: compileLights(setup) }, direct, { pool });
    const expected = pixels(set),
      at = (await traced({}, [1], direct)).get(1)!;
    const apart = (a: number[], b: number[]) => mean(a.map((v, i) => Math.abs(v - b[i]!))) / mean(b);
    // the same rays, but for rounding that sends a few another way
    expect(apart(turned['key']!, expected['key']!)).toBeLessThan(0.01);
    expect(apart(at['key']!, expected['key']!)).toBeGreaterThan(0.04);
    set.close();
  }, 60_000);
  it('end when nobody wants them any more', async () => {
    const turn = new TurnRenderer(pool),
      gone = new AbortController();
    const frames = turn.frames(
      [1, 2, 3],
      (n, last = still) => compile(setup, () => asset, last, { turned: turnedAt({ ...TURNTABLE_DEFAULTS, frames: 6 }, AXIS, n) }),
      options,
      gone.signal,
    );
    await frames.next();
    gone.abort(new Error('enough'));
    await expect(frames.next()).rejects.toThrow('enough');
    turn.close();
  }, 60_000);
});
