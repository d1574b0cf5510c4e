import { describe, expect, it } from '@jest/globals';
import { readShotList, type ShotList } from '@plinket/core';
import type { ReadAnswer } from '../parts/read-away.ts';
import type { ListWish } from './list-worker.ts';
import { readList, type ListReader } from './read-list.ts';

/** A worker that answers as it is told, or never. */
function worker(answer?: (wish: ListWish) => ReadAnswer<ShotList> | Error) {
  const seen = { ended: 0 };
  const reader: ListReader = {
    onmessage: null,
    onerror: null,
    terminate: () => void seen.ended++,
    postMessage: (wish: unknown) => {
      const said = answer?.(wish as ListWish);
      if (said instanceof Error) reader.onerror!({ message: said.message } as ErrorEvent);
      else if (said) reader.onmessage!({ data: said } as MessageEvent<ReadAnswer<ShotList>>);
    },
  };
  return { seen, start: () => reader };
}
const csv = new File(['code,first,last\nA_010,1001,1020\n'], 'list.csv');

describe('reading a shot list', () => {
  it('answers what the worker read, and lets it go', async () => {
    const { seen, start } = worker(({ bytes, name, fps }) => ({ read: readShotList(bytes, name, fps) }));
    expect((await readList(csv, 24, start)).shots.map((s) => s.code)).toEqual(['A_010']);
    expect(seen.ended).toBe(1);
  });
  it('says why a file is refused, breaks the worker, or is never done', async () => {
    const refused = worker(() => ({ refused: 'list.csv: no column is called code' }));
    await expect(readList(csv, 24, refused.start)).rejects.toThrow('no column is called code');
    const broken = worker(() => new Error('out of memory'));
    await expect(readList(csv, 24, broken.start)).rejects.toThrow('list.csv could not be read: out of memory.');
    const endless = worker();
    await expect(readList(csv, 24, endless.start, 20)).rejects.toThrow('list.csv was read for 0.02 s and given up.');
    expect([refused, broken, endless].map((w) => w.seen.ended)).toEqual([1, 1, 1]);
  });
  it('does not even begin with a file that is no list', async () => {
    const huge = { name: 'film.mov', size: 3e9 } as File,
      { seen, start } = worker();
    await expect(readList(huge, 24, start)).rejects.toThrow('film.mov has 3000 MB');
    expect(seen.ended).toBe(0);
  });
});
