import { describe, expect, it } from '@jest/globals';
import { applyPatch, filmsFile, PictureMaker, writeExr, Film, Guides, type Patch, type Setup } from '@plinket/core';
import type { Job, JobFrame } from '@plinket/contract';
import { plainFilmMath } from '../../../kernel/src/index.ts';
import { panelLight, setupWith } from '../../../core/src/testing/setups.ts';
import { begin, isUnchanged, redone, stepTo, UNCHANGED, undone, withLights } from './balance/history.ts';
import { Grade } from './balance/grade.ts';
import { groupsOf } from './balance/groups.ts';
import { sequenceOf } from './sendable.ts';
import { withChanged } from './useLab.ts';
import { frameWords, jobWords } from './words.ts';

const job = (more: Partial<Job>): Job =>
  ({ state: 'running', frames: { all: 40, waiting: 20, running: 8, done: 12, dead: 0, cancelled: 0 }, coreSeconds: 61, ...more }) as Job;
const frame = (n: number, more: Partial<JobFrame> = {}): JobFrame =>
  ({
    n,
    label: `S_${n}`,
    frame: 1001,
    state: 'waiting',
    progress: 0,
    seconds: 0,
    attempts: 0,
    files: [],
    log: [],
    setup: '',
    ...more,
  }) as JobFrame;

describe('jobs in words', () => {
  it('say how far they are, and how long it takes', () => {
    expect(jobWords(job({ msLeft: 480_000 }))).toBe('12 of 40 frames, about 8 min left');
    expect(jobWords(job({}))).toBe('12 of 40 frames');
    expect(jobWords(job({ state: 'unfinished', frames: { all: 3, waiting: 0, running: 0, done: 2, dead: 1, cancelled: 0 } }))).toBe(
      '1 frame could not be rendered, 2 done',
    );
    expect(jobWords(job({ state: 'waiting' }))).toBe('40 frames, waits for a node');
    expect(frameWords(frame(1, { attempts: 1 }))).toBe('waits for try 2');
    expect(frameWords(frame(1, { state: 'running', progress: 0.256, node: 'north' }))).toBe('26 % by north');
  });
});

describe('frames that are known', () => {
  it('take what changed, in their order, and stay the same where nothing did', () => {
    const known = withChanged(undefined, { items: [frame(1), frame(0)], changed: '5' });
    expect(known.frames.map((f) => f.n)).toEqual([0, 1]);
    expect(withChanged(known, { items: [], changed: '5' })).toBe(known);
    const next = withChanged(known, { items: [frame(1, { state: 'done' })], changed: '7' });
    expect([next.changed, next.frames.map((f) => f.state)]).toEqual(['7', ['waiting', 'done']]);
  });
});

describe('a balance in work', () => {
  const by = (stops: number) => withLights(UNCHANGED, ['key'], (was) => ({ ...was, stops }));
  it('goes back and forth; one gesture is one step', () => {
    let steps = begin();
    steps = stepTo(steps, by(1), 'a');
    steps = stepTo(steps, by(2), 'a');
    steps = stepTo(steps, by(3), 'b');
    expect(steps.past).toHaveLength(2);
    expect(undone(steps).now).toEqual(by(2));
    expect(undone(undone(steps)).now).toEqual(UNCHANGED);
    expect(undone(undone(undone(steps))).now).toEqual(UNCHANGED);
    expect(redone(undone(steps)).now).toEqual(by(3));
    // what comes after something was taken back takes the place of what was ahead
    expect(stepTo(undone(steps), by(9)).future).toEqual([]);
  });
  it('says nothing of what is as it was rendered', () => {
    expect(by(0)).toEqual(UNCHANGED);
    expect(isUnchanged(withLights(by(1), ['key'], ({ stops: _, ...rest }) => rest))).toBe(true);
    expect([isUnchanged(by(1)), isUnchanged({ lights: {}, exposure: 1 })]).toEqual([false, false]);
  });
  it('knows groups, and the rest after them', () => {
    const setup = setupWith({ key: panelLight(), a: panelLight({ group: 'window' }), b: panelLight({ group: 'window' }) });
    expect(groupsOf(setup)).toEqual([
      { name: 'window', lights: ['a', 'b'] },
      { name: '', lights: ['key'] },
    ]);
  });
});

