import { add, clamp, distance, DEGREE, dot, normalize, scale, sub, type Vec3 } from '../math/index.ts';
import { sunDirection } from '../light/index.ts';
import {
  axesInWorld,
  fromHead,
  LIMITS,
  placeInWorld,
  placeOf,
  setupHead,
  type FlagItem,
  type Frame,
  type Place,
  type PlacedLight,
  type Setup,
} from '../setup/index.ts';

/** A flat view of the set around the head, metres: x to the right, y up on paper. */
export interface Flat {
  kind: 'plan' | 'side';
  head: Frame;
  /** Level directions in the world: away from the camera, and to the picture's right. */
  away: Vec3;
  right: Vec3;
  project(p: Vec3): [number, number];
}

/** PLAN has the camera at the bottom and the background at the top; SIDE has the camera at the left. */
export function flatView(setup: Setup, kind: 'plan' | 'side'): Flat {
  const head = setupHead(setup);
  const toward = sub(setup.camera.target, setup.camera.position);
  const away = normalize([toward[0], 0, toward[2]], [0, 0, -1]);
  const right: Vec3 = [-away[2], 0, away[0]];
  return {
    kind,
    head,
    away,
    right,
    project: (p) => {
      const d = sub(p, head.origin);
      return kind === 'plan' ? [dot(d, right), dot(d, away)] : [dot(d, away), d[1]];
    },
  };
}

/** A point on paper, metres. */
export type Point = [number, number];

/** What is drawn of a light or a flag, on paper, to scale. */
export interface Outline {
  /** Silhouette of the thing itself. */
  body: Point[];
  /** Where it shines, faintly; empty for what shines everywhere. */
  wedge: Point[];
  centre: Point;
}

/** Corner of the hull turns left. */
const turn = (o: Point, a: Point, b: Point): number => (a[0] - o[0]) * (b[1] - o[1]) - (a[1] - o[1]) * (b[0] - o[0]);

/** Convex hull (Andrew's monotone chain, 1979). */
export function hull(points: Point[]): Point[] {
  const sorted = [...points].sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const half = (list: Point[]): Point[] => {
    const out: Point[] = [];
    for (const p of list) {
      while (out.length >= 2 && turn(out.at(-2)!, out.at(-1)!, p) <= 0) out.pop();
      out.push(p);
    }
    out.pop();
    return out;
  };
  const around = [...half(sorted), ...half([...sorted].reverse())];
  return around.length ? around : sorted.slice(0, 1);
}

const along = (o: Vec3, ...steps: [Vec3, number][]): Vec3 => steps.reduce((p, [d, k]) => add(p, scale(d, k)), o);

/** A circle of points around c in the plane of two axes. */
const ring = (c: Vec3, x: Vec3, y: Vec3, a: number, b = a, n = 20): Vec3[] =>
  Array.from({ length: n }, (_, i) => {
    const t = (i / n) * 2 * Math.PI;
    return along(c, [x, a * Math.cos(t)], [y, b * Math.sin(t)]);
  });

const sphere = (c: Vec3, r: number): Vec3[] => [
  ...ring(c, [1, 0, 0], [0, 1, 0], r),
  ...ring(c, [0, 0, 1], [0, 1, 0], r),
  ...ring(c, [1, 0, 0], [0, 0, 1], r),
];

/** Points of a light whose hull is its silhouette. */
function bodyOf(head: Frame, light: PlacedLight): Vec3[] {
  const { centre: c, x, y, z } = axesInWorld(head, light);
  const box = (w: number, h: number): Vec3[] => [1, -1].flatMap((i) => [1, -1].map((j) => along(c, [x, (i * w) / 2], [y, (j * h) / 2])));
  switch (light.kind) {
    case 'rectangle':
      return box(light.width, light.height);
    case 'disk':
      return ring(c, x, y, light.width / 2, light.height / 2);
    case 'ball':
      return sphere(c, light.diameter / 2);
    case 'tube':
      return [1, -1].flatMap((i) => sphere(along(c, [y, (i * light.length) / 2]), light.diameter / 2));
    case 'spot':
    case 'profile': {
      // a housing behind the lens, long enough to be seen
      const r = Math.max(0.04, light.diameter / 2);
      return [...ring(c, x, y, r), ...ring(along(c, [z, -0.2]), x, y, r * 0.75)];
    }
  }
}

