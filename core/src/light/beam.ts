// How a source's light thins out away from its axis.

const smooth = (t: number): number => (t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t));

/**
 * What a honeycomb grid passes at an angle: the overlap of a round cell's two openings, shifted by q of their diameter,
 * q = tan θ / tan(half angle). Plane geometry of two equal circles; 1 on the axis, 0 from the half angle on.
 */
export function gridPasses(tanAngle: number, tanHalf: number): number {
  const q = tanAngle / tanHalf;
  if (!(q < 1)) return 0;
  return (2 / Math.PI) * (Math.acos(q) - q * Math.sqrt(1 - q * q));
}

/**
 * Intensity of a spot over that on its axis, by the cosine from the axis. `angle` is the full beam angle (radians) at
 * which half is left; `soft` 0…1 is the share of it that the edge takes.
 */
export function spotShape(angle: number, soft: number): (cos: number) => number {
  const half = angle / 2,
    wide = half * Math.max(0.01, soft);
  const inner = half - wide / 2,
    outer = half + wide / 2;
  return (cos) => {
    const a = Math.acos(cos > 1 ? 1 : cos < -1 ? -1 : cos);
    return 1 - smooth((a - inner) / (outer - inner));
  };
}

const STEPS = 512;

/** Share of a Lambertian panel's flux that a grid of a full angle (radians) passes: 2 ∫ g cos θ sin θ dθ. */
export function gridShare(angle: number): number {
  const half = Math.min(angle / 2, Math.PI / 2 - 1e-4),
    tanHalf = Math.tan(half);
  let sum = 0;
  for (let i = 0; i < STEPS; i++) {
    const a = ((i + 0.5) / STEPS) * half;
    sum += gridPasses(Math.tan(a), tanHalf) * Math.sin(a) * Math.cos(a);
  }
  return (2 * sum * half) / STEPS;
}

/** Flux (lm) of a spot of 1 cd on its axis: 2π ∫ s(θ) sin θ dθ. */
export function spotFlux(angle: number, soft: number): number {
  const shape = spotShape(angle, soft),
    end = Math.min(Math.PI, (angle / 2) * (1 + Math.max(0.01, soft) / 2));
  let sum = 0;
  for (let i = 0; i < STEPS; i++) {
    const a = ((i + 0.5) / STEPS) * end;
    sum += shape(Math.cos(a)) * Math.sin(a);
  }
  return (2 * Math.PI * sum * end) / STEPS;
}

/** Where a light's reach begins and ends, metres from it; 0 for an end that is nowhere. `soft` is the share that fades. */
export interface Range {
  near: number;
  far: number;
  soft: number;
}

/** What is left of a light at a distance, by its range. */
export function inRange({ near, far, soft }: Range, d: number): number {
  let k = 1;
  if (near > 0) k *= smooth((d - near * (1 - soft)) / Math.max(1e-6, near * soft));
  if (far > 0) k *= 1 - smooth((d - far * (1 - soft)) / Math.max(1e-6, far * soft));
  return k;
}
