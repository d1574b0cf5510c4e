// Where light that went into skin comes out: an exit is found by a probe through the surface (King, Kulla, Conty, Fajardo 2013, "BSSRDF
// Importance Sampling"), radii by normalised diffusion (Christensen, Burley 2015). Along the normal each colour has a probe of its own, with the
// radii of its own profile, since its weight is 1 wherever the surface is flat; one more goes across, with the widest radii, for where it is
// not. They are weighed against each other by the power heuristic (Veach 1997, "Robust Monte Carlo Methods for Light Transport", section 9.2.3).
import type { RayKernel } from '@plinket/kernel';
import { cosTurn, dimension, maskWords, openDimension, shiftedA, shiftedB, sinTurn } from '../math/index.ts';
import type { SceneGeometry } from '../scene/index.ts';
import { DIFFUSION_REACH, diffusionProfile, sampleDiffusion } from '../surface/index.ts';
import type { Batch } from './batch.ts';
import { DEPTH, LAYER, stepKey } from './dimensions.ts';
import { arrive, axes, frameAt, takeAlone } from './exits.ts';
import type { HitCache } from './hit-cache.ts';
import { ACROSS, type Probes } from './probes.ts';

/** Surfaces of its own material that one probe may meet, and surfaces in all: clothes and strands of hair lie over skin, and light does not go in there. */
const FOUND = 3,
  MET = 24;
const radii = dimension(),
  kinds = dimension();

/**
 * Sends the first `count` probes. Exits that they find, and through which light goes, become paths of the batch from place `next` on; without
 * `next` they take the place of the path that went in, as if they had been the only one. Answers the rays traced, and the paths there are.
 */
export function sendProbes(
  batch: Batch,
  kernel: RayKernel,
  cache: HitCache,
  geometry: SceneGeometry,
  probes: Probes,
  count: number,
  sample: number,
  key: { step: number; seed: number },
  next: number | undefined,
): { rays: number; count: number } {
  const { rays } = kernel;
  const f = batch.fields;
  const mask = maskWords();
  openDimension(kinds, sample, stepKey(key.seed, key.step, LAYER));
  openDimension(radii, sample, stepKey(key.seed, key.step, DEPTH));
  let n = 0;
  for (let at = 0; at < count; at++) {
    const i = probes.path[at]!,
      exit = probes.exit[at]!,
      cell = probes.cell[at]!;
    frameAt(batch, i);
    // across: along one of two tangents
    const across = exit === ACROSS,
      axis = across ? (shiftedA(kinds, mask, cell) < 0.5 ? 1 : 2) : 0;
    const m = f.material[i]! * 3;
    const d = across ? Math.max(probes.widths[m]!, probes.widths[m + 1]!, probes.widths[m + 2]!) : probes.widths[m + exit]!,
      far = DIFFUSION_REACH * d,
      r = sampleDiffusion(shiftedA(radii, mask, cell), d);
    if (r >= far) {
      if (next === undefined) end(batch, i);
      continue;
    }
    const turn = shiftedB(radii, mask, cell),
      a = r * cosTurn(turn),
      b = r * sinTurn(turn),
      h = Math.sqrt(far * far - r * r);
    const k = axis * 3,
      p = ((axis + 1) % 3) * 3,
      q = ((axis + 2) % 3) * 3;
    const o = n * 8;
    for (let e = 0; e < 3; e++) {
      const from = e === 0 ? f.px[i]! : e === 1 ? f.py[i]! : f.pz[i]!;
      rays[o + e] = from + axes[p + e]! * a + axes[q + e]! * b + axes[k + e]! * h;
      rays[o + 4 + e] = -axes[k + e]!;
    }
    rays[o + 3] = 0;
    rays[o + 7] = 2 * h;
    probes.path[n] = i;
    probes.exit[n] = exit;
    probes.cell[n] = cell;
    probes.tried[n] = probes.tried[at]!;
    probes.width[n] = d;
    probes.sum[n] = 0;
    probes.found[n] = 0;
    n++;
  }
  const traced = n === 0 ? 0 : follow(batch, kernel, cache, geometry, probes, n);
  let places = next ?? 0;
  for (let j = 0; j < n; j++) {
    const i = probes.path[j]!;
    if (next !== undefined) places += arrive(batch, geometry, probes, j, places, true) ? 1 : 0;
    else if (arrive(batch, geometry, probes, j, i, false)) takeAlone(batch, probes, i);
    else end(batch, i);
  }
  return { rays: traced, count: places };
}

/** No light goes this way. */
function end({ fields: f }: Batch, i: number): void {
  f.tr[i] = f.tg[i] = f.tb[i] = 0;
}

/** Follows the probes through the surfaces of their own material and picks one exit for each. Answers the rays traced. */
function follow(batch: Batch, kernel: RayKernel, cache: HitCache, geometry: SceneGeometry, probes: Probes, count: number): number {
  const { rays, hits, hitIds } = kernel;
  const mask = maskWords();
  let traced = 0;
  const { slot } = probes;
  for (let s = 0; s < count; s++) slot[s] = s;
  for (let pass = 1, left = count; left > 0 && pass <= MET; pass++) {
    traced += cache.closest(left);
    let on = 0;
    for (let s = 0; s < left; s++) {
      const id = hitIds[s * 4 + 3]!;
      // nothing more to find on this one
      if (id < 0) continue;
      const j = slot[s]!;
      const t = hits[s * 4]!,
        half = rays[s * 8 + 7]! / 2,
        u = hits[s * 4 + 1]!,
        v = hits[s * 4 + 2]!;
      const path = probes.path[j]!,
        own = geometry.triangleMaterial[id] === batch.fields.material[path]!;
      const found = own ? ++probes.found[j]! : probes.found[j]!;
      if (found < FOUND) {
        rays.copyWithin(on * 8, s * 8, s * 8 + 8);
        rays[on * 8 + 3] = t + 2e-5;
        slot[on++] = j;
      }
      if (!own) continue;
      // one of those found, by how much light comes out there (weighted reservoir sampling, Chao 1982): far ones hardly count
      const d = probes.width[j]!,
        up = half - t,
        far = DIFFUSION_REACH * d;
      const light = diffusionProfile(Math.sqrt(Math.max(0, far * far - half * half + up * up)), d);
      probes.sum[j] = probes.sum[j]! + light;
      const pick = (shiftedB(kinds, mask, probes.cell[j]!) * 7.13 * found) % 1;
      if (pick * probes.sum[j]! >= light) continue;
      probes.taken[j] = light;
      probes.id[j] = id;
      probes.u[j] = u;
      probes.v[j] = v;
    }
    left = on;
  }
  return traced;
}
