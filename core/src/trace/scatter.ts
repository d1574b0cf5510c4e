import type { RayKernel } from '@plinket/kernel';
import { cosTurn, mix, point, sample2, sinTurn } from '../math/index.ts';
import { DIELECTRIC_F0, ggxG1, ggxPdf, ggxSample, ggxV, half, schlick } from '../surface/index.ts';
import { DIFFUSE, SPECULAR, UNSCATTERED, type Batch } from './batch.ts';
import { SURFACE_OFFSET } from './surface.ts';

/** Bounces after which Russian roulette may end a path. */
const ROULETTE_FROM = 2;

/**
 * Sends every path on from its surface point: by the diffuse or the specular lobe, or straight through a clear surface.
 * Paths beyond `lastDepth` bounces end. Answers how many are still on their way; their rays stand in the kernel.
 */
export function scatter(batch: Batch, rays: RayKernel['rays'], count: number, sample: number, step: number, lastDepth: number): number {
  const { px, py, pz, gx, gy, gz, nx, ny, nz, vx, vy, vz, dr, dg, db, fr, fg, fb, alpha, chance, clear } = batch;
  const salt = step * 2 + 1;
  let n = 0;
  for (let i = 0; i < count; i++) {
    const x = nx[i]!,
      y = ny[i]!,
      z = nz[i]!;
    const ex = vx[i]!,
      ey = vy[i]!,
      ez = vz[i]!;
    const k = batch.key[i]!;
    let R = batch.tr[i]!,
      G = batch.tg[i]!,
      B = batch.tb[i]!,
      label = batch.label[i]!,
      depth = batch.depth[i]!,
      density: number,
      side = 1;
    let lx: number, ly: number, lz: number;
    const c = chance[i]!;
    sample2(sample, mix(k, salt * 2));
    const choice = point[0]!,
      roulette = point[1]!;
    const nv = Math.max(1e-4, x * ex + y * ey + z * ez);
    if (clear[i] === 2 || (clear[i] === 1 && choice >= c)) {
      // straight on: what the coat did not reflect, undivided in direction
      const pass = clear[i] === 2 ? 1 : (1 - schlick(DIELECTRIC_F0, nv)) / (1 - c);
      lx = -ex;
      ly = -ey;
      lz = -ez;
      R *= pass;
      G *= pass;
      B *= pass;
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
      sample2(sample, mix(k, salt * 2 + 1));
      const u1 = point[0]!,
        u2 = point[1]!;
      if (choice >= c) {
        const r = Math.sqrt(u1),
          a = r * cosTurn(u2),
          b = r * sinTurn(u2),
          h = Math.sqrt(Math.max(0, 1 - u1));
        lx = a * t1x + b * t2x + h * x;
        ly = a * t1y + b * t2y + h * y;
        lz = a * t1z + b * t2z + h * z;
        const hx = lx + ex,
          hy = ly + ey,
          hz = lz + ez;
        const vh = (hx * ex + hy * ey + hz * ez) / Math.sqrt(hx * hx + hy * hy + hz * hz);
        const f = (1 - schlick(DIELECTRIC_F0, vh)) / (1 - c);
        R *= dr[i]! * f;
        G *= dg[i]! * f;
        B *= db[i]! * f;
        density = ((1 - c) * h) / Math.PI;
        if (label === UNSCATTERED) label = DIFFUSE;
      } else {
        const a = alpha[i]!;
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
        const m = 1 - vh,
          m5 = m * m * m * m * m;
        const f = (ggxV(wz, nv, a) * 4 * wz * nv) / (ggxG1(nv, a) * c);
        R *= (fr[i]! + (1 - fr[i]!) * m5) * f;
        G *= (fg[i]! + (1 - fg[i]!) * m5) * f;
        B *= (fb[i]! + (1 - fb[i]!) * m5) * f;
        density = c * ggxPdf(half[2]!, nv, a);
        if (label === UNSCATTERED) label = SPECULAR;
      }
      if (lx * gx[i]! + ly * gy[i]! + lz * gz[i]! <= 0) continue;
      depth++;
    }
    if (depth >= ROULETTE_FROM) {
      const q = Math.max(R, G, B);
      if (q < 1) {
        const live = q < 0.05 ? 0.05 : q;
        if (roulette >= live) continue;
        R /= live;
        G /= live;
        B /= live;
      }
    }
    const o = SURFACE_OFFSET * side,
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
    batch.key[n] = k;
    batch.label[n] = label;
    batch.depth[n] = depth;
    batch.tr[n] = R;
    batch.tg[n] = G;
    batch.tb[n] = B;
    batch.density[n] = density;
    n++;
  }
  return n;
}
