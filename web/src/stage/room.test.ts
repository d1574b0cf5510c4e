import { describe, expect, it } from '@jest/globals';
import { chosenDrawings, DRAWINGS, drawingBoxes, drawingsFor, keepDrawings } from './room.ts';

describe('the room that plan, side and sheet share', () => {
  const column = { width: 420, height: 576 };
  it.each(DRAWINGS)('%s: drawings lie within the column and leave the sheet its room', (drawings) => {
    const { plan, side } = drawingBoxes(column, drawings);
    const stacked = drawings === 'plan' || drawings === 'side';
    const tall = stacked ? plan!.height + side!.height : (plan?.height ?? 0);
    const wide = drawings === 'both' ? plan!.width + side!.width : (plan?.width ?? 0);
    expect(wide).toBeLessThanOrEqual(column.width);
    expect(column.height - tall).toBeGreaterThan(drawings === 'none' ? 500 : stacked ? 230 : 400);
  });
  it('swaps what is large', () => {
    const a = drawingBoxes(column, 'plan'),
      b = drawingBoxes(column, 'side');
    expect([b.side, b.plan]).toEqual([a.plan, a.side]);
  });
  it('is what suits the sheet until somebody chooses, and that is remembered', () => {
    const kept = new Map<string, string>();
    const storage = { getItem: (k: string) => kept.get(k) ?? null, setItem: (k: string, v: string) => void kept.set(k, v) };
    expect(drawingsFor('light', chosenDrawings(storage))).toBe('plan');
    expect(drawingsFor('camera', chosenDrawings(storage))).toBe('both');
    keepDrawings(storage, { camera: 'none' });
    expect(drawingsFor('camera', chosenDrawings(storage))).toBe('none');
    expect(drawingsFor('light', chosenDrawings(storage))).toBe('plan');
  });
  it.each(['nonsense', '[]', 'null', '{"camera":"upside","door":"plan"}'])('of a storage that holds %s nothing is chosen', (text) => {
    expect(chosenDrawings({ getItem: () => text })).toEqual({});
  });
  it('a storage that throws forgets, and nothing breaks', () => {
    const full = {
      getItem: () => {
        throw new Error('blocked');
      },
      setItem: () => {
        throw new Error('full');
      },
    };
    expect(chosenDrawings(full)).toEqual({});
    expect(() => keepDrawings(full, { light: 'none' })).not.toThrow();
  });
});
