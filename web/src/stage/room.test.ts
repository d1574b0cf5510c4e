import { describe, expect, it } from '@jest/globals';
import { chosenDrawings, DRAWINGS, drawingBoxes, drawingsFor, keepDrawings } from './room.ts';

describe('the room that plan, side, reading and sheet share', () => {
  const column = { width: 420, height: 576 };
  it.each(DRAWINGS)('%s: drawings lie within the column and leave the sheet its room', (drawings) => {
    const boxes = drawingBoxes(column, drawings);
    const shown = Object.values(boxes).sort((a, b) => b.height - a.height || b.width - a.width);
    const stacked = drawings !== 'both' && drawings !== 'none';
    // the largest has a row of its own, but where all are side by side
    const row = stacked ? shown.slice(1) : shown;
    expect(shown).toHaveLength(drawings === 'none' ? 0 : 3);
    if (row.length) expect(row.reduce((sum, b) => sum + b.width, 0)).toBe(column.width);
    expect(new Set(row.map((b) => b.height)).size).toBeLessThanOrEqual(1);
    const tall = (stacked ? shown[0]!.height : 0) + (row[0]?.height ?? 0);
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
