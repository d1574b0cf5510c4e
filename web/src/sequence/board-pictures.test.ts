import { describe, expect, it } from '@jest/globals';
import { rememberedPictures, rememberPictures } from './board-pictures.ts';

describe('which pictures the board shows', () => {
  const shelf = (kept: Map<string, string>) => ({
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => void kept.set(key, value),
  });
  it('is remembered; what is none of them is forgotten', () => {
    const kept = new Map<string, string>();
    expect(rememberedPictures(shelf(kept))).toBe('proofs');
    rememberPictures('middle', shelf(kept));
    expect(rememberedPictures(shelf(kept))).toBe('middle');
    kept.set([...kept.keys()][0]!, 'films');
    expect(rememberedPictures(shelf(kept))).toBe('proofs');
  });
  it('is the proofs where the browser keeps nothing', () => {
    const blocked = {
      getItem: (): never => {
        throw new Error('blocked');
      },
      setItem: (): never => {
        throw new Error('blocked');
      },
    };
    rememberPictures('last', blocked);
    expect(rememberedPictures(blocked)).toBe('proofs');
  });
});
