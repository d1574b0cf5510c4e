import { describe, expect, it } from '@jest/globals';
import { dome, parseSetup, type Patch } from '@plinket/core';
import { panelLight, setupWith } from '../../../core/src/testing/setups.ts';
import { stepBack, stepForward, take, type History } from './history.ts';

const setup = setupWith({ key: panelLight(), rim: panelLight({ name: 'Rim' }) });
const azimuth = (a: number): Patch => ({ lights: { items: { key: { place: { azimuth: a } } } } });
const start: History = { setup, undo: [], redo: [] };

describe('undo and redo', () => {
  it('go back to the very beginning and forward to the end again', () => {
    let h = take(start, azimuth(50));
    h = take(h, { brief: 'x' });
    h = take(h, { lights: { items: { rim: null } } });
    const end = h.setup;
    for (let i = 0; i < 3; i++) h = stepBack(h)!.history;
    expect(h.setup).toEqual(setup);
    expect(stepBack(h)).toBeUndefined();
    for (let i = 0; i < 3; i++) h = stepForward(h)!.history;
    expect(h.setup).toEqual(end);
    expect(stepForward(h)).toBeUndefined();
  });
  it('have words for every step: one without would seem to be none', () => {
    // the order of lights has no words of its own
    const { undo } = take(start, { lights: { items: { key: { rank: 'z0' } } } });
    expect(undo.map((s) => s.words)).toEqual(['a change']);
  });
  it('take a drag as one step, named by all it did', () => {
    let h = start;
    for (let i = 1; i <= 20; i++) h = take(h, azimuth(40 + i), 'drag-1');
    expect(h.undo).toHaveLength(1);
    expect(h.undo[0]!.words).toBe('key: round to 60°');
    expect(stepBack(h)!.history.setup).toEqual(setup);
  });
  it('take a gesture that removes a light and puts another kind under its name as one, back and forward', () => {
    const another = { ...dome(), name: 'Above' } as unknown as Patch;
    let h = take(start, { lights: { items: { key: null } } }, 'swap');
    h = take(h, { lights: { items: { key: another } } }, 'swap');
    expect(h.undo).toHaveLength(1);
    const end = h.setup;
    h = stepBack(h)!.history;
    expect(h.setup).toEqual(setup);
    h = stepForward(h)!.history;
    expect(parseSetup(h.setup)).toEqual(end);
    expect(stepBack(h)!.history.setup).toEqual(setup);
  });
  it('take two drags as two, and one that something else came into', () => {
    let h = take(start, azimuth(50), 'drag-1');
    h = take(h, azimuth(55), 'drag-2');
    h = take(h, { brief: 'x' });
    h = take(h, azimuth(60), 'drag-2');
    expect(h.undo).toHaveLength(4);
  });
  it('forget the future once something new is done, and ignore what changes nothing', () => {
    let h = stepBack(take(start, azimuth(50)))!.history;
    expect(h.redo).toHaveLength(1);
    expect(take(h, azimuth(40))).toBe(h);
    h = take(h, azimuth(45));
    expect(h.redo).toHaveLength(0);
  });
});
