import { describe, expect, it } from '@jest/globals';
import { buildPlinth, buildStage, cornerLine, roomLine, weld, type MeshData, type StageMeasures } from './index.ts';

const measures = { width: 6, front: 3, back: 2, height: 3, fillet: 0.7, floor: 0.1 };
const stage = (kind: StageMeasures['kind']) => buildStage({ ...measures, kind });

/** Every triangle with its middle, its plane's normal, and the mean of its vertices' normals. */
function triangles({ positions: p, normals: n, indices }: MeshData) {
  return Array.from({ length: indices.length / 3 }, (_, t) => {
    const at = (a: Float32Array, k: number) => [0, 1, 2].map((x) => a[indices[t * 3 + k]! * 3 + x]!);
    const [a, b, c] = [at(p, 0), at(p, 1), at(p, 2)] as [number[], number[], number[]];
    const u = b.map((v, k) => v - a[k]!),
      w = c.map((v, k) => v - a[k]!);
    return {
      middle: a.map((v, k) => (v + b[k]! + c[k]!) / 3),
      plane: [u[1]! * w[2]! - u[2]! * w[1]!, u[2]! * w[0]! - u[0]! * w[2]!, u[0]! * w[1]! - u[1]! * w[0]!],
      normal: at(n, 0).map((v, k) => v + at(n, 1)[k]! + at(n, 2)[k]!),
    };
  });
}
const dot = (a: number[], b: number[]) => a.reduce((s, v, k) => s + v * b[k]!, 0);

describe('stages', () => {
  it.each(['sweep', 'corner', 'flat', 'room', 'floor'] as const)(
    'a %s turns its triangles as its normals, and both towards the figure',
    (kind) => {
      const figure = [0, 1.6, 0];
      for (const mesh of stage(kind))
        for (const { middle, plane, normal } of triangles(mesh)) {
          expect(dot(plane, normal)).toBeGreaterThan(0);
          expect(
            dot(
              normal,
              figure.map((v, k) => v - middle[k]!),
            ),
          ).toBeGreaterThan(0);
        }
    },
  );
  it('none is nothing', () => expect(stage('none')).toEqual([]));
  it('walls stand on the floor and are as high as they say', () => {
    for (const kind of ['corner', 'flat', 'room'] as const) {
      const ys = stage(kind).flatMap((m) => [...m.positions].filter((_, i) => i % 3 === 1));
      expect(Math.min(...ys)).toBeCloseTo(0.1, 6);
      expect(Math.max(...ys)).toBeCloseTo(3.1, 6);
    }
  });
  it('a corner is rounded by its radius, tangent to both walls, and nearest behind the figure', () => {
    const line = cornerLine(measures);
    // the walls run at 45°: their tangent points have their normals
    for (const [x, z, nx, nz] of line.slice(1, -1)) {
      // the circle's middle is the fillet away along the normal, for every point of the arc
      expect(x + nx * 0.7).toBeCloseTo(0, 6);
      expect(z + nz * 0.7).toBeCloseTo(-2 + 0.7 * Math.SQRT2, 6);
    }
    const [sx, sz, snx, snz] = line[0]!,
      [tx, tz] = line[1]!;
    expect((tx - sx) * snx + (tz - sz) * snz).toBeCloseTo(0, 6);
    expect(cornerLine({ ...measures, fillet: 0 })).toHaveLength(4);
  });
  it('a room closes around the figure, its front half a part of its own', () => {
    const line = roomLine(measures);
    expect(line.at(-1)).toEqual(line[0]);
    // once round: the angles seen from the middle add up to 360°
    let turn = 0;
    for (let i = 0; i + 1 < line.length; i++) {
      const [a, b] = [line[i]!, line[i + 1]!];
      turn += Math.atan2(a[0] * b[1] - a[1] * b[0], a[0] * b[0] + a[1] * b[1]);
    }
    expect(Math.abs(turn)).toBeCloseTo(2 * Math.PI, 6);
    const parts = stage('room');
    expect(parts.map((m) => m.part)).toEqual(['backdrop', 'front']);
    for (const { middle } of triangles(parts[1]!)) expect(middle[2]).toBeGreaterThanOrEqual(0);
    for (const { middle } of triangles(parts[0]!)) expect(middle[2]).toBeLessThanOrEqual(1e-6);
  });
});

describe('plinths', () => {
  it.each(['round', 'square', 'rock'] as const)('a %s one is as wide and tall as it says, closed above, and faces outwards', (shape) => {
    const mesh = buildPlinth({ shape, position: [1, 0.2, -1], width: 0.8, height: 0.5 });
    const span = (k: number) => {
      const v = [...mesh.positions].filter((_, i) => i % 3 === k);
      return [Math.min(...v), Math.max(...v)] as const;
    };
    const near = shape === 'rock' ? 0.25 : 0.01;
    expect(Math.abs(span(0)[1] - span(0)[0] - 0.8)).toBeLessThan(near);
    expect(span(1)[0]).toBeCloseTo(0.2, 6);
    expect(span(1)[1]).toBeCloseTo(0.7, shape === 'rock' ? 1 : 6);
    let outwards = 0,
      all = 0;
    for (const { middle, plane } of triangles(mesh)) {
      if (Math.hypot(...plane) < 1e-9) continue;
      all++;
      if (dot(plane, [middle[0]! - 1, middle[1]! - 0.4, middle[2]! + 1]) > 0) outwards++;
    }
    expect(outwards / all).toBeGreaterThan(0.97);
  });
  it('are the same each time they are built', () => {
    const rock = () => buildPlinth({ shape: 'rock', position: [0, 0, 0], width: 1, height: 0.4 }).positions;
    expect(rock()).toEqual(rock());
  });
});

describe('joining vertices', () => {
  it('keeps one of each place and drops triangles that fall flat by it', () => {
    const positions = Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -0, 0, 0]);
    const joined = weld(positions, Uint32Array.from([0, 1, 2, 3, 4, 5]));
    expect(joined.positions).toHaveLength(9);
    expect([...joined.indices]).toEqual([0, 1, 2]);
  });
});
