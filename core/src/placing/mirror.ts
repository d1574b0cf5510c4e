// Where a light belongs so that the camera sees its mirror image at a place: on a surface, or on an eye.
import { catchlightsOf, eyeOf, type Catchlight, type FaceMap } from '../face/index.ts';
import { add, dot, normalize, scale, sub, type Vec3 } from '../math/index.ts';
import { placeOf, type Frame } from '../setup/index.ts';

/** A direction about the head, degrees. */
export interface Direction {
  azimuth: number;
  elevation: number;
}

interface View {
  origin: Vec3;
  forward: Vec3;
  right: Vec3;
  up: Vec3;
}

/** Where a ray from inside a ball about the head leaves it: the place at `distance` from the head that lies along it. */
function atDistance(head: Frame, from: Vec3, along: Vec3, distance: number): Vec3 | undefined {
  const d = sub(from, head.origin),
    b = dot(d, along),
    root = b * b - (dot(d, d) - distance * distance);
  if (root < 0) return undefined;
  const t = -b + Math.sqrt(root);
  return t > 0 ? add(from, scale(along, t)) : undefined;
}

/**
 * Where a small source at `distance` from the head stands when the camera sees it mirrored at a point: the law of reflection, l = 2 (n·v) n − v.
 * Nothing where the surface is turned away from the camera, or where the point lies further from the head than the light.
 */
export function mirrorPlace(head: Frame, distance: number, point: Vec3, normal: Vec3, camera: Vec3): Direction | undefined {
  const v = normalize(sub(camera, point)),
    n = normalize(normal),
    cos = dot(n, v);
  if (!(cos > 0)) return undefined;
  const at = atDistance(head, point, sub(scale(n, 2 * cos), v), distance);
  if (!at) return undefined;
  const { azimuth, elevation } = placeOf(head, at);
  return { azimuth, elevation };
}

export interface CatchlightWish {
  /** Hours as on a clock face that the camera sees, 12 above. */
  clock: number;
  eyes: 'left' | 'right' | 'both';
}

export interface CatchlightPlaced extends Direction {
  /** Where the light then stands in the eyes that were asked for. */
  found: Catchlight[];
  reached: boolean;
}

/**
 * How far out a catchlight is wished, as shares of the way from the pupil to the lids, the best first: between pupil and rim of the iris (common
 * practice, no source). Where brow or lids hide it there, further in.
 */
const OUTS = [0.28, 0.2, 0.13];
/** Hours within which a catchlight stands where it was wished. */
const NEAR_HOURS = 0.5;

/** The point of an eye's ball that the camera sees at an hour of the clock about its pupil, and the normal there. */
function onEye(map: FaceMap, eye: 'left' | 'right', clock: number, out: number, camera: View): { at: Vec3; normal: Vec3 } | undefined {
  const { frame } = map.face,
    { measures } = map,
    H = frame.headHeight;
  const { pupil, centre, radius } = eyeOf(map.face, eye);
  const turn = (clock * Math.PI) / 6;
  const across = add(scale(camera.right, Math.sin(turn)), scale(camera.up, Math.cos(turn)));
  const on = (s: number): Vec3 | undefined => {
    const p = add(pupil, scale(across, s * radius)),
      d = sub(p, centre),
      b = dot(d, camera.forward),
      root = b * b - (dot(d, d) - radius * radius);
    // the near one of the two places that lie behind each other for the camera
    return root < 0 ? undefined : add(p, scale(camera.forward, -b - Math.sqrt(root)));
  };
  let low = 0,
    high = 1;
  for (let i = 0; i < 40; i++) {
    const s = (low + high) / 2,
      at = on(s);
    const d = at && sub(at, pupil);
    if (d && Math.hypot(dot(d, frame.x) / (measures.eyeWide * H), dot(d, frame.y) / (measures.eyeHigh * H)) < out) low = s;
    else high = s;
  }
  const at = on(low);
  return at && { at, normal: normalize(sub(at, centre)) };
}

/** Hours between two of a clock, 0…6. */
export const hoursApart = (a: number, b: number): number => Math.abs(((((a - b) % 12) + 18) % 12) - 6);

/**
 * A light to where it stands at an hour of the clock in one or both eyes, at its distance from the head. In both eyes at once a near light stands
 * a little differently: between the two. Nothing where an eye shows the camera no place for it.
 */
export function placeCatchlight(map: FaceMap, distance: number, wish: CatchlightWish, camera: View): CatchlightPlaced | undefined {
  const tried = OUTS.map((out) => tryCatchlight(map, distance, wish, out, camera));
  return tried.find((p) => p?.reached) ?? tried[0];
}

function tryCatchlight(
  map: FaceMap,
  distance: number,
  { clock, eyes }: CatchlightWish,
  out: number,
  camera: View,
): CatchlightPlaced | undefined {
  const { frame } = map.face;
  const asked = eyes === 'both' ? (['left', 'right'] as const) : [eyes];
  let sum: Vec3 = [0, 0, 0];
  for (const eye of asked) {
    const on = onEye(map, eye, clock, out, camera);
    const v = on && normalize(sub(camera.origin, on.at)),
      cos = on && v ? dot(on.normal, v) : 0;
    const at = on && v && cos > 0 ? atDistance(frame, on.at, sub(scale(on.normal, 2 * cos), v), distance) : undefined;
    if (!at) return undefined;
    sum = add(sum, normalize(sub(at, frame.origin)));
  }
  const at = add(frame.origin, scale(normalize(sum), distance));
  const found = catchlightsOf(map, '', at, camera).filter((c) => asked.some((eye) => eye === c.eye));
  const { azimuth, elevation } = placeOf(frame, at);
  return { azimuth, elevation, found, reached: found.every((c) => c.seen && hoursApart(c.clock, clock) < NEAR_HOURS) };
}
