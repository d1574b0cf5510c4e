import type { RayKernel, Shader } from '@plinket/kernel';
import { cosTurn, dimension, maskWords, openDimension, shiftedA, shiftedB, sinTurn } from '../math/index.ts';
import { ALBEDO_COLUMNS, albedoTables, DIELECTRIC_F0, ggxG1, ggxPdf, ggxSample, ggxV, half, schlick } from '../surface/index.ts';
import { CLEAR, DIFFUSE, SPECULAR, THROUGH, UNSCATTERED, type Batch } from './batch.ts';
import { DIRECTION, LOBE, stepKey } from './dimensions.ts';
import { broadExtra, lobes, sharpExtra } from './extra.ts';
import type { Origins } from './reach.ts';

/** Bounces after which Russian roulette may end a path. */
const ROULETTE_FROM = 2;

const choices = dimension(),
  directions = dimension();

/**
 * Sends every path on from its surface point: by the broad lobes (diffuse, sheen, through fibres), by the sharp ones
 * (reflection, coat), or straight through. Paths beyond `lastDepth` bounces end. Answers how many are still on their way;
 * their rays stand in the kernel, whose shader does plain surfaces where it is there. `origins`: remembers what they left.
 */
export function scatter(
  batch: Batch,
  rays: RayKernel['rays'],
  shader: Shader | undefined,
  count: number,
  sample: number,
  step: number,
  seed: number,
  lastDepth: number,
  origins?: Origins,
): number {
  openDimension(choices, sample, stepKey(seed, step, LOBE));
  openDimension(directions, sample, stepKey(seed, step, DIRECTION));
  if (shader) shader.scatterPlain(count, choices, directions, lastDepth);
  goOn(batch, lastDepth, origins?.straight.fill(0, 0, count));
  origins?.leave(batch, count);
  return shader ? shader.depart(count) : depart(batch, rays, count);
}

/**
 * Chooses how paths go on: direction in `lx ly lz`, throughput in `lr lg lb`, density in `ld`, and in `lw` whether they do (1; −1
 * on the other side) or end (0). Only for the surface points that are left for the host.
 */
function goOn(batch: Batch, lastDepth: number, straight?: Uint8Array): void {
  const { gx, gy, gz, nx, ny, nz, vx, vy, vz, dr, dg, db, fr, fg, fb, f90, cover, cover90, lost, alpha, row, chance, pass, extra } =
    batch.fields;
  const f = batch.fields;
  const { A, B } = albedoTables();
  const mask = maskWords();
  const { rest, restCount } = batch;
  for (let at = 0; at < restCount; at++) {
    const i = rest[at]!;
    f.lw[i] = 0;
    const x = nx[i]!,
      y = ny[i]!,
      z = nz[i]!;
    const ex = vx[i]!,
      ey = vy[i]!,
      ez = vz[i]!;
    const cell = batch.fields.cell[i]!;
    let R = batch.fields.tr[i]!,
      G = batch.fields.tg[i]!,
      Bl = batch.fields.tb[i]!,
      label = batch.fields.label[i]!,
      depth = batch.fields.depth[i]!,
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
      density = batch.fields.density[i]!;
      side = -1;
      if (straight) straight[i] = 1;
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
          R *= lobes[4]!;
          G *= lobes[5]!;
          Bl *= lobes[6]!;
        } else {
          const q = h * (ALBEDO_COLUMNS - 1),
            j = q >= ALBEDO_COLUMNS - 2 ? ALBEDO_COLUMNS - 2 : q | 0,
            at = row[i]! + j,
            f = q - j;
          const ea = A[at]! + (A[at + 1]! - A[at]!) * f,
            e9 = B[at]! + (B[at + 1]! - B[at]!) * f;
          const k = (1 - cover[i]! * ea - cover90[i]! * e9) / (1 - c);
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
          R *= lobes[4]!;
          G *= lobes[5]!;
          Bl *= lobes[6]!;
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
    f.lx[i] = lx;
    f.ly[i] = ly;
    f.lz[i] = lz;
    f.ld[i] = density;
    f.lw[i] = side;
    f.lr[i] = R;
    f.lg[i] = G;
    f.lb[i] = Bl;
    f.label[i] = label;
    f.depth[i] = depth;
  }
}

/** The twin of the shader's `depart`: rays of the paths that go on, closing up the ranks. */
function depart(batch: Batch, rays: RayKernel['rays'], count: number): number {
  const { px, py, pz, gx, gy, gz, gap, lx, ly, lz, ld, lw, lr, lg, lb, tr, tg, tb, density } = batch.fields;
  let n = 0;
  for (let i = 0; i < count; i++) {
    const way = lw[i]!;
    if (way === 0) continue;
    const o = gap[i]! * way,
      r = n * 8;
    rays[r] = px[i]! + gx[i]! * o;
    rays[r + 1] = py[i]! + gy[i]! * o;
    rays[r + 2] = pz[i]! + gz[i]! * o;
    rays[r + 3] = 0;
    rays[r + 4] = lx[i]!;
    rays[r + 5] = ly[i]!;
    rays[r + 6] = lz[i]!;
    rays[r + 7] = 1e30;
    batch.movePath(i, n);
    tr[n] = lr[i]!;
    tg[n] = lg[i]!;
    tb[n] = lb[i]!;
    density[n] = ld[i]!;
    n++;
  }
  return n;
}
