import type { Point } from './field.ts';
import type { Surface } from './nets.ts';
import type { Proportions } from './proportions.ts';

interface Ring {
  r: number;
  z: number;
  nr: number;
  nz: number;
  colour: (angle: number) => Point;
  /** Relief towards the front, mm. */
  lift?: (angle: number) => number;
}

/** Rings of a body of revolution about +Z, turned into triangles, `around` to a ring. */
function rings(name: string, centre: Point, profile: Ring[], around: number, coloured: boolean): Surface {
  const positions: number[] = [],
    normals: number[] = [],
    colours: number[] = [],
    indices: number[] = [];
  profile.forEach(({ r, z, nr, nz, colour, lift }, i) => {
    for (let j = 0; j < around; j++) {
      const b = (j / around) * Math.PI * 2,
        c = Math.cos(b),
        s = Math.sin(b);
      // a relief leans the normal against its rise round the ring
      const rise = lift ? (lift(b + 0.01) - lift(b - 0.01)) / (0.02 * Math.max(r, 0.5)) : 0,
        l = Math.hypot(nr, nz, nz * rise);
      positions.push(centre[0] + r * c, centre[1] + r * s, centre[2] + z + (lift?.(b) ?? 0));
      normals.push((nr * c + nz * rise * s) / l, (nr * s - nz * rise * c) / l, nz / l);
      colours.push(...colour(b));
      if (!i) continue;
      const k = (j + 1) % around,
        above = (i - 1) * around,
        here = i * around;
      indices.push(above + j, here + j, here + k, above + j, here + k, above + k);
    }
  });
  return {
    name,
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    indices: Uint32Array.from(indices),
    ...(coloured ? { colours: Float32Array.from(colours) } : {}),
  };
}

/** Radii for an eyeball of 12.2 mm: iris and pupil as a drawing has them, larger than the 5.9 and 2.1 of anatomy; cornea 7.7 mm (from memory). */
const IRIS = 6.3,
  PUPIL = 2.3,
  CORNEA = 7.7,
  BALL = 12.2;

/** How far the cornea reaches in front of an eyeball's middle, in its radii. */
export const CORNEA_FRONT = (Math.sqrt(BALL ** 2 - IRIS ** 2) - Math.sqrt(CORNEA ** 2 - IRIS ** 2) + CORNEA) / BALL;

/** How far a strand of the iris stands out at an angle, −1…1. */
const strandAt = (b: number): number => Math.sin(b * 23 + Math.sin(b * 7) * 2);

/**
 * Both eyes, each in three parts: the white with its hole, the dished iris with the pupil, and the clear cornea over it.
 */
export function eyeParts(p: Proportions, iris: Point): Surface[] {
  const R = p.eyeRadius,
    k = R / BALL,
    ir = IRIS * k,
    pr = PUPIL * k,
    cr = CORNEA * k;
  const irisZ = Math.sqrt(R * R - ir * ir);
  const out: Surface[] = [];
  for (const [side, tag] of [
    [1, 'L'],
    [-1, 'R'],
  ] as const) {
    const centre: Point = [side * p.pupilX, 0, p.eyeZ];
    const start = Math.asin(ir / R);
    const white = Array.from({ length: 33 }, (_, i) => {
      const a = start + (Math.PI - start) * (i / 32) ** 1.5,
        r = R * Math.sin(a);
      // darker at the limbus, a little red towards the corners
      const edge = Math.max(0, 1 - (r - ir) / (0.9 * k)) * (a < 1.5 ? 1 : 0),
        red = Math.min(1, Math.max(0, (r - ir - 2) / 5));
      const c: Point = [0.78 * (1 - 0.5 * edge), 0.76 * (1 - 0.5 * edge) * (1 - 0.1 * red), 0.73 * (1 - 0.5 * edge) * (1 - 0.14 * red)];
      return { r, z: R * Math.cos(a), nr: Math.sin(a), nz: Math.cos(a), colour: () => c };
    });
    out.push(rings(`eye white ${tag}`, centre, white, 56, true));
    const disc = [0, 0.18, pr / ir - 0.01, pr / ir, 0.45, 0.55, 0.65, 0.75, 0.85, 0.93, 1].map((q) => ({
      r: q * ir,
      z: irisZ - 0.9 * k * (1 - q),
      nr: -0.15,
      nz: 0.98,
      // strands that stand out between pupil and rim
      lift: (b: number) =>
        0.16 * k * Math.max(0, Math.sin(Math.PI * Math.min(1, Math.max(0, (q - pr / ir) / (1 - pr / ir))))) * strandAt(b),
      colour: (b: number): Point => {
        if (q < pr / ir) return [0.004, 0.004, 0.004];
        const fibre = 0.75 + 0.25 * strandAt(b);
        const tone = (q > 0.86 ? 0.35 : 1.15 - 0.3 * q) * fibre * 1.6;
        return [iris[0] * tone, iris[1] * tone, iris[2] * tone];
      },
    }));
    out.push(rings(`iris ${tag}`, centre, disc, 120, true));
    const base = irisZ - Math.sqrt(cr * cr - ir * ir);
    const dome = Array.from({ length: 15 }, (_, i) => {
      const r = (ir * 1.04 * i) / 14,
        z = Math.sqrt(cr * cr - r * r);
      return { r, z: base + z, nr: r / cr, nz: z / cr, colour: (): Point => [1, 1, 1] };
    });
    out.push(rings(`cornea ${tag}`, centre, dome, 48, false));
  }
  return out;
}
