import type { Brush, Field, Knot, Point } from './field.ts';

const DEGREE = Math.PI / 180;

/** World-to-local rows of a rotation by degrees about x, then y, then z. */
function rotation([rx, ry, rz]: Point): number[] {
  const a = Math.cos(rx * DEGREE),
    b = Math.sin(rx * DEGREE),
    c = Math.cos(ry * DEGREE),
    d = Math.sin(ry * DEGREE),
    e = Math.cos(rz * DEGREE),
    f = Math.sin(rz * DEGREE);
  return [e * c, f * c, -d, e * d * b - f * a, f * d * b + e * a, c * b, e * d * a + f * b, f * d * a - e * b, c * a];
}

/** The field `make` in a frame moved to `centre` and turned. */
function placed(centre: Point, turn: Point | undefined, local: Field): Field {
  const [cx, cy, cz] = centre;
  if (!turn) return (x, y, z) => local(x - cx, y - cy, z - cz);
  const m = rotation(turn);
  return (x, y, z) => {
    const a = x - cx,
      b = y - cy,
      c = z - cz;
    return local(m[0]! * a + m[1]! * b + m[2]! * c, m[3]! * a + m[4]! * b + m[5]! * c, m[6]! * a + m[7]! * b + m[8]! * c);
  };
}

export const sphere = (centre: Point, radius: number): Field =>
  placed(centre, undefined, (x, y, z) => Math.sqrt(x * x + y * y + z * z) - radius);

/** Ellipsoid by the usual bound k0 (k0 − 1) / k1. */
export function ellipsoid(centre: Point, radii: Point, turn?: Point): Field {
  const [ix, iy, iz] = [1 / radii[0], 1 / radii[1], 1 / radii[2]];
  return placed(centre, turn, (x, y, z) => {
    const a = x * ix,
      b = y * iy,
      c = z * iz;
    const k0 = Math.sqrt(a * a + b * b + c * c),
      k1 = Math.sqrt(a * a * ix * ix + b * b * iy * iy + c * c * iz * iz);
    return k1 < 1e-9 ? -Math.min(...radii) : (k0 * (k0 - 1)) / k1;
  });
}

/** Box with rounded edges, by half sizes. */
export function roundedBox(centre: Point, half: Point, round: number, turn?: Point): Field {
  const [hx, hy, hz] = [half[0] - round, half[1] - round, half[2] - round];
  return placed(centre, turn, (x, y, z) => {
    const a = Math.abs(x) - hx,
      b = Math.abs(y) - hy,
      c = Math.abs(z) - hz;
    return Math.hypot(Math.max(a, 0), Math.max(b, 0), Math.max(c, 0)) + Math.min(Math.max(a, b, c), 0) - round;
  });
}

/** A field stretched along the axes; distances are measured by the smallest factor. */
export function stretched(field: Field, [sx, sy, sz]: Point, [cx, cy, cz]: Point): Field {
  const m = Math.min(sx, sy, sz);
  return (x, y, z) => field((x - cx) / sx, (y - cy) / sy, (z - cz) / sz) * m;
}

/** Catmull–Rom through the knots, `per` pieces between two. */
function curve(knots: Knot[], per: number): Float64Array {
  const points: number[] = [];
  const last = knots.length - 1;
  if (last === 1 || per <= 1) return Float64Array.from(knots.flat());
  for (let i = 0; i < last; i++) {
    const p0 = knots[Math.max(i - 1, 0)]!,
      p1 = knots[i]!,
      p2 = knots[i + 1]!,
      p3 = knots[Math.min(i + 2, last)]!;
    for (let s = 0; s < per; s++) {
      const t = s / per,
        t2 = t * t,
        t3 = t2 * t;
      for (let j = 0; j < 4; j++)
        points.push(
          0.5 *
            (2 * p1[j]! +
              (p2[j]! - p0[j]!) * t +
              (2 * p0[j]! - 5 * p1[j]! + 4 * p2[j]! - p3[j]!) * t2 +
              (3 * p1[j]! - p0[j]! - 3 * p2[j]! + p3[j]!) * t3),
        );
    }
  }
  points.push(...knots[last]!);
  return Float64Array.from(points);
}

function boundingSphere(points: Float64Array): [number, number, number, number] {
  const low = [1e9, 1e9, 1e9],
    high = [-1e9, -1e9, -1e9];
  for (let i = 0; i < points.length; i += 4)
    for (let j = 0; j < 3; j++) {
      low[j] = Math.min(low[j]!, points[i + j]! - points[i + 3]!);
      high[j] = Math.max(high[j]!, points[i + j]! + points[i + 3]!);
    }
  const c = low.map((v, j) => (v + high[j]!) / 2);
  return [c[0]!, c[1]!, c[2]!, Math.hypot(high[0]! - low[0]!, high[1]! - low[1]!, high[2]! - low[2]!) / 2];
}

