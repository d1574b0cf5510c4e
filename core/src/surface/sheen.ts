import { once } from '../math/index.ts';
// Sheen of cloth: the Charlie distribution (Estevez, Kulla 2017, "Production Friendly Microfacet Sheen BRDF") with
// Neubelt's visibility (Neubelt, Pettineo 2013), as KHR_materials_sheen prescribes.

const SIZE = 16;

/** D(h) for the cosine nh and alpha = roughness². */
export function charlieD(nh: number, alpha: number): number {
  const inverse = 1 / Math.max(alpha, 0.0064);
  return ((2 + inverse) * Math.max(0, 1 - nh * nh) ** (inverse / 2)) / (2 * Math.PI);
}

const D_COLUMNS = 128;
/** `charlieD` over the sine, in which the lobe is a power. */
const distributionTable = once(() => {
  const out = new Float32Array(SIZE * D_COLUMNS);
  for (let r = 0; r < SIZE; r++)
    for (let c = 0; c < D_COLUMNS; c++) out[r * D_COLUMNS + c] = charlieD(Math.sqrt(1 - (c / (D_COLUMNS - 1)) ** 2), (r / (SIZE - 1)) ** 2);
  return out;
});

/** `charlieD` from a table over the cosine and perceptual roughness (rows of the albedo table), for inner loops. */
export function charlieAt(nh: number, roughness: number): number {
  const distribution = distributionTable();
  const sin = Math.sqrt(Math.max(0, 1 - nh * nh)) * (D_COLUMNS - 1),
    i = sin >= D_COLUMNS - 2 ? D_COLUMNS - 2 : sin | 0,
    at = ((roughness * (SIZE - 1) + 0.5) | 0) * D_COLUMNS + i;
  const a = distribution[at]!;
  return a + (distribution[at + 1]! - a) * (sin - i);
}

/** Visibility: 1 / (4 (nl + nv − nl·nv)). */
export const sheenV = (nl: number, nv: number): number => 1 / (4 * (nl + nv - nl * nv));

const albedoTable = once(makeTable);

/** Directional albedo of the sheen lobe for cosine `mu` and perceptual roughness, from a table made by quadrature. */
export function sheenAlbedo(mu: number, roughness: number): number {
  const table = albedoTable();
  const r = Math.round(Math.min(1, Math.max(0, roughness)) * (SIZE - 1)),
    x = mu * (SIZE - 1),
    i = Math.min(SIZE - 2, x | 0);
  const a = table[r * SIZE + i]!;
  return a + (table[r * SIZE + i + 1]! - a) * (x - i);
}

function makeTable(): Float32Array {
  const out = new Float32Array(SIZE * SIZE);
  const steps = 48;
  for (let r = 0; r < SIZE; r++)
    for (let c = 0; c < SIZE; c++) {
      const mu = Math.max(0.02, c / (SIZE - 1)),
        vx = Math.sqrt(1 - mu * mu),
        alpha = (r / (SIZE - 1)) ** 2;
      let sum = 0;
      for (let i = 0; i < steps; i++) {
        const nl = (i + 0.5) / steps,
          sl = Math.sqrt(1 - nl * nl);
        for (let j = 0; j < steps; j++) {
          const phi = ((j + 0.5) / steps) * Math.PI;
          const hx = vx + sl * Math.cos(phi),
            hy = sl * Math.sin(phi),
            hz = mu + nl;
          sum += charlieD(hz / Math.hypot(hx, hy, hz), alpha) * sheenV(nl, mu) * nl;
        }
      }
      out[r * SIZE + c] = Math.min(1, (sum / steps / steps) * 2 * Math.PI);
    }
  return out;
}