describe('what can be sent', () => {
  it('counts its frames by what is chosen of each shot', () => {
    const shot = (rank: string, first: number, last: number) => ({
      rank,
      code: rank,
      first,
      last,
      state: 'to light' as const,
      brief: '',
      notes: '',
    });
    const shots = { items: { one: shot('a', 1, 10), two: shot('b', 5, 6) } };
    const all = sequenceOf('id', { name: 'Night', shots });
    expect((['one', 'three', 'all'] as const).map((c) => all.frames(c))).toEqual([2, 5, 12]);
    expect(sequenceOf('id', { name: 'Night', shots }, ['two']).source('all')).toEqual({
      kind: 'sequence',
      sequence: 'id',
      frames: 'all',
      shots: ['two'],
    });
  });
});

describe('a finished picture', () => {
  const W = 4,
    H = 3;
  const setup: Setup = applyPatch(setupWith({ key: panelLight(), rim: panelLight({ on: false }) }), { look: { smooth: 0 } } as Patch);
  const film = (v: number) => {
    const made = new Film(W, H, { settled: true });
    made.planes.forEach((p) => p.fill(v));
    return made;
  };
  const films = { key: film(2e-4), rim: film(1e-4) } as Record<string, Film>;
  const guides = new Guides(W, H);
  guides.alpha.fill(1);
  guides.settle();
  const source = { width: W, height: H, guides, shown: (id: string) => (films[id] ? { film: films[id] } : undefined) };
  const none = { gobo: () => undefined, cube: () => undefined };
  const straight = (by: Setup) => Uint8ClampedArray.from(new PictureMaker(plainFilmMath(), none).make(source, { setup: by }).rgba);
  const linear = Float32Array.from(new PictureMaker(plainFilmMath(), none).linear(source, { setup, bare: true }).linear);
  const { channels, text } = filmsFile(source, setup, { linear, alpha: guides.alpha, passes: [] });
  const bytes = writeExr(W, H, channels, text);
  const grade = () => new Grade({ math: plainFilmMath(), load: () => Promise.resolve(bytes), files: () => Promise.resolve(none) });
  it('looks as it did, and as the same change would have looked before it was rendered', async () => {
    const room = grade();
    expect(room.picture({ balance: UNCHANGED, solo: [] })).toBeUndefined();
    await room.open('sha');
    const seen = (balance: typeof UNCHANGED, solo: string[] = []) => [...room.picture({ balance, solo })!.rgba];
    const off = (a: ArrayLike<number>, b: number[]) => Math.max(...b.map((v, i) => Math.abs(v - a[i]!)));
    expect(off(straight(setup), seen(UNCHANGED))).toBeLessThanOrEqual(1);
    const brighter = applyPatch(setup, {
      lights: { items: { key: { stops: setup.lights.items['key']!.stops + 1 }, rim: { on: true } } },
    } as unknown as Patch);
    expect(off(straight(brighter), seen({ lights: { key: { stops: 1 }, rim: { on: true } } }))).toBeLessThanOrEqual(1);
    expect(off(straight(brighter), seen(UNCHANGED))).toBeGreaterThan(5);
    expect(seen(UNCHANGED, ['rim'])).not.toEqual(seen(UNCHANGED));
    room.close();
  });
  it('that is none of ours is refused, and the one before it is gone', async () => {
    const room = grade();
    await room.open('sha');
    await expect(room.open(writeExr(1, 1, [{ name: 'Y', data: new Float32Array(1) }]))).rejects.toThrow(/plinketSetup/);
    expect(room.picture({ balance: UNCHANGED, solo: [] })).toBeUndefined();
  });
});
