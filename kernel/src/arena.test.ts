import { describe, expect, it } from '@jest/globals';
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { Arena, compileKernel, simdFilmMath, type Block } from './index.ts';

describe('an arena', () => {
  it('never hands out one byte twice, and is as it was when all is given back, in whatever order', () => {
    const step = fc.record({ bytes: fc.integer({ min: 0, max: 500 }), back: fc.option(fc.nat(20)) });
    fc.assert(
      fc.property(fc.array(step, { maxLength: 60 }), (steps) => {
        const arena = new Arena(10, 16);
        const out: Block[] = [];
        for (const { bytes, back } of steps) {
          const block = arena.take(bytes);
          expect(block.size).toBeGreaterThanOrEqual(Math.max(1, bytes));
          expect(block.at % 16).toBe(0);
          for (const b of out) expect(block.at + block.size <= b.at || b.at + b.size <= block.at).toBe(true);
          out.push(block);
          if (back !== null && out.length > back) arena.give(out.splice(back, 1)[0]!);
        }
        for (const block of out.sort((a, b) => (a.at % 7) - (b.at % 7))) arena.give(block);
        expect(arena.top).toBe(16);
      }),
      { seed: 3 },
    );
  });
  it('uses again what lies side by side for sizes that never came before', () => {
    const arena = new Arena(0, 64);
    const blocks = Array.from({ length: 10 }, () => arena.take(640));
    const end = arena.take(64);
    for (const block of blocks) arena.give(block);
    const before = arena.top;
    arena.take(3000);
    arena.take(3000);
    expect(arena.top).toBe(before);
    arena.give(end);
  });
});

describe('the films’ memory', () => {
  const module = compileKernel(readFileSync(new URL('../build/film.wasm', import.meta.url)))!;
  it('holds a window that is drawn larger a hundred times in little more than it needs', () => {
    const math = simdFilmMath(module);
    let films: Float32Array[] = [],
      most = 0;
    for (let i = 0; i < 100; i++) {
      // eight lights; the old films go light by light while the new ones come
      const pixels = 320 * (200 + i);
      films = Array.from({ length: 8 }, (_, light) => {
        if (films[light * 2]) {
          math.free(films[light * 2]!);
          math.free(films[light * 2 + 1]!);
        }
        return [math.floats(pixels * 6), math.floats(pixels * 2)];
      }).flat();
      most = Math.max(most, math.used);
    }
    expect(math.held / most).toBeLessThan(1.5);
  });
  it('gives zeros, also where something was before', () => {
    const math = simdFilmMath(module);
    const a = math.floats(1000).fill(7);
    math.free(a);
    const b = math.floats(900);
    expect(b.every((v) => v === 0)).toBe(true);
    expect(math.floats(300).every((v) => v === 0)).toBe(true);
  });
});
