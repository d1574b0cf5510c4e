import { describe, expect, it } from '@jest/globals';
import { parseSetup, STAGES } from '@plinket/core';
import { beginning, copyName } from './beginnings.ts';

describe('a new setup', () => {
  it.each(['black', ...STAGES.map((s) => s.id)])('from %s is whole, without light, for a portrait', (origin) => {
    const setup = beginning(origin);
    expect(() => parseSetup(setup)).not.toThrow();
    expect(Object.keys(setup.lights.items)).toEqual([]);
    expect(setup.camera.aspect).toBe(0.8);
    if (origin === 'black') expect(setup.stage.kind).toBe('none');
  });
  it('a copy is called so, and copies of copies are counted', () => {
    expect(copyName('The keeper')).toBe('The keeper copy');
    expect(copyName('The keeper copy')).toBe('The keeper copy 2');
    expect(copyName('The keeper copy 9')).toBe('The keeper copy 10');
    for (const long of ['x'.repeat(120), `${'x'.repeat(113)} copy 9`]) expect(copyName(long).length).toBeLessThanOrEqual(120);
  });
});
