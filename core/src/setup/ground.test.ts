import { describe, expect, it } from '@jest/globals';
import { groundAt, topOf, type Prop } from './index.ts';
import { emptySetup } from './empty.ts';

const look = { visible: true, colour: [0.2, 0.2, 0.2] as [number, number, number], roughness: 0.7 };
const plinth = (shape: 'round' | 'square' | 'rock', more: Partial<Prop> = {}): Prop =>
  ({ kind: 'plinth', rank: 'a0', shape, name: shape, ...look, position: [1, 0, 2], width: 1, height: 0.3, ...more }) as Prop;
const steps: Prop = {
  kind: 'steps',
  rank: 'a0',
  name: 'Steps',
  ...look,
  position: [0, 0.1, 0],
  turn: 0,
  width: 2,
  tread: 0.3,
  rise: 0.2,
  count: 3,
};

describe('what one stands on', () => {
  it('is a plinth within its outline', () => {
    expect(topOf(plinth('round'), 1.45, 2)).toBe(0.3);
    expect(topOf(plinth('round'), 1.45, 2.45)).toBeUndefined();
    expect(topOf(plinth('square'), 1.45, 2.45)).toBe(0.3);
    expect(topOf(plinth('rock'), 1.45, 2)).toBeUndefined();
  });
  it('is the tread of a step, the next one further up', () => {
    expect(topOf(steps, 0, -0.15)).toBeCloseTo(0.3, 12);
    expect(topOf(steps, 0.9, -0.45)).toBeCloseTo(0.5, 12);
    expect(topOf(steps, 0, -0.85)).toBeCloseTo(0.7, 12);
    for (const [x, z] of [
      [0, 0.1],
      [0, -0.95],
      [1.1, -0.15],
    ] as const)
      expect(topOf(steps, x, z)).toBeUndefined();
  });
  it('turns with the steps', () => {
    const turned: Prop = { ...steps, turn: 90 } as Prop;
    expect(topOf(turned, -0.45, 0)).toBeCloseTo(0.5, 12);
    expect(topOf(turned, 0.45, 0)).toBeUndefined();
  });
  it('is the highest thing that is there and seen, or else the floor', () => {
    const { stage } = emptySetup('ground');
    const props = (items: Record<string, Prop>) => ({ stage, props: { items } });
    expect(groundAt(props({}), 0, 0)).toEqual({ height: stage.floor });
    const low = plinth('round', { position: [0, 0, 0], width: 3 }),
      high = plinth('square', { position: [0, 0.3, 0] });
    expect(groundAt(props({ high, low }), 0, 0)).toEqual({ height: 0.6, name: 'square' });
    expect(groundAt(props({ high: { ...high, visible: false }, low }), 0, 0)).toEqual({ height: 0.3, name: 'round' });
    expect(groundAt(props({ high, low }), 1.2, 0).name).toBe('round');
    const ball: Prop = { kind: 'ball', rank: 'a0', finish: 'grey', name: 'Ball', visible: true, position: [0, 1, 0], radius: 0.5 };
    expect(groundAt(props({ ball }), 0, 0).height).toBe(stage.floor);
  });
});
