import {
  add,
  distance,
  DEGREE,
  dot,
  fromHead,
  normalize,
  placeInWorld,
  placeOf,
  rectangleInWorld,
  scale,
  setupHead,
  sub,
  type Frame,
  type Place,
  type RectangleLight,
  type Setup,
  type Vec3,
} from '@plinket/core';

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

/** The outline of a light's panel and, faintly, the half-space it shines into, on paper. */
export function lightOutline(
  flat: Flat,
  light: RectangleLight,
): { panel: [number, number][]; wedge: [number, number][]; centre: [number, number] } {
  const { corner, ex, ey } = rectangleInWorld(flat.head, light);
  const panel = [corner, add(corner, ex), add(add(corner, ex), ey), add(corner, ey)].map(flat.project);
  const position = placeInWorld(flat.head, light.place);
  const reach = Math.min(0.9, distance(position, fromHead(flat.head, light.place.aim)) * 0.55);
  const look = normalize(sub(fromHead(flat.head, light.place.aim), position));
  const centre = flat.project(position);
  // the two corners that lie furthest apart on paper are the panel's ends
  const [a, b] = furthest(panel);
  const l = flat.project(add(position, look));
  const d = [l[0] - centre[0], l[1] - centre[1]];
  const open = (p: [number, number]): [number, number] => [
    p[0] + d[0]! * reach + (p[0] - centre[0]) * 0.7,
    p[1] + d[1]! * reach + (p[1] - centre[1]) * 0.7,
  ];
  return { panel, wedge: [a, b, open(b), open(a)], centre };
}

function furthest(points: [number, number][]): [[number, number], [number, number]] {
  let best: [[number, number], [number, number]] = [points[0]!, points[1]!],
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

/**
 * The place that a light gets when its symbol is dragged to a point on paper. In PLAN its height angle stays and it goes
 * round and out; in SIDE it rises and sinks on its own vertical line.
 */
export function dragTo(flat: Flat, place: Place, [x, y]: [number, number]): Partial<Place> {
  const { head } = flat;
  if (flat.kind === 'plan') {
    const level = add(scale(flat.right, x), scale(flat.away, y));
    const far = Math.max(0.12, Math.hypot(x, y));
    const elevation = Math.min(88, Math.max(-88, place.elevation));
    const p = add(head.origin, add(level, [0, far * Math.tan(elevation * DEGREE), 0]));
    const { azimuth, distance: d } = placeOf(head, p);
    return { azimuth, distance: d };
  }
  const now = sub(placeInWorld(head, place), head.origin);
  const p = add(head.origin, [now[0], y, now[2]]);
  const { elevation, distance: d } = placeOf(head, p);
  return { elevation, distance: d };
}
