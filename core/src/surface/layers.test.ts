import { describe, expect, it } from '@jest/globals';
import {
  albedoAt,
  albedoBetween,
  albedoTables,
  ALBEDO_ROWS,
  charlieAt,
  charlieD,
  DIFFUSION_REACH,
  diffusionProfile,
  diffusionWidth,
  material,
  normalReflectance,
  rowAlpha,
  sampleDiffusion,
  schlick,
  sheenAlbedo,
  sheenV,
} from './index.ts';

describe('albedo tables', () => {
  const { A, B, meanA, meanB } = albedoTables();
  // Directional albedo for F = 1 (A + B), height-correlated Smith; α 0.25 is roughness ½, α 1 roughness 1 (design table, two
  // methods agree within 7e-4)
  it.each([
    [0.5, [0.9158, 0.8855, 0.8574, 0.8378, 0.892]],
    [1, [0.30686, 0.3788, 0.4506, 0.5601, 0.7603]],
  ])('agree with the published table for roughness %f', (roughness, row) => {
    [1, 0.7, 0.5, 0.3, 0.1].forEach((mu, i) =>
      expect(Math.abs(albedoBetween(A, roughness, mu) + albedoBetween(B, roughness, mu) - row[i]!)).toBeLessThan(0.012),
    );
  });
  it('hold what Fresnel adds at grazing: a smooth dielectric gives back F by Schlick', () => {
    for (const mu of [1, 0.5, 0.3]) expect(0.04 * albedoAt(A, 0, mu) + albedoAt(B, 0, mu)).toBeCloseTo(schlick(0.04, mu), 2);
  });
  it('average as the quadrature does, and a coat with what it leaves adds up to one', () => {
    for (let row = 0; row < ALBEDO_ROWS; row += 7) {
      const mean = 0.04 * meanA[row]! + meanB[row]!;
      // Kulla and Conty's diffuse: ∫ (1−E(v))(1−E(l)) / (1−Ē) cos/π dl = 1 − E(v)
      for (const mu of [0.2, 0.9]) {
        const e = 0.04 * albedoAt(A, row, mu) + albedoAt(B, row, mu);
        let sum = 0;
        for (let i = 0; i < 400; i++) {
          const l = (i + 0.5) / 400;
          sum += (((1 - e) * (1 - 0.04 * albedoAt(A, row, l) - albedoAt(B, row, l))) / (1 - mean)) * 2 * l;
        }
        expect(sum / 400 + e).toBeCloseTo(1, 3);
      }
    }
  });
  it('rows run over perceptual roughness', () => {
    expect(rowAlpha(ALBEDO_ROWS - 1)).toBe(1);
    expect(rowAlpha(0)).toBe(0.002);
  });
});

describe('reflectance at normal incidence', () => {
  // Fresnel's equations at 0°: 1.5 → 0.04, 1.33 → 0.02005931
  it.each([
    [1.5, 0.04],
    [1.33, 0.02005931],
    [1, 0],
  ])('of index %f is %f', (ior, f0) => expect(normalReflectance(ior)).toBeCloseTo(f0, 8));
});

describe('normalised diffusion (Christensen, Burley 2015)', () => {
  it.each([0.0005, 0.002, 0.01])('integrates over the plane to one, d = %f', (d) => {
    // ∫ R(r) 2πr dr in steps that grow with r
    let sum = 0,
      r = 0;
    for (let i = 0; i < 4000; i++) {
      const h = (d * 40) / 4000;
      sum += diffusionProfile(r + h / 2, d) * 2 * Math.PI * (r + h / 2) * h;
      r += h;
    }
    expect(sum).toBeCloseTo(1, 3);
  });
  it('is what the formula says, at every radius, to a few parts in a hundred thousand', () => {
    const d = 0.003;
    for (let x = 0.001; x < 30; x *= 1.013) {
      const r = x * d,
        said = (Math.exp(-x) + Math.exp(-x / 3)) / (8 * Math.PI * d * r);
      expect(Math.abs(diffusionProfile(r, d) / said - 1)).toBeLessThan(5e-5);
    }
    expect(diffusionProfile(0, d)).toBeGreaterThan(diffusionProfile(1e-6, d));
  });
  it('draws radii by its own density: a quarter of them short', () => {
    const d = 0.002,
      n = 20000;
    const radii = Array.from({ length: n }, (_, i) => sampleDiffusion((i + 0.5) / n, d));
    // CDF 1 − ¼e^(−r/d) − ¾e^(−r/3d)
    for (const r of [0.001, 0.004, 0.02]) {
      const inside = radii.filter((x) => x < r).length / n;
      expect(inside).toBeCloseTo(1 - 0.25 * Math.exp(-r / d) - 0.75 * Math.exp(-r / (3 * d)), 3);
    }
  });
  it('is followed far enough: what lies beyond is a quarter of a percent', () => {
    const r = DIFFUSION_REACH;
    expect(0.25 * Math.exp(-r) + 0.75 * Math.exp(-r / 3)).toBeLessThan(0.003);
  });
  it('is wider for a longer path, as their fit says for A = 0.8: d = ℓ / 1.05', () => {
    expect(diffusionWidth(0.00105, 0.8)).toBeCloseTo(0.001, 9);
    expect(diffusionWidth(0.002, 0.3)).toBeCloseTo(2 * diffusionWidth(0.001, 0.3), 12);
  });
});

describe('sheen', () => {
  it('is normalised: the projected Charlie distribution integrates to one (Estevez, Kulla 2017)', () => {
    for (const alpha of [0.2, 0.5, 1]) {
      let sum = 0;
      const n = 4000;
      for (let i = 0; i < n; i++) {
        const cos = (i + 0.5) / n;
        sum += (charlieD(cos, alpha) * cos * 2 * Math.PI) / n;
      }
      expect(sum).toBeCloseTo(1, 2);
    }
  });
  it('is looked up in a table to a few percent', () => {
    for (const roughness of [0.4, 0.8, 1])
      for (const nh of [0.05, 0.4, 0.8]) expect(charlieAt(nh, roughness) / charlieD(nh, roughness ** 2)).toBeCloseTo(1, 1);
  });
  it('is reciprocal, rises towards grazing and never gives more than it gets', () => {
    expect(sheenV(0.2, 0.7)).toBe(sheenV(0.7, 0.2));
    for (const roughness of [0.2, 0.5, 1]) {
      expect(sheenAlbedo(0.1, roughness)).toBeGreaterThan(sheenAlbedo(0.9, roughness));
      for (const mu of [0, 0.1, 0.5, 1]) expect(sheenAlbedo(mu, roughness)).toBeLessThanOrEqual(1);
    }
  });
});

describe('a material', () => {
  it('has the defaults of glTF where it says nothing', () => {
    expect(material({ name: 'x' })).toMatchObject({
      ior: 1.5,
      specular: 1,
      coat: 0,
      transmission: 0,
      alphaMode: 'opaque',
      alphaCutoff: 0.5,
    });
  });
});
