import { describe, expect, it } from '@jest/globals';
import { plainFilmMath } from '@plinket/kernel';
import { NO_PLATE, type Plate } from '../setup/index.ts';
import { plateAt, PlatePlane } from './index.ts';

const plate = (more: Partial<Plate>): Plate => ({ ...NO_PLATE, from: [1, 1, 1], to: [0, 0, 0], ...more });
const at = (p: Plate, x: number, y: number, picture?: Parameters<typeof plateAt>[5]) => {
  const out = new Float64Array(3);
  plateAt(p, 1.5, x, y, out, picture);
  return [...out].map((v) => Number(v.toFixed(4)));
};

describe('what is seen where nothing stands', () => {
  it('a linear plate goes from above to below, a radial one from its middle outwards, alike in every direction', () => {
    expect(at(plate({ kind: 'linear' }), 0.2, 0)[0]).toBe(1);
    expect(at(plate({ kind: 'linear' }), 0.9, 0.5)[0]).toBe(0.5);
    const radial = plate({ kind: 'radial', centre: [0.5, 0.5], reach: 0.5 });
    expect(at(radial, 0.5, 0.5)[0]).toBe(1);
    // a quarter of the height up, and as far to the side in a frame of 3 : 2
    expect(at(radial, 0.5, 0.25)).toEqual(at(radial, 0.5 + 0.25 / 1.5, 0.5));
    expect(at(radial, 0.5, 1)[0]).toBe(0);
  });
  it('a picture covers the frame and is cut where its shape is another', () => {
    const square = { width: 2, height: 2, rgb: Float32Array.from([1, 0, 0, 0, 1, 0, 0, 0, 1, 1, 1, 1]) };
    expect(at(plate({ kind: 'picture' }), 0.1, 0.3, square)).toEqual([1, 0, 0]);
    expect(at(plate({ kind: 'picture' }), 0.9, 0.9, square)).toEqual([1, 1, 1]);
  });
  it('lies behind what stands, in the share that is open', () => {
    const linear = new Float32Array(6).fill(0.2);
    const math = plainFilmMath();
    const planes = new PlatePlane(math);
    math.layBehind(linear, Float32Array.from([1, 0.25]), planes.of(plate({ kind: 'linear', to: [1, 1, 1] }), 2, 1));
    expect(linear[0]).toBeCloseTo(0.2, 6);
    expect(linear[3]).toBeCloseTo(0.2 + 0.75, 6);
    // a stop brighter is twice as bright; squares are one and the other
    expect(planes.of(plate({ kind: 'linear', to: [1, 1, 1], stops: 1 }), 2, 1)[0]).toBeCloseTo(
      2 * planes.of(plate({ kind: 'linear', to: [1, 1, 1] }), 2, 1)[0]!,
      6,
    );
    const squares = planes.of(plate({ kind: 'checker', from: [1, 1, 1], to: [0, 0, 0] }), 40, 40);
    expect([0, 2, 4].map((x) => squares[x * 3])).toEqual([1, 0, 1]);
    expect(squares[2 * 40 * 3]).toBe(0);
  });
});
