// Directional albedo of GGX, in tables: how much of the light that comes from one direction a rough surface gives back.
// With Schlick's Fresnel term it splits in two: E(µ) = F0·A(µ) + F90·B(µ). From it follow the energy that single
// scattering loses (Turquin 2019, "Practical multiple scattering compensation for microfacet models", eq. 16) and what a
// coat leaves for the layer below (Kulla, Conty 2017, "Revisiting Physically Based Shading at Imageworks").
import { point, sample2, once } from '../math/index.ts';
import { ggxG1, ggxSample, ggxV, half } from './ggx.ts';

/** Rows run over perceptual roughness, columns over the cosine. */
export const ALBEDO_ROWS = 32;
export const ALBEDO_COLUMNS = 32;
const SAMPLES = 256;

export interface AlbedoTables {
  /** ROWS × COLUMNS. */
  A: Float32Array;
  B: Float32Array;
  /** Cosine-weighted means of each row: 2∫E(µ)µ dµ. */
  meanA: Float32Array;
  meanB: Float32Array;
}

/** The tables, made once from the sampler itself (some tens of milliseconds). */
export const albedoTables = once((): AlbedoTables => {
  const A = new Float32Array(ALBEDO_ROWS * ALBEDO_COLUMNS),
    B = new Float32Array(ALBEDO_ROWS * ALBEDO_COLUMNS);
  const meanA = new Float32Array(ALBEDO_ROWS),
    meanB = new Float32Array(ALBEDO_ROWS);
  const us = Float64Array.from({ length: SAMPLES * 2 });
  for (let i = 0; i < SAMPLES; i++) {
    sample2(i, 77);
    us[i * 2] = point[0]!;
    us[i * 2 + 1] = point[1]!;
  }
  for (let row = 0; row < ALBEDO_ROWS; row++) {
    const alpha = rowAlpha(row);
    for (let column = 0; column < ALBEDO_COLUMNS; column++) {
      const mu = Math.max(column / (ALBEDO_COLUMNS - 1), 0.004),
        vx = Math.sqrt(1 - mu * mu);
      let a = 0,
        b = 0;
      for (let i = 0; i < SAMPLES; i++) {
        ggxSample(vx, 0, mu, alpha, us[i * 2]!, us[i * 2 + 1]!);
        const vh = vx * half[0]! + mu * half[2]!,
          nl = 2 * vh * half[2]! - mu;
        if (!(nl > 0)) continue;
        const g = (ggxV(nl, mu, alpha) * 4 * nl * mu) / ggxG1(mu, alpha),
          f = (1 - vh) ** 5;
        a += g * (1 - f);
        b += g * f;
      }
      A[row * ALBEDO_COLUMNS + column] = a / SAMPLES;
      B[row * ALBEDO_COLUMNS + column] = b / SAMPLES;
    }
    meanA[row] = cosineMean(A, row);
    meanB[row] = cosineMean(B, row);
  }
  return { A, B, meanA, meanB };
});

/** GGX's alpha of a row. */
export const rowAlpha = (row: number): number => Math.max(0.002, (row / (ALBEDO_ROWS - 1)) ** 2);
/** The row for a perceptual roughness. */
export const rowOf = (roughness: number): number => Math.round(Math.min(1, Math.max(0, roughness)) * (ALBEDO_ROWS - 1));

function cosineMean(table: Float32Array, row: number): number {
  let sum = 0;
  const n = 256;
  for (let i = 0; i < n; i++) {
    const mu = (i + 0.5) / n;
    sum += albedoAt(table, row, mu) * mu;
  }
  return (2 * sum) / n;
}

/** Looks a row up at a cosine, linearly between columns. */
export function albedoAt(table: Float32Array, row: number, mu: number): number {
  const x = mu * (ALBEDO_COLUMNS - 1),
    i = x >= ALBEDO_COLUMNS - 2 ? ALBEDO_COLUMNS - 2 : x | 0;
  const at = row * ALBEDO_COLUMNS + i,
    a = table[at]!;
  return a + (table[at + 1]! - a) * (x - i);
}

/** Looks a table up between rows too, at a perceptual roughness. */
export function albedoBetween(table: Float32Array, roughness: number, mu: number): number {
  const y = Math.min(1, Math.max(0, roughness)) * (ALBEDO_ROWS - 1),
    j = y >= ALBEDO_ROWS - 2 ? ALBEDO_ROWS - 2 : y | 0;
  const a = albedoAt(table, j, mu);
  return a + (albedoAt(table, j + 1, mu) - a) * (y - j);
}
