import { describe, expect, it } from '@jest/globals';
import { plainFilmMath } from '@plinket/kernel';
import { gainOn } from '../setup/index.ts';
import { Film, FineColours, Guides, KnownColours, type Voice } from './index.ts';

const plain = plainFilmMath();

describe('the colours of a view', () => {
  const full = gainOn([1, 1, 1]);
  const seen = (samples: number) => {
    const guides = new Guides(8, 8);
    guides.counts.fill(samples);
    return guides;
  };
  const voice = (more: Partial<Voice> = {}): Voice => ({ film: new Film(8, 8), coarse: new Film(2, 2), gain: full, ...more });

  it('are read when a coarse film needs them and every pixel has one', () => {
    const known = new KnownColours(plain);
    expect(known.for(seen(0), [voice()])).toBeUndefined();
    expect(known.for(seen(1), [voice()])).toBeInstanceOf(FineColours);
    const whole = new Film(8, 8);
    whole.missing = 0;
    expect(known.for(seen(1), [voice({ film: whole })])).toBeUndefined();
    expect(known.for(seen(1), [voice({ film: whole, waits: true })])).toBeDefined();
    expect(known.for(seen(1), [{ film: new Film(8, 8), gain: full }])).toBeUndefined();
  });
  it('once for a view, and once more when its edges are known well', () => {
    const known = new KnownColours(plain),
      guides = seen(1);
    const first = known.for(guides, [voice()]);
    guides.counts.fill(4);
    expect(known.for(guides, [voice()])).toBe(first);
    guides.counts.fill(8);
    const again = known.for(guides, [voice()]);
    expect(again).not.toBe(first);
    guides.counts.fill(16);
    expect(known.for(guides, [voice()])).toBe(again);
    expect(known.for(seen(2), [voice()])).not.toBe(again);
  });
  it('before they are needed, so that a hand that begins does not wait', () => {
    const known = new KnownColours(plain),
      guides = seen(8);
    known.prepare(guides, { width: 2, height: 2 });
    const colours = known.for(guides, [voice()])!;
    const ratios = colours.ratiosFor(2, 2);
    known.prepare(guides, { width: 2, height: 2 });
    expect(known.for(guides, [voice()])).toBe(colours);
    expect(colours.ratiosFor(2, 2)).toBe(ratios);
  });
});