/** Segments that share a bounding sphere. */
const RUN = 8;

/**
 * Along the chain, the least of what `measure` makes of the distance to the axis and the radius there. `measure` rises with the
 * distance and falls with the radius, so that a run of segments whose sphere is too far away need not be looked at.
 */
function alongChain(points: Float64Array, measure: (distance: number, radius: number) => number): Field {
  const segments = points.length / 4 - 1;
  const runs = Array.from({ length: Math.ceil(segments / RUN) }, (_, k) => {
    const part = points.slice(k * RUN * 4, Math.min(segments + 1, (k + 1) * RUN + 1) * 4);
    const axis = part.map((v, i) => (i % 4 === 3 ? 0 : v));
    const widest = part.reduce((m, v, i) => (i % 4 === 3 ? Math.max(m, v) : m), 0);
    const [x, y, z, r] = boundingSphere(axis);
    return { x, y, z, r, widest, from: k * RUN, to: Math.min(segments, (k + 1) * RUN) };
  });
  return (x, y, z) => {
    let best = 1e9;
    for (const run of runs) {
      const far = Math.sqrt((x - run.x) ** 2 + (y - run.y) ** 2 + (z - run.z) ** 2) - run.r;
      if (measure(far > 0 ? far : 0, run.widest) >= best) continue;
      for (let s = run.from; s < run.to; s++) {
        const i = s * 4;
        const ax = points[i]!,
          ay = points[i + 1]!,
          az = points[i + 2]!,
          dx = points[i + 4]! - ax,
          dy = points[i + 5]! - ay,
          dz = points[i + 6]! - az;
        const along = ((x - ax) * dx + (y - ay) * dy + (z - az) * dz) / (dx * dx + dy * dy + dz * dz);
        const t = along < 0 ? 0 : along > 1 ? 1 : along;
        const ex = x - ax - dx * t,
          ey = y - ay - dy * t,
          ez = z - az - dz * t;
        const d = measure(Math.sqrt(ex * ex + ey * ey + ez * ez), points[i + 3]! + (points[i + 7]! - points[i + 3]!) * t);
        if (d < best) best = d;
      }
    }
    return best;
  };
}

const bounded = (points: Float64Array, margin: number, field: Field): Field => {
  const [bx, by, bz, r] = boundingSphere(points);
  return (x, y, z) => {
    const d = Math.sqrt((x - bx) ** 2 + (y - by) ** 2 + (z - bz) ** 2) - r;
    return d > margin ? d : field(x, y, z);
  };
};

/** A swept tube whose radius follows its knots; `per` ≥ 6 keeps bands from showing on long curves. */
export function tube(knots: Knot[], per = 4): Field {
  const points = curve(knots, per);
  return bounded(
    points,
    45,
    alongChain(points, (distance, radius) => distance - radius),
  );
}

/** A stroke for `bump` along knots; its edge is at the local radius. */
export function stroke(knots: Knot[], per = 4): Brush {
  const points = curve(knots, per);
  const radius = Math.min(...knots.map((k) => k[3]));
  const relative = alongChain(points, (distance, local) => distance / local);
  return { radius, field: bounded(points, 0, (x, y, z) => (relative(x, y, z) - 1) * radius) };
}

/** An ellipsoid as a stroke for `bump`. */
export function dab(centre: Point, radii: Point, turn?: Point): Brush {
  const radius = Math.min(...radii);
  return { radius, field: placed(centre, turn, (x, y, z) => (Math.hypot(x / radii[0], y / radii[1], z / radii[2]) - 1) * radius) };
}

/** Signed distance to a closed polygon in the front view; z does not matter. */
export function polygon(points: [number, number][]): Field {
  return (x, y) => {
    let d = 1e9,
      sign = 1;
    for (let i = 0, j = points.length - 1; i < points.length; j = i++) {
      const [px, py] = points[i]!,
        [qx, qy] = points[j]!;
      const ex = qx - px,
        ey = qy - py,
        wx = x - px,
        wy = y - py;
      const t = Math.min(1, Math.max(0, (wx * ex + wy * ey) / (ex * ex + ey * ey)));
      d = Math.min(d, (wx - ex * t) ** 2 + (wy - ey * t) ** 2);
      const above = y >= py,
        below = y < qy,
        left = ex * wy > ey * wx;
      if ((above && below && left) || (!above && !below && !left)) sign = -sign;
    }
    return sign * Math.sqrt(d);
  };
}
