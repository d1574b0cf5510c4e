import type { RayKernel } from '@plinket/kernel';
import { cosTurn, dimension, maskWords, openDimension, shiftedA, shiftedB, sinTurn } from '../math/index.ts';
import { OPAQUE, UNSCATTERED, type Batch } from './batch.ts';
import { lightKey } from './dimensions.ts';

const OPENNESS = 0x0c1d;
const place = dimension();

/** Adds 1 to a pixel for every cosine-distributed ray from its first surface that goes `reach` metres without meeting anything. */
export function openness(
  batch: Batch,
  kernel: RayKernel,
  reach: number,
  film: Float32Array,
  count: number,
  sample: number,
  seed: number,
): number {
  const { shadowRays, blocked } = kernel;
  const mask = maskWords();
  openDimension(place, sample, lightKey(seed, OPENNESS, 0));
  let w = 0;
  for (let i = 0; i < count; i++) {
    if (batch.fields.pass[i] !== OPAQUE || batch.fields.label[i] !== UNSCATTERED) continue;
    const x = batch.fields.nx[i]!,
      y = batch.fields.ny[i]!,
      z = batch.fields.nz[i]!;
    const s = z >= 0 ? 1 : -1,
      a0 = -1 / (s + z),
      b0 = x * y * a0;
    const u = shiftedA(place, mask, batch.fields.cell[i]!),
      turn = shiftedB(place, mask, batch.fields.cell[i]!);
    const r = Math.sqrt(u),
      a = r * cosTurn(turn),
      b = r * sinTurn(turn),
      h = Math.sqrt(Math.max(0, 1 - u));
    const o = w * 8;
    shadowRays[o] = batch.fields.ox[i]!;
    shadowRays[o + 1] = batch.fields.oy[i]!;
    shadowRays[o + 2] = batch.fields.oz[i]!;
    shadowRays[o + 3] = 0;
    shadowRays[o + 4] = a * (1 + s * x * x * a0) + b * b0 + h * x;
    shadowRays[o + 5] = a * s * b0 + b * (s + y * y * a0) + h * y;
    shadowRays[o + 6] = -a * s * x - b * y + h * z;
    shadowRays[o + 7] = reach;
    batch.fields.waitingPixel[w] = batch.fields.pixel[i]!;
    w++;
  }
  kernel.occluded(w);
  for (let i = 0; i < w; i++) {
    if (blocked[i]) continue;
    const f = batch.fields.waitingPixel[i]! * 3;
    film[f] = film[f]! + 1;
    film[f + 1] = film[f + 1]! + 1;
    film[f + 2] = film[f + 2]! + 1;
  }
  return w;
}
