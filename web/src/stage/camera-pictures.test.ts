import { describe, expect, it } from '@jest/globals';
import { emptySetup } from '@plinket/core';
import { keepPicture, pictureThrough, viewOf, type Shelf } from './camera-pictures.ts';

function shelf(): Shelf & { kept: Map<string, string> } {
  const kept = new Map<string, string>();
  return { kept, getItem: (k) => kept.get(k) ?? null, setItem: (k, v) => void kept.set(k, v) };
}
const { camera } = emptySetup('cameras');

describe('pictures of cameras', () => {
  it('belong to what is seen: a renamed or locked camera has the same, one that moved has not', () => {
    const view = viewOf('a', camera);
    expect(viewOf('a', { ...camera, name: 'Other', locked: true, ev: 3 })).toBe(view);
    for (const moved of [{ focal: 85 }, { position: [0, 1, 2] as [number, number, number] }, { roll: 4 }, { aspect: 2 }])
      expect(viewOf('a', { ...camera, ...moved })).not.toBe(view);
    expect(viewOf('b', camera)).not.toBe(view);
  });
  it('are found again, the newest for each view, and only so many', () => {
    const s = shelf();
    for (let i = 0; i < 70; i++) keepPicture(s, `view ${i}`, `picture ${i}`);
    keepPicture(s, 'view 69', 'newer');
    expect(pictureThrough(s, 'view 69')).toBe('newer');
    expect(pictureThrough(s, 'view 40')).toBe('picture 40');
    expect(pictureThrough(s, 'view 3')).toBeUndefined();
    expect((JSON.parse([...s.kept.values()][0]!) as unknown[]).length).toBe(60);
  });
  it('that cannot be read or kept are none', () => {
    const broken: Shelf = {
      getItem: () => '{"not": "a list"',
      setItem: () => {
        throw new DOMException('full', 'QuotaExceededError');
      },
    };
    expect(pictureThrough(broken, 'v')).toBeUndefined();
    expect(() => keepPicture(broken, 'v', 'p')).not.toThrow();
    const odd: Shelf = { getItem: () => '[1, ["v", "p"]]', setItem: () => undefined };
    expect(pictureThrough(odd, 'v')).toBe('p');
  });
});
