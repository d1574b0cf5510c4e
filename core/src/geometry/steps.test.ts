import { describe, expect, it } from '@jest/globals';
import { buildSteps, filletCurve, sweepProfile, toneAt, buildStage, type StepsShape } from './index.ts';

const shape: StepsShape = { position: [0, 0, 0], turn: 0, width: 1.2, tread: 0.3, rise: 0.17, count: 3 };

/** Volume of a body by the divergence theorem, its open underside closed at y = 0 (adds nothing there). */
function volume(positions: Float32Array, indices: Uint32Array): number {
  let sum = 0;
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => [...positions.subarray(indices[t + k]! * 3, indices[t + k]! * 3 + 3)]) as [
      number[],
      number[],
      number[],
    ];
    sum += a[0]! * (b[1]! * c[2]! - b[2]! * c[1]!) + a[1]! * (b[2]! * c[0]! - b[0]! * c[2]!) + a[2]! * (b[0]! * c[1]! - b[1]! * c[0]!);
  }
  return sum / 6;
}

describe('steps', () => {
  it('hold as much as their columns, less their rounded edges, and face outwards', () => {
    const { positions, indices } = buildSteps(shape);
    const columns = shape.width * shape.tread * shape.rise * (1 + 2 + 3);
    // each edge of radius r loses (1 − π/4) r² of its section
    const edges = 3 * (1 - Math.PI / 4) * 0.008 ** 2 * shape.width;
    expect(volume(positions, indices)).toBeCloseTo(columns - edges, 5);
  });
  it('have normals on the side that their triangles face', () => {
    const { positions, normals, indices } = buildSteps({ ...shape, turn: 35, position: [1, 2, 3] });
    for (let t = 0; t < indices.length; t += 3) {
      const at = (k: number) => [0, 1, 2].map((x) => positions[indices[t + k]! * 3 + x]!);
      const [a, b, c] = [at(0), at(1), at(2)] as [number[], number[], number[]];
      const u = b.map((v, k) => v - a[k]!),
        w = c.map((v, k) => v - a[k]!);
      const plane = [u[1]! * w[2]! - u[2]! * w[1]!, u[2]! * w[0]! - u[0]! * w[2]!, u[0]! * w[1]! - u[1]! * w[0]!];
      const n = [0, 1, 2].map((x) => normals[indices[t]! * 3 + x]!);
      expect(plane.reduce((s, v, k) => s + v * n[k]!, 0)).toBeGreaterThan(0);
    }
  });
  it('begin at their position and rise away from it, to where they are turned', () => {
    const span = (turn: number, k: number) => {
      const v = [...buildSteps({ ...shape, turn, position: [1, 0.5, 2] }).positions].filter((_, i) => i % 3 === k);
      return [Math.min(...v), Math.max(...v)] as [number, number];
    };
    expect(span(0, 1)[0]).toBeCloseTo(0.5, 6);
    expect(span(0, 1)[1]).toBeCloseTo(0.5 + 0.51, 6);
    expect(span(0, 2)[0]).toBeCloseTo(2 - 0.9, 6);
    expect(span(0, 2)[1]).toBeCloseTo(2, 6);
    // a quarter turn to the subject's left: they rise towards −X
    expect(span(90, 0)[0]).toBeCloseTo(1 - 0.9, 6);
    expect(span(90, 0)[1]).toBeCloseTo(1, 6);
  });
});

describe('the curve from floor to wall', () => {
  it('is an arc of a circle without smoothness', () => {
    for (const { along, up } of filletCurve(0)) expect(Math.hypot(along, 1 - up)).toBeCloseTo(1, 12);
  });
  it.each([0, 0.3, 1])('is tangent to both and symmetrical, smoothness %d', (s) => {
    const curve = filletCurve(s);
    const first = curve[0]!,
      last = curve.at(-1)!;
    expect([first.along, first.up, first.angle]).toEqual([0, 0, 0]);
    expect(last.along).toBeCloseTo(1, 12);
    expect(last.up).toBeCloseTo(1, 12);
    expect(last.angle).toBeCloseTo(Math.PI / 2, 12);
    curve.forEach((p, i) => {
      const mirror = curve[curve.length - 1 - i]!;
      expect(1 - mirror.up).toBeCloseTo(p.along, 6);
      expect(Math.PI / 2 - mirror.angle).toBeCloseTo(p.angle, 9);
    });
  });
  it('bends little at its ends and more between, the gentler it is', () => {
    const bend = (s: number, i: number) => {
      const curve = filletCurve(s),
        [a, b] = [curve[i]!, curve[i + 1]!];
      return (b.angle - a.angle) / Math.hypot(b.along - a.along, b.up - a.up);
    };
    expect(bend(0, 0)).toBeCloseTo(1, 3);
    expect(bend(1, 0)).toBeLessThan(0.08);
    expect(bend(1, 24)).toBeGreaterThan(1.2);
    expect(bend(0.5, 0)).toBeGreaterThan(bend(1, 0));
    expect(bend(0.5, 0)).toBeLessThan(bend(0, 0));
  });
  it('runs in the profile where its slope says', () => {
    const profile = sweepProfile({ front: 2, back: 1.5, height: 3, fillet: 0.6, smoothness: 0.8 });
    for (let i = 1; i + 2 < profile.length; i++) {
      const [z0, y0, nz0, ny0] = profile[i]!,
        [z1, y1, nz1, ny1] = profile[i + 1]!;
      // the way between two points is square to the mean of their normals
      expect(Math.abs((z1 - z0) * (nz0 + nz1) + (y1 - y0) * (ny0 + ny1))).toBeLessThan(2e-5);
    }
  });
});

describe('a changing tone', () => {
  const stage = {
    ...{ kind: 'sweep' as const, width: 4, front: 2, back: 1.5, height: 3, fillet: 0.5, floor: 0.2 },
    colour: [0.1, 0.2, 0.3] as [number, number, number],
    gradient: { colour: [0.5, 0.4, 0.1] as [number, number, number], from: 1, to: 2 },
  };
  it('is the one below, the other above, half way between in the middle', () => {
    expect(toneAt(stage, 0.5)).toEqual([0.1, 0.2, 0.3]);
    const [r, g, b] = toneAt(stage, 1.5);
    expect([r, g, b].map((v) => Number(v.toFixed(9)))).toEqual([0.3, 0.3, 0.2]);
    toneAt(stage, 2.5).forEach((v, k) => expect(v).toBeCloseTo(stage.gradient.colour[k]!, 12));
    expect(toneAt({ ...stage, gradient: { ...stage.gradient, to: 1 } }, 1.01)[0]).toBeCloseTo(0.5, 12);
  });
  it.each(['sweep', 'corner', 'flat', 'room'] as const)('lies on the vertices of a %s by their height, in rows fine enough', (kind) => {
    const [mesh] = buildStage({ ...stage, kind });
    const { positions, colours } = mesh!;
    expect(colours).toHaveLength(positions.length);
    let between = 0;
    for (let i = 0; i < positions.length; i += 3) {
      const y = positions[i + 1]! - 0.2;
      if (y > 1.001 && y < 1.999) between++;
      expect(colours![i]!).toBeCloseTo(toneAt(stage, y)[0], 4);
    }
    expect(between).toBeGreaterThan(15);
  });
  it('is not there on a stage of one tone', () => {
    const { gradient: _, ...plain } = stage;
    expect(buildStage(plain)[0]!.colours).toBeUndefined();
  });
});