/** The outline of a placed light around a head (by default that of the paper's middle), and faintly the half-space or beam that it shines into. */
export function lightOutline(flat: Flat, light: PlacedLight, head = flat.head): Outline {
  const { centre: position, x, y, z } = axesInWorld(head, light);
  const body = hull(bodyOf(head, light).map(flat.project));
  const centre = flat.project(position);
  const reach = Math.min(0.9, distance(position, fromHead(head, light.place.aim)) * 0.55);
  if (light.kind === 'ball' || light.kind === 'tube') return { body, wedge: [], centre };
  if (light.kind === 'spot' || light.kind === 'profile') {
    const half = ((light.kind === 'spot' ? Math.min(light.angle, 150) : 60) * DEGREE) / 2;
    const far = along(position, [z, reach * 1.6 * Math.cos(half)]);
    return { body, wedge: hull([position, ...ring(far, x, y, reach * 1.6 * Math.sin(half))].map(flat.project)), centre };
  }
  // the two corners that lie furthest apart on paper are the panel's ends
  const [a, b] = furthest(body);
  const l = flat.project(add(position, z));
  const d = [l[0] - centre[0], l[1] - centre[1]];
  const spread = light.beam.angle < 180 ? 0.7 * (light.beam.angle / 180) ** 2 : 0.7;
  const open = (p: Point): Point => [
    p[0] + d[0]! * reach + (p[0] - centre[0]) * spread,
    p[1] + d[1]! * reach + (p[1] - centre[1]) * spread,
  ];
  return { body, wedge: [a, b, open(b), open(a)], centre };
}

/** The outline of a flag. */
export function flagOutline(flat: Flat, flag: FlagItem, head = flat.head): Outline {
  const { centre: c, x, y, z } = axesInWorld(head, flag);
  const thick = flag.kind === 'box' ? flag.depth / 2 : 0.006;
  const points =
    flag.kind === 'disk'
      ? ring(c, x, y, flag.width / 2, flag.height / 2)
      : [1, -1].flatMap((i) => [1, -1].map((j) => along(c, [x, (i * flag.width) / 2], [y, (j * flag.height) / 2])));
  return {
    body: hull(points.flatMap((p) => [along(p, [z, thick]), along(p, [z, -thick])]).map(flat.project)),
    wedge: [],
    centre: flat.project(c),
  };
}

/** Where a sun stands at the edge of paper that reaches `halfW` × `halfH` metres from the head; its sky stands nearer. */
export function sunOnPaper(flat: Flat, sun: { kind?: string; elevation: number; bearing: number }, halfW: number, halfH: number): Point {
  const inwards = sun.kind === 'sky' ? 0.78 : 1;
  const w = sunDirection(sun.elevation, sun.bearing);
  const p = flat.project(add(flat.head.origin, w));
  const k = Math.min((halfW - 0.16) / Math.max(1e-6, Math.abs(p[0])), (halfH - 0.16) / Math.max(1e-6, Math.abs(p[1])));
  const far = flat.kind === 'plan' ? k * inwards : Math.min(k, halfW) * inwards;
  return [p[0] * far, p[1] * far];
}

/** Bearing or elevation of a sun that is dragged to a point on paper. */
export function sunFrom(flat: Flat, sun: { elevation: number; bearing: number }, [x, y]: Point): { elevation: number; bearing: number } {
  if (flat.kind === 'side') {
    const w = sunDirection(0, sun.bearing);
    const level = Math.abs(dot(w, flat.away));
    return {
      ...sun,
      elevation: clamp(Math.round(Math.atan2(y, Math.max(Math.abs(x), 0.15) / Math.max(0.2, level)) / DEGREE), LIMITS.sunHeight),
    };
  }
  const d = add(scale(flat.right, x), scale(flat.away, y));
  return { ...sun, bearing: Math.round(Math.atan2(d[0], d[2]) / DEGREE) };
}

function furthest(points: Point[]): [Point, Point] {
  let best: [Point, Point] = [points[0]!, points[1] ?? points[0]!],
    most = -1;
  for (const p of points)
    for (const q of points) {
      const d = Math.hypot(p[0] - q[0], p[1] - q[1]);
      if (d > most) {
        most = d;
        best = [p, q];
      }
    }
  return best;
}

/** Nearest to the vertical that a height angle is kept when a symbol is dragged in PLAN, degrees. */
const STEEPEST = 88;

/**
 * The place that a light gets when its symbol is dragged to a point on paper. In PLAN its height angle stays and it goes
 * round and out; in SIDE it rises and sinks on its own vertical line.
 * @param head the head that the light stands around
 */
export function dragTo(flat: Flat, place: Place, [x, y]: Point, head = flat.head): Partial<Place> {
  if (flat.kind === 'plan') {
    const elevation = clamp(place.elevation, [-STEEPEST, STEEPEST]);
    const point = add(flat.head.origin, add(scale(flat.right, x), scale(flat.away, y)));
    const level = sub(point, head.origin);
    // never nearer than the nearest distance that there is
    const far = Math.max(LIMITS.distance[0] * Math.cos(elevation * DEGREE), Math.hypot(level[0], level[2]));
    const p = add(head.origin, [level[0], far * Math.tan(elevation * DEGREE), level[2]]);
    const { azimuth, distance: d } = placeOf(head, p);
    return { azimuth, distance: clamp(d, LIMITS.distance) };
  }
  const now = sub(placeInWorld(head, place), head.origin);
  const p = add(head.origin, [now[0], flat.head.origin[1] + y - head.origin[1], now[2]]);
  const { elevation, distance: d } = placeOf(head, p);
  return { elevation, distance: d };
}
