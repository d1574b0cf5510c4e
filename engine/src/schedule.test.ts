import { describe, expect, it } from '@jest/globals';
import { nextCoarse, nextFine, type Done, type Work } from './schedule.ts';

const light = (done: number[], busy: number[] = done.map(() => 0), coarse?: { done: number[]; busy?: number[] }): Done => ({
  done: Uint16Array.from(done),
  busy: Uint8Array.from(busy),
  coarse: coarse !== undefined,
  coarseDone: Uint8Array.from(coarse?.done ?? []),
  coarseBusy: Uint8Array.from(coarse?.busy ?? coarse?.done.map(() => 0) ?? []),
});
const work = (films: Record<string, Done>, more: Partial<Work> = {}): Work => {
  const [first] = Object.values(films);
  const tiles = first!.done.length;
  return {
    films: new Map(Object.entries(films)),
    tiles: { length: tiles },
    coarseTiles: { length: first!.coarseDone.length },
    resting: new Uint8Array(tiles),
    guided: Uint16Array.from(first!.done),
    ...more,
  };
};

describe('what comes next', () => {
  it('a coarse tile, for all lights that lack it together', () => {
    const films = { key: light([0], [0], { done: [1, 0, 0] }), fill: light([0], [0], { done: [1, 0, 1], busy: [0, 1, 0] }) };
    expect(nextCoarse(work(films), 2)).toEqual({ kind: 'coarse', tile: 1, lights: ['key'], from: 0, to: 2, guides: false });
    films.key.coarseBusy[1] = 1;
    expect(nextCoarse(work(films), 2)).toMatchObject({ tile: 2, lights: ['key'] });
    films.key.coarseBusy[2] = 1;
    expect(nextCoarse(work(films), 2)).toBeUndefined();
  });
  it('no coarse tile for films that have no coarse picture', () => {
    expect(nextCoarse(work({ key: light([0]) }, { coarseTiles: { length: 3 } }), 2)).toBeUndefined();
  });
  it('the tile with fewest samples, the first among equals, for the lights that have as few', () => {
    const films = { key: light([4, 2, 2]), fill: light([4, 2, 8]) };
    expect(nextFine(work(films), 64, true)).toEqual({ kind: 'fine', tile: 1, lights: ['key', 'fill'], from: 2, to: 4, guides: true });
    // one that is on its way is not handed out again
    films.key.busy[1] = films.fill.busy[1] = 1;
    expect(nextFine(work(films), 64, true)).toMatchObject({ tile: 2, lights: ['key'], from: 2 });
  });
  it.each([
    [0, 1],
    [1, 2],
    [2, 4],
    [4, 8],
    [8, 16],
    [16, 24],
    [60, 64],
  ])('from %d samples to %d where somebody looks on', (from, to) => {
    expect(nextFine(work({ key: light([from]) }), 64, true)).toMatchObject({ from, to });
  });
  it('in passes of eight where nobody does', () =>
    expect(nextFine(work({ key: light([0]) }), 64, false)).toMatchObject({ from: 0, to: 8 }));
  it('nothing where tiles rest or have all samples', () => {
    const films = { key: light([64, 16]) };
    expect(nextFine(work(films, { resting: Uint8Array.from([0, 1]) }), 64, true)).toBeUndefined();
    expect(nextFine(work(films), 64, true)).toMatchObject({ tile: 1, from: 16 });
  });
  it('surfaces are written down in the order of samples, the first sixteen of them, whoever’s pass it is', () => {
    const films = { key: light([8]), moved: light([2]) };
    // the moved light catches up: its samples are known already
    expect(nextFine(work(films, { guided: Uint16Array.from([8]) }), 64, true)).toMatchObject({ lights: ['moved'], from: 2, guides: false });
    expect(nextFine(work({ key: light([8]) }, { guided: Uint16Array.from([8]) }), 64, true)).toMatchObject({ guides: true });
    expect(nextFine(work({ key: light([16]) }, { guided: Uint16Array.from([16]) }), 64, true)).toMatchObject({ guides: false });
    // mattes are made of all samples, also of more than a byte counts
    expect(nextFine(work({ key: light([512]) }, { guided: Uint16Array.from([512]), allGuided: true }), 1024, true)).toMatchObject({
      guides: true,
    });
  });
});
