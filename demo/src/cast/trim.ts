// Buttons, stitches and the wet edge of the eye: small things that clothes and faces are believed by.
import { Shape, type Field, type Knot, type Point } from '../form/field.ts';
import { frontOf } from '../form/coat.ts';
import { tube } from '../form/primitives.ts';
import { eyeCentre, lidCurves, type Proportions } from '../form/proportions.ts';
import { across, dot, plus, uphill, unit, type Growth, type Root } from '../strands/growth.ts';

/** The cloth in front at x y. @throws RangeError where there is none */
function onCloth(cloth: Shape, x: number, y: number): Point {
  const z = frontOf((a, b, c) => cloth.at(a, b, c), x, y);
  if (cloth.at(x, y, z) > 1) throw new RangeError(`There is no cloth at ${x.toFixed(0)}, ${y.toFixed(0)} mm.`);
  return [x, y, z];
}

/** A button on a cloth in front, at x y: a dished disc with four holes, or a domed one with a rim. */
function button(cloth: Shape, x: number, y: number, radius: number, domed: boolean): Field {
  const place = onCloth(cloth, x, y),
    out = uphill(cloth, place);
  const at = plus(place, out, radius * 0.16);
  const right = unit(across([0, 1, 0], out)),
    up = across(out, right);
  return (px, py, pz) => {
    const d: Point = [px - at[0], py - at[1], pz - at[2]];
    const far = Math.hypot(...d) - radius * 1.4;
    if (far > 4) return far;
    const h = dot(d, out),
      u = dot(d, right),
      v = dot(d, up),
      r = Math.hypot(u, v);
    // a flat ring round a hollow, or a dome inside a ring
    const top = domed
      ? 0.34 * radius * Math.sqrt(Math.max(0, 1 - (r / radius) ** 2)) + (r > 0.8 * radius ? 0.1 * radius : 0)
      : r < 0.68 * radius
        ? 0.02 * radius
        : 0.16 * radius;
    const edge = 0.1 * radius;
    const a = r - radius + edge,
      b = Math.abs(h - top / 2) - 0.14 * radius - top / 2 + edge;
    let disc = Math.hypot(Math.max(a, 0), Math.max(b, 0)) + Math.min(0, Math.max(a, b)) - edge;
    if (!domed)
      for (const k of [-1, 1])
        for (const l of [-1, 1]) disc = Math.max(disc, 0.13 * radius - Math.hypot(u - 0.24 * radius * k, v - 0.24 * radius * l));
    return disc * 0.8;
  };
}

export function buildButtons(cloth: Shape, places: readonly (readonly [x: number, y: number])[], radius: number, domed: boolean): Shape {
  const s = new Shape();
  for (const [x, y] of places) s.add(button(cloth, x, y, radius, domed), 0.1);
  return s;
}

/** Stitches along a line in the front view, as short ribbons on the cloth. `both`: on the other side, too. */
export function stitches(cloth: Shape, line: readonly (readonly [x: number, y: number])[], colour: Point, both = true): Growth {
  const PITCH = 5.2;
  const roots: Root[] = [],
    ways = new Map<Point, Point>();
  let left = 0;
  for (let i = 1; i < line.length; i++) {
    const [ax, ay] = line[i - 1]!,
      [bx, by] = line[i]!;
    const long = Math.hypot(bx - ax, by - ay);
    for (let s = left; s < long; s += PITCH) {
      const t = s / long;
      for (const side of both ? [1, -1] : [1]) {
        const x = side * (ax + (bx - ax) * t),
          y = ay + (by - ay) * t;
        const at = onCloth(cloth, x, y);
        roots.push({ at, normal: uphill(cloth, at) });
        ways.set(at, [(side * (bx - ax)) / long, (by - ay) / long, 0]);
      }
    }
    left = PITCH - ((long - left) % PITCH);
  }
  return {
    count: 0,
    roots,
    steps: 3,
    flow: (at) => {
      let best: Point = [0, 1, 0],
        least = Infinity;
      for (const [root, way] of ways) {
        const d = (root[0] - at[0]) ** 2 + (root[1] - at[1]) ** 2;
        if (d < least) [best, least] = [way, d];
      }
      return best;
    },
    length: () => 3.3,
    stand: (t) => 0.25 + 0.5 * Math.sin(Math.PI * t),
    hug: 1,
    stiff: 0.1,
    frizz: 0.02,
    width: 1.1,
    tip: 0.8,
    colour: [colour, colour],
    uneven: 0.08,
  };
}

/** The wet edge where the lower lid meets the eye: a thin bead that catches light. */
export function buildWetLine(p: Proportions): Shape {
  const e = eyeCentre(p),
    lids = lidCurves(p),
    r = p.eyeRadius + 0.25;
  const knots: Knot[] = [];
  for (let i = 0; i <= 10; i++) {
    const u = lids.inner + 2.5 + ((lids.outer - lids.inner - 3.5) * i) / 10,
      v = lids.lower(u) + 0.25;
    knots.push([e[0] + u, e[1] + v, e[2] + Math.sqrt(Math.max(1, r * r - u * u - v * v)), 0.5]);
  }
  return new Shape().addBoth(tube(knots, 4), 0.1);
}
