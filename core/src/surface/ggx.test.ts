import { describe, expect, it } from '@jest/globals';
import { point, sample2 } from '../math/index.ts';
import { DIELECTRIC_F0, ggxD, ggxG1, ggxPdf, ggxSample, ggxV, half, schlick } from './index.ts';

const MUS = [1, 0.7, 0.5, 0.3, 0.1];

/** Directional albedo with F = 1 by the sampler: the mean of G2 / G1. */
function albedoBySampling(mu: number, alpha: number, n = 4096): number {
  const vx = Math.sqrt(1 - mu * mu);
  let sum = 0;
  for (let i = 0; i < n; i++) {
    sample2(i, 31);
    ggxSample(vx, 0, mu, alpha, point[0]!, point[1]!);
    const vh = vx * half[0]! + mu * half[2]!;
    const nl = 2 * vh * half[2]! - mu;
    if (nl > 0) sum += (ggxV(nl, mu, alpha) * 4 * nl * mu) / ggxG1(mu, alpha);
  }
  return sum / n;
}

/** The same integral by quadrature over the hemisphere of light directions. */
function albedoByQuadrature(mu: number, alpha: number): number {
  const vx = Math.sqrt(1 - mu * mu);
  const N = 900,
    M = 400;
  let sum = 0;
  for (let i = 0; i < N; i++) {
    // finer where the lobe is narrow: nl = s(2 − s) puts points near 1
    const s = (i + 0.5) / N,
      nl = s * (2 - s),
      weight = 2 * (1 - s);
    const sl = Math.sqrt(1 - nl * nl);
    for (let j = 0; j < M; j++) {
      const phi = ((j + 0.5) / M) * Math.PI;
      const hx = vx + sl * Math.cos(phi),
        hy = sl * Math.sin(phi),
        hz = mu + nl;
      const nh = hz / Math.hypot(hx, hy, hz);
      sum += ggxD(nh, alpha) * ggxV(nl, mu, alpha) * nl * weight;
    }
  }
  return (sum / N / M) * 2 * Math.PI;
}

// Directional albedo for F = 1, height-correlated Smith (Walter 2007; Heitz 2014), as tabulated by two methods that
// agree within 7e-4; columns are cosines 1, .7, .5, .3, .1
const TABLE: [number, number[]][] = [
  [0.1, [0.9882, 0.9814, 0.9692, 0.9364, 0.8837]],
  [0.25, [0.9158, 0.8855, 0.8574, 0.8378, 0.892]],
  [0.5, [0.6879, 0.6831, 0.6984, 0.7453, 0.8604]],
  [0.75, [0.4638, 0.5117, 0.5647, 0.6501, 0.8105]],
  [1, [1 - Math.LN2, 0.3788, 0.4506, 0.5601, 0.7603]],
];

describe('GGX', () => {
  it.each(TABLE)('has the published directional albedo for α = %f', (alpha, row) => {
    row.forEach((expected, i) => expect(Math.abs(albedoBySampling(MUS[i]!, alpha) - expected)).toBeLessThan(4e-3));
  });

  it.each([0.25, 0.5, 1])('sampler and quadrature agree for α = %f', (alpha) => {
    for (const mu of [0.9, 0.5]) expect(albedoBySampling(mu, alpha)).toBeCloseTo(albedoByQuadrature(mu, alpha), 2);
  });

  it('never gives back more than it gets', () => {
    for (const alpha of [0.05, 0.3, 0.6, 1]) for (const mu of MUS) expect(albedoBySampling(mu, alpha)).toBeLessThanOrEqual(1.0001);
  });

  it('is reciprocal', () => {
    expect(ggxV(0.3, 0.8, 0.4)).toBeCloseTo(ggxV(0.8, 0.3, 0.4), 12);
  });

  it('has a density that integrates to one over the sphere of directions', () => {
    const mu = 0.6,
      alpha = 0.5,
      vx = Math.sqrt(1 - mu * mu);
    let sum = 0;
    const N = 600,
      M = 600;
    for (let i = 0; i < N; i++) {
      const z = -1 + (2 * (i + 0.5)) / N,
        r = Math.sqrt(1 - z * z);
      for (let j = 0; j < M; j++) {
        const phi = ((j + 0.5) / M) * 2 * Math.PI;
        const hx = vx + r * Math.cos(phi),
          hy = r * Math.sin(phi),
          hz = mu + z,
          l = Math.hypot(hx, hy, hz);
        if (hz > 0) sum += ggxPdf(hz / l, mu, alpha);
      }
    }
    expect((sum / N / M) * 4 * Math.PI).toBeCloseTo(1, 2);
  });
});

describe('Fresnel by Schlick', () => {
  it('starts at ((n−1)/(n+1))² for n = 1.5 and ends at 1', () => {
    expect(DIELECTRIC_F0).toBeCloseTo(((1.5 - 1) / (1.5 + 1)) ** 2, 12);
    expect(schlick(0.04, 1)).toBe(0.04);
    expect(schlick(0.04, 0)).toBe(1);
  });
  it('stays within 0.02 of the exact dielectric values at 45° and 60° (n = 1.5: 0.05024, 0.08919)', () => {
    expect(Math.abs(schlick(0.04, Math.cos(Math.PI / 4)) - 0.05023991)).toBeLessThan(0.02);
    expect(Math.abs(schlick(0.04, 0.5) - 0.08918671)).toBeLessThan(0.02);
  });
});
