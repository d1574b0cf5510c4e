// Spoilt files, the same ones each time, fed to every reader: refused by name or read, nothing else. More of them: npm run fuzz.
import { afterAll, describe, expect, it } from '@jest/globals';
import { fuzzReaders, type FuzzReader } from '../testing/fuzz/readers.ts';
import { Fuzz, fuzzOne, notFinite } from '../testing/fuzz/run.ts';
import { Dice, spoiled } from '../testing/fuzz/spoil.ts';

/** Files for each reader: all together take some ten seconds here. */
const FILES = 120;
/** After so long a file counts as one that is read for ever, also on a busy machine. */
const HANG_SECONDS = 20;

const readers = await fuzzReaders(),
  fuzz = new Fuzz();
afterAll(() => fuzz.close());

describe('spoilt files', () => {
  it.each(Object.keys(readers))('%s: are refused by name or read, and nothing that is read is no number', async (name) => {
    const report = await fuzz.run(name, 1, FILES + 1, HANG_SECONDS);
    expect(report.faults).toEqual([]);
    expect(report.accepted + report.refused).toBe(FILES);
    expect(report.refused).toBeGreaterThan(FILES / 20);
  });

  it('are the same from the same number, and others from another', () => {
    const samples = [new Uint8Array(200).fill(65)];
    const made = Array.from({ length: 50 }, (_, i) => Buffer.from(spoiled(samples, false, i)).toString('hex'));
    expect(Array.from({ length: 50 }, (_, i) => Buffer.from(spoiled(samples, false, i)).toString('hex'))).toEqual(made);
    expect(new Set(made).size).toBeGreaterThan(40);
    expect(Array.from({ length: 1000 }, (_, i) => new Dice(i).next()).reduce((a, b) => a + b) / 1000).toBeCloseTo(0.5, 1);
  });
});

describe('what watches over spoilt files', () => {
  it('ends a thread that does not come back, and goes on behind that file', async () => {
    const thread = `import { parentPort as p } from 'node:worker_threads';
      p.on('message', ({ from, to }) => {
        for (let number = from; number < to; number++) {
          p.postMessage({ type: 'begun', number });
          if (number === 3) for (;;);
          p.postMessage({ type: 'read', number, accepted: number % 2 === 0, ms: 1 });
        }
        p.postMessage({ type: 'done' });
      });`;
    const watched = new Fuzz(new URL(`data:text/javascript,${encodeURIComponent(thread)}`));
    const report = await watched.run('stl', 1, 7, 0.2);
    await watched.close();
    expect(report.faults).toEqual([{ number: 3, kind: 'hang', message: 'longer than 0.2 s' }]);
    expect([report.accepted, report.refused]).toEqual([3, 2]);
  });

  const reader = (read: () => unknown): FuzzReader => ({ samples: [new Uint8Array(9)], read, refusals: [RangeError] });
  it('tells a refusal from what escaped, and finds what is no number', async () => {
    const refuse = (error: Error) => () => {
      throw error;
    };
    expect(await fuzzOne(reader(refuse(new RangeError('no'))), 1)).toEqual({ accepted: false });
    expect((await fuzzOne(reader(refuse(new TypeError('ah'))), 1)).fault).toMatchObject({ kind: 'untyped', number: 1 });
    expect(
      (
        await fuzzOne(
          reader(() => ({ a: [1, { b: Float32Array.of(1, NaN) }] })),
          2,
        )
      ).fault,
    ).toMatchObject({
      kind: 'not finite',
      message: '.a.1.b[1] is NaN',
    });
    expect(notFinite({ a: new Map([['x', Infinity]]) })).toBe('.a.x is Infinity');
    expect(notFinite({ a: 1, b: 'NaN', c: null })).toBeUndefined();
  });
});
