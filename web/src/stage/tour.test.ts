import { describe, expect, it } from '@jest/globals';
import { cardPlace, STOPS } from './Tour.tsx';

const card = { width: 288, height: 180 };
describe('the tour', () => {
  it('has six stops, each with its place and words', () => {
    expect(STOPS).toHaveLength(6);
    expect(new Set(STOPS.map((s) => s.at)).size).toBe(6);
  });
  it.each([
    [1024, 768],
    [1280, 800],
    [1920, 1080],
    [2560, 1440],
  ])('at %d × %d its card is in the window, and beside what it shows where there is room', (width, height) => {
    const targets = [
      { left: 0, top: 44, width: width - 420, height: height - 220 },
      { left: 0, top: height - 180, width, height: 180 },
      { left: width - 420, top: 44, width: 420, height: 330 },
      { left: width - 420, top: 380, width: 420, height: 240 },
      { left: width - 130, top: 6, width: 120, height: 32 },
    ];
    for (const t of targets) {
      const { left, top } = cardPlace(t, card, { width, height });
      expect(left).toBeGreaterThanOrEqual(0);
      expect(top).toBeGreaterThanOrEqual(0);
      expect(left + card.width).toBeLessThanOrEqual(width);
      expect(top + card.height).toBeLessThanOrEqual(height);
      const covers = left < t.left + t.width && left + card.width > t.left && top < t.top + t.height && top + card.height > t.top;
      expect(covers).toBe(false);
    }
  });
});
