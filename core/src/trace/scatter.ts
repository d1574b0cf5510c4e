import type { RayKernel } from '@plinket/kernel';
import { cosTurn, dimension, maskWords, openDimension, shiftedA, shiftedB, sinTurn } from '../math/index.ts';
import { ALBEDO_COLUMNS, albedoTables, DIELECTRIC_F0, ggxG1, ggxPdf, ggxSample, ggxV, half, schlick } from '../surface/index.ts';
import { CLEAR, DIFFUSE, SPECULAR, THROUGH, UNSCATTERED, type Batch } from './batch.ts';
import { DIRECTION, LOBE, stepKey } from './dimensions.ts';
import { broadExtra, lobes, sharpExtra } from './extra.ts';

/** Bounces after which Russian roulette may end a path. */
const ROULETTE_FROM = 2;

const choices = dimension(),
  directions = dimension();

/**
 * Sends every path on from its surface point: by the broad lobes (diffuse, sheen, through fibres), by the sharp ones
 * (reflection, coat), or straight through. Paths beyond `lastDepth` bounces end. Answers how many are still on their way;
 * their rays stand in the kernel. `haze` weakens them on the way later, where their length is known.
 */
export function scatter(
  batch: Batch,
  rays: RayKernel['rays'],
  count: number,
  sample: number,
  step: number,
  seed: number,
  lastDepth: number,
): number {
  const { px, py, pz, gx, gy, gz, nx, ny, nz, vx, vy, vz, dr, dg, db, fr, fg, fb, f90, lost, alpha, row, chance, pass, extra } = batch;
  const { A, B } = albedoTables();
  const mask = maskWords();
  openDimension(choices, sample, stepKey(seed, step, LOBE));
  openDimension(directions, sample, stepKey(seed, step, DIRECTION));
  let n = 0;
  for (let i = 0; i < count; i++) {
    const x = nx[i]!,
      y = ny[i]!,
      z = nz[i]!;
    const ex = vx[i]!,
      ey = vy[i]!,
      ez = vz[i]!;
    const cell = batch.cell[i]!;
    let R = batch.tr[i]!,
      G = batch.tg[i]!,
      Bl = batch.tb[i]!,
      label = batch.label[i]!,
      depth = batch.depth[i]!,
      density: number,
      side = 1;
    let lx: number, ly: number, lz: number;
    const c = chance[i]!;
    const choice = shiftedA(choices, mask, cell),
      roulette = shiftedB(choices, mask, cell);
    const nv = Math.max(1e-4, x * ex + y * ey + z * ez);
    if (pass[i] === THROUGH || (pass[i] === CLEAR && choice >= c)) {
      // straight on: what the surface did not reflect, undivided in direction
      lx = -ex;
      ly = -ey;
      lz = -ez;
      if (pass[i] === CLEAR) {
        const k = (1 - schlick(DIELECTRIC_F0, nv)) / (1 - c);
        R *= k * dr[i]!;
        G *= k * dg[i]!;
        Bl *= k * db[i]!;
      }
      density = batch.density[i]!;
      side = -1;
    } else {
      if (depth >= lastDepth) continue;
      // a frame around the normal (Duff et al. 2017, "Building an Orthonormal Basis, Revisited")
      const s = z >= 0 ? 1 : -1,
        a0 = -1 / (s + z),
        b0 = x * y * a0;
      const t1x = 1 + s * x * x * a0,
        t1y = s * b0,
        t1z = -s * x,
        t2x = b0,
        t2y = s + y * y * a0,
        t2z = -y;
      const u1 = shiftedA(directions, mask, cell),
        u2 = shiftedB(directions, mask, cell);
      const special = extra[i] !== 0;
      if (choice >= c) {
        const r = Math.sqrt(u1),
          a = r * cosTurn(u2),
          b = r * sinTurn(u2),
          h = Math.sqrt(Math.max(0, 1 - u1));
        // through the fibres, or back
        const thin = special ? batch.thin[i]! : 0,
          over = thin > 0 && choice - c < (1 - c) * thin;
        const up = over ? -h : h;
        lx = a * t1x + b * t2x + up * x;
        ly = a * t1y + b * t2y + up * y;
        lz = a * t1z + b * t2z + up * z;
        if (over) side = -1;
        if (special) {
          broadExtra(batch, i, lx, ly, lz);
          R *= lobes.r;
          G *= lobes.g;
          Bl *= lobes.b;
        } else {
          const q = h * (ALBEDO_COLUMNS - 1),
            j = q >= ALBEDO_COLUMNS - 2 ? ALBEDO_COLUMNS - 2 : q | 0,
            at = row[i]! + j,
            f = q - j;
          const ea = A[at]! + (A[at + 1]! - A[at]!) * f,
            e9 = B[at]! + (B[at + 1]! - B[at]!) * f;
          const k = (1 - (fr[i]! + fg[i]! + fb[i]!) * (1 / 3) * ea - f90[i]! * e9) / (1 - c);
          R *= dr[i]! * k;
          G *= dg[i]! * k;
          Bl *= db[i]! * k;
        }
        density = ((1 - c) * (over ? thin : 1 - thin) * h) / Math.PI;
        if (label === UNSCATTERED) label = DIFFUSE;
      } else {
        const coated = special && choice < c * batch.coatChance[i]!;
        const a = coated ? batch.coatAlpha[i]! : alpha[i]!;
        const lvx = t1x * ex + t1y * ey + t1z * ez,
          lvy = t2x * ex + t2y * ey + t2z * ez;
        ggxSample(lvx, lvy, nv, a, u1, u2);
        const vh = lvx * half[0]! + lvy * half[1]! + nv * half[2]!;
        const wx = 2 * vh * half[0]! - lvx,
          wy = 2 * vh * half[1]! - lvy,
          wz = 2 * vh * half[2]! - nv;
        if (wz <= 1e-6) continue;
        lx = wx * t1x + wy * t2x + wz * x;
        ly = wx * t1y + wy * t2y + wz * y;
        lz = wx * t1z + wy * t2z + wz * z;
        if (special) {
          density = sharpExtra(batch, i, lx, ly, lz);
          R *= lobes.r;
          G *= lobes.g;
          Bl *= lobes.b;
        } else {
          const m = 1 - vh,
            m2 = m * m,
            m5 = m2 * m2 * m,
            u = 1 - m5,
            g5 = f90[i]! * m5;
          const f = (ggxV(wz, nv, a) * 4 * wz * nv) / (ggxG1(nv, a) * c),
            more = lost[i]! * f;
          R *= (fr[i]! * u + g5) * (f + fr[i]! * more);
          G *= (fg[i]! * u + g5) * (f + fg[i]! * more);
          Bl *= (fb[i]! * u + g5) * (f + fb[i]! * more);
          density = c * ggxPdf(half[2]!, nv, a);
        }
        if (label === UNSCATTERED) label = SPECULAR;
      }
      if ((lx * gx[i]! + ly * gy[i]! + lz * gz[i]!) * side <= 0) continue;
      depth++;
    }
    if (depth >= ROULETTE_FROM) {
      const q = Math.max(R, G, Bl);
      if (q < 1) {
        const live = q < 0.05 ? 0.05 : q;
        if (roulette >= live) continue;
        R /= live;
        G /= live;
        Bl /= live;
      }
    }
    const o = batch.gap[i]! * side,
      r = n * 8;
    rays[r] = px[i]! + gx[i]! * o;
    rays[r + 1] = py[i]! + gy[i]! * o;
    rays[r + 2] = pz[i]! + gz[i]! * o;
    rays[r + 3] = 0;
    rays[r + 4] = lx;
    rays[r + 5] = ly;
    rays[r + 6] = lz;
    rays[r + 7] = 1e30;
    batch.pixel[n] = batch.pixel[i]!;
    batch.cell[n] = cell;
    batch.travelled[n] = batch.travelled[i]!;
    batch.label[n] = label;
    batch.depth[n] = depth;
    batch.tr[n] = R;
    batch.tg[n] = G;
    batch.tb[n] = Bl;
    batch.density[n] = density;
    n++;
  }
  return n;
}
