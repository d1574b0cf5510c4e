// Where an eye mirrors a light to the camera.
import { add, dot, normalize, scale, sub, type Vec3 } from '../math/index.ts';
import { fromHead } from '../setup/index.ts';
import type { WholeFace } from './known.ts';
import { blockerTowards } from './lookup.ts';
import { nearestPlace, type Blocker, type FaceMap } from './map.ts';

/** Radius of an eye over the distance of the pupils: 12 mm to 63 mm, from memory of anatomy's handbooks. */
const EYE = 0.19;

/**
 * The place of a sphere that mirrors `from` to `to` (Alhazen's problem), by bisection of the arc between the two: there the normal halves the
 * angle between both. All in one unit; both lie outside of the sphere.
 */
export function mirrorOnSphere(centre: Vec3, radius: number, from: Vec3, to: Vec3): Vec3 {
  const a = normalize(sub(from, centre)),
    b = normalize(sub(to, centre));
  // in the plane of both, the normal at angle t from a
  const across = sub(b, scale(a, dot(a, b)));
  const e = normalize(across, Math.abs(a[1]) < 0.9 ? normalize(sub([0, 1, 0], scale(a, a[1]))) : normalize(sub([1, 0, 0], scale(a, a[0])))),
    whole = Math.acos(Math.max(-1, Math.min(1, dot(a, b))));
  const at = (t: number): Vec3 => add(scale(a, Math.cos(t)), scale(e, Math.sin(t)));
  let low = 0,
    high = whole;
  for (let i = 0; i < 60; i++) {
    const t = (low + high) / 2,
      n = at(t),
      p = add(centre, scale(n, radius));
    // the angle to the light grows with t, that to the camera shrinks
    if (dot(n, normalize(sub(from, p))) > dot(n, normalize(sub(to, p)))) low = t;
    else high = t;
  }
  return add(centre, scale(at((low + high) / 2), radius));
}

/** The ball that stands for an eye: its pupil, middle and radius in the world, metres. */
export function eyeOf({ frame, points }: WholeFace, eye: 'left' | 'right'): { pupil: Vec3; centre: Vec3; radius: number } {
  const H = frame.headHeight,
    radius = EYE * (points.pupilL[0] - points.pupilR[0]) * H;
  const pupil = fromHead(frame, scale(eye === 'left' ? points.pupilL : points.pupilR, H));
  return { pupil, centre: sub(pupil, scale(frame.z, radius)), radius };
}

export interface Catchlight {
  eye: 'left' | 'right';
  light: string;
  /** Hours as on a clock face that the camera sees, 12 above. */
  clock: number;
  /** From the pupil's middle, as a share of the eye's half width; above 1 the lids are there. */
  out: number;
  /** Whether it is seen: neither lids nor what else the map knows is in the way. */
  seen: boolean;
  /** What hides it, where something does: the lids, or a part of the figure in the light's way or the camera's. */
  hidden?: 'lids' | Blocker;
}

/** The catchlights of a light whose middle is at `light`, as the camera at `camera` sees them. */
export function catchlightsOf(map: FaceMap, id: string, light: Vec3, camera: { origin: Vec3; right: Vec3; up: Vec3 }): Catchlight[] {
  const { face, measures } = map,
    { frame } = face,
    H = frame.headHeight;
  return (['left', 'right'] as const).map((eye) => {
    const { pupil, centre, radius } = eyeOf(face, eye);
    const at = mirrorOnSphere(centre, radius, light, camera.origin);
    const d = sub(at, pupil);
    const x = dot(d, camera.right),
      y = dot(d, camera.up);
    const hours = ((Math.atan2(x, y) * 6) / Math.PI + 12) % 12;
    const out = Math.hypot(dot(d, frame.x) / (measures.eyeWide * H), dot(d, frame.y) / (measures.eyeHigh * H));
    // behind the limb of the eye nothing of it is seen
    const faces = dot(sub(at, centre), sub(camera.origin, at)) > 0 && dot(sub(at, centre), sub(light, at)) > 0;
    const open = faces && out < 1;
    const hidden = open ? (inTheWay(map, at, light) ?? inTheWay(map, at, camera.origin)) : faces ? 'lids' : undefined;
    return { eye, light: id, clock: hours === 0 ? 12 : hours, out, seen: open && !hidden, ...(hidden ? { hidden } : {}) };
  });
}

/** What the map has in the way between a place near its surface and a point further out; the surface's own turn counts for nothing. */
function inTheWay(map: FaceMap, from: Vec3, to: Vec3): Blocker | undefined {
  const kind = blockerTowards(map, nearestPlace(map, from), normalize(sub(to, from)));
  return kind === undefined || kind === 'turn' ? undefined : kind;
}
