import type { Vec3 } from '../math/index.ts';

/** Something dark in a light's way: a panel, a disk or a box. Unit axes, half sizes in metres. */
export interface Flag {
  kind: 'panel' | 'disk' | 'box';
  centre: Vec3;
  x: Vec3;
  y: Vec3;
  z: Vec3;
  half: Vec3;
  /** Share of the light that it stops, 0…1. */
  density: number;
  /** Share of its half size (of a box's thickness) over which it thins out, 0…1. */
  soft: number;
}

const smooth = (t: number): number => (t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t));

/** What passes a flag on the way from a point along a unit direction, `d` metres far: 0…1. */
export function flagPasses(f: Flag, px: number, py: number, pz: number, wx: number, wy: number, wz: number, d: number): number {
  const rx = px - f.centre[0],
    ry = py - f.centre[1],
    rz = pz - f.centre[2];
  const oz = rx * f.z[0] + ry * f.z[1] + rz * f.z[2],
    dz = wx * f.z[0] + wy * f.z[1] + wz * f.z[2];
  const ox = rx * f.x[0] + ry * f.x[1] + rz * f.x[2],
    dx = wx * f.x[0] + wy * f.x[1] + wz * f.x[2],
    oy = rx * f.y[0] + ry * f.y[1] + rz * f.y[2],
    dy = wx * f.y[0] + wy * f.y[1] + wz * f.y[2];
  if (f.kind === 'box') return 1 - f.density * throughBox(f, ox, oy, oz, dx, dy, dz, d);
  if (Math.abs(dz) < 1e-9) return 1;
  const t = -oz / dz;
  if (!(t > 0 && t < d)) return 1;
  const p = (ox + t * dx) / f.half[0],
    q = (oy + t * dy) / f.half[1];
  const m = f.kind === 'panel' ? Math.max(Math.abs(p), Math.abs(q)) : Math.sqrt(p * p + q * q);
  if (m >= 1) return 1;
  const cover = f.soft > 0 ? 1 - smooth((m - (1 - f.soft)) / f.soft) : 1;
  return 1 - f.density * cover;
}

/** How far a way goes through the box against what stops all: 0…1 (slabs; Kay, Kajiya 1986). */
function throughBox(f: Flag, ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, d: number): number {
  let near = 0,
    far = d;
  for (let k = 0; k < 3; k++) {
    const o = k === 0 ? ox : k === 1 ? oy : oz,
      w = k === 0 ? dx : k === 1 ? dy : dz,
      h = f.half[k]!;
    if (Math.abs(w) < 1e-12) {
      if (Math.abs(o) > h) return 0;
      continue;
    }
    const a = (-h - o) / w,
      b = (h - o) / w;
    near = Math.max(near, Math.min(a, b));
    far = Math.min(far, Math.max(a, b));
  }
  if (!(far > near)) return 0;
  const thickness = 2 * Math.min(f.half[0], f.half[1], f.half[2]);
  return f.soft > 0 ? smooth((far - near) / (f.soft * thickness)) : 1;
}
