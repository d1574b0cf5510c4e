import { describe, expect, it } from '@jest/globals';
import { applyPatch, type Setup } from '../setup/index.ts';
import { panelLight, setupWith, subjectWith } from '../testing/setups.ts';
import { partsThatDiffer, restorePatch } from './index.ts';

const then = setupWith(
  { key: panelLight(), rim: panelLight({ name: 'Rim', role: 'rim', stops: 1 }), hair: panelLight({ name: 'Hair' }) },
  { brief: 'as it was' },
);
/** The same after an afternoon. */
const now: Setup = applyPatch(then, {
  name: 'Renamed since',
  brief: 'as it is',
  lights: { items: { key: { stops: -1 }, rim: { stops: 3, rank: 'a9' }, hair: null, new: panelLight({ name: 'New' }) } },
  camera: { focal: 50, ev: 11 },
  stage: { kind: 'floor' },
  subjects: { items: { who: subjectWith() } },
});
const back = (...parts: Parameters<typeof restorePatch>[2] & object) => applyPatch(now, restorePatch(now, then, parts));

describe('a proof brought back into its setup', () => {
  it('is said in parts: those that differ, and no other', () => {
    expect(partsThatDiffer(now, then)).toEqual(['lights', 'characters', 'stage', 'camera', 'light/key', 'light/rim', 'light/hair']);
    expect(partsThatDiffer(then, then)).toEqual([]);
  });
  it('whole is all of it, but for what the setup is called and is for', () => {
    expect(applyPatch(now, restorePatch(now, then))).toEqual({ ...then, name: 'Renamed since', brief: 'as it is' });
  });
  it('by one light changes that light alone, which keeps its place among the others', () => {
    const after = back('light/rim');
    expect(after).toEqual({ ...now, lights: { items: { ...now.lights.items, rim: { ...then.lights.items['rim']!, rank: 'a9' } } } });
  });
  it('brings a light back that is gone, beside those that came since', () => {
    expect(Object.keys(back('light/hair').lights.items).sort()).toEqual(['hair', 'key', 'new', 'rim']);
  });
  it('by one part changes nothing of the others', () => {
    const camera = back('camera');
    expect(camera.camera).toEqual(then.camera);
    expect({ ...camera, camera: now.camera }).toEqual(now);
    const both = back('stage', 'characters');
    expect([both.stage.kind, Object.keys(both.subjects.items)]).toEqual([then.stage.kind, []]);
    expect(both.lights).toEqual(now.lights);
  });
  it('takes away what was not there: a catcher that came since', () => {
    const caught = applyPatch(now, {
      catcher: { objects: { stage: true }, without: {}, density: 1, colour: [0, 0, 0], contact: 0, bounce: false, mirror: false },
    });
    const after = applyPatch(caught, restorePatch(caught, { ...then, catcher: undefined }, ['stage']));
    expect(after.catcher).toBeUndefined();
  });
  it('brings the flags of a light along, which stay before others where they stand before them now', () => {
    const flag = {
      rank: 'a0',
      kind: 'panel',
      name: 'Cut',
      on: true,
      place: { azimuth: 0, elevation: 0, distance: 1, aim: [0, 0, 0] },
      roll: 0,
      width: 1,
      height: 1,
      depth: 0.1,
      density: 1,
      soft: 0,
    };
    const had = applyPatch(then, { flags: { items: { cut: { ...flag, lights: ['rim', 'hair'] } } } }),
      has = applyPatch(now, { flags: { items: { cut: { ...flag, width: 3, lights: ['key'] } } } });
    const after = applyPatch(has, restorePatch(has, had, ['light/rim']));
    expect(after.flags.items['cut']).toMatchObject({ width: 1, lights: ['rim', 'key'] });
  });
});
