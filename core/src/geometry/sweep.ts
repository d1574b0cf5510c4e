/** Triangles with smooth normals. */
export interface MeshData {
  positions: Float32Array;
  normals: Float32Array;
  indices: Uint32Array;
}

/** A curved backdrop, metres: floor in front of and behind the centre, wall height, fillet radius, height of the floor. */
export interface SweepShape {
  width: number;
  front: number;
  back: number;
  height: number;
  fillet: number;
  floor: number;
  /** See the setup's schema. */
  smoothness?: number | undefined;
}

/** Where a profile runs, z and y over the floor, and its normal's z and y. */
export type ProfilePoint = [z: number, y: number, nz: number, ny: number];

const CURVE_STEPS = 48;
/** Midpoints of the integral between two steps of a curve. */
const BETWEEN = 8;

/**
 * The curve from floor to wall within a square of side 1, as it leaves the floor at (0, 0) and arrives at the wall at (1, 1): the
 * angle turned over the length t is (1 − s)·t + s·(3t² − 2t³) quarter circles, so its curvature is that of a circle at s = 0, and
 * begins and ends at nothing at s = 1. Tangent to both for every s.
 */
export function filletCurve(smoothness: number): { along: number; up: number; angle: number }[] {
  const s = smoothness;
  const angleAt = (t: number): number => (Math.PI / 2) * ((1 - s) * t + s * t * t * (3 - 2 * t));
  if (s === 0)
    return Array.from({ length: CURVE_STEPS + 1 }, (_, i) => {
      const angle = angleAt(i / CURVE_STEPS);
      return { along: Math.sin(angle), up: 1 - Math.cos(angle), angle };
    });
  const curve = [{ along: 0, up: 0, angle: 0 }];
  for (let i = 0; i < CURVE_STEPS; i++) {
    let { along, up } = curve[i]!;
    for (let k = 0; k < BETWEEN; k++) {
      const angle = angleAt((i + (k + 0.5) / BETWEEN) / CURVE_STEPS);
      along += Math.cos(angle);
      up += Math.sin(angle);
    }
    curve.push({ along, up, angle: angleAt((i + 1) / CURVE_STEPS) });
  }
  const { along, up } = curve.at(-1)!;
  return curve.map((p) => ({ along: p.along / along, up: p.up / up, angle: p.angle }));
}

/** Rows of a wall that changes its tone. */
export const TONE_ROWS = 32;

/** The profile of a sweep from its floor's front edge to the wall's top; its wall in `rows`. */
export function sweepProfile(sweep: Omit<SweepShape, 'width' | 'floor'>, rows = 1): ProfilePoint[] {
  const { front, back, height, smoothness = 0 } = sweep;
  const r = Math.min(sweep.fillet, height, back + front);
  const profile: ProfilePoint[] = [[front, 0, 0, 1]];
  if (r > 0)
    for (const { along, up, angle } of filletCurve(smoothness))
      profile.push([-back + r - r * along, r * up, Math.sin(angle), Math.cos(angle)]);
  else profile.push([-back, 0, 0, 1], [-back, 0, 1, 0]);
  for (let i = 1; i <= rows; i++) profile.push([-back, r + ((height - r) * i) / rows, 1, 0]);
  return profile;
}

/**
 * A floor that turns up into a wall through one quarter: profile along −Z, drawn out along X. The floor's top side and the wall's
 * front face the subject, which stands at the origin.
 */
export function buildSweep(sweep: SweepShape, rows = 1): MeshData {
  const { width, floor } = sweep;
  const profile = sweepProfile(sweep, rows);
  const n = profile.length;
  const positions = new Float32Array(n * 6),
    normals = new Float32Array(n * 6),
    indices = new Uint32Array((n - 1) * 6);
  profile.forEach(([z, y, nz, ny], i) => {
    for (let side = 0; side < 2; side++) {
      positions.set([side ? width / 2 : -width / 2, floor + y, z], (i * 2 + side) * 3);
      normals.set([0, ny, nz], (i * 2 + side) * 3);
    }
    if (i + 1 < n) indices.set([i * 2, i * 2 + 1, i * 2 + 3, i * 2, i * 2 + 3, i * 2 + 2], i * 6);
  });
  return { positions, normals, indices };
}
