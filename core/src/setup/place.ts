import { add, cross, DEGREE, dot, length, normalize, rolled, scale, sub, turnY, type Vec3 } from '../math/index.ts';
import type { Rectangle } from '../light/index.ts';
import type { FlagItem, Light, Place } from './light-schema.ts';
import { orderOf } from './rank.ts';
import type { HeadFrame, Setup, Subject } from './schema.ts';

/** A right-handed frame in the world: x to the subject's left, y up, z where the nose points; unit axes. */
export interface Frame {
  origin: Vec3;
  x: Vec3;
  y: Vec3;
  z: Vec3;
  /** Chin to crown, metres. */
  headHeight: number;
}

/** Where a picture without a subject measures from: a head at standing height. */
export const NO_HEAD: Frame = { origin: [0, 1.6, 0], x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1], headHeight: 0.23 };

/** The head of a subject as it stands in the world: at its pose where that says so, else at rest. */
export function headInWorld(subject: Pick<Subject, 'position' | 'turn' | 'scale' | 'head' | 'pose'>): Frame {
  const turn = subject.turn * DEGREE;
  const head: HeadFrame = subject.pose?.head ?? subject.head;
  const z = normalize(turnY(head.forward, turn));
  let up = turnY(head.up, turn);
  up = sub(up, scale(z, dot(up, z)));
  const y = normalize(up, [0, 1, 0]);
  return {
    origin: add(subject.position, scale(turnY(head.origin, turn), subject.scale)),
    x: cross(y, z),
    y,
    z,
    headHeight: head.height * subject.scale,
  };
}

/** The head that a setup's lights are placed around: that of its first subject in sight. */
export function setupHead(setup: Setup): Frame {
  const first = firstInSight(setup);
  return first === undefined ? NO_HEAD : headInWorld(setup.subjects.items[first]!);
}

/** Id of the first subject in sight; nothing where none is. */
export const firstInSight = ({ subjects }: Pick<Setup, 'subjects'>): string | undefined =>
  orderOf(subjects).find((id) => subjects.items[id]!.visible);

/** The head that a light or flag stands around: that of the subject it names, while that is in sight, else the setup's. */
export function headAround(setup: Setup, thing: Light | FlagItem | { around?: string }): Frame {
  const around = 'around' in thing ? thing.around : undefined;
  const subject = around === undefined ? undefined : setup.subjects.items[around];
  return subject?.visible ? headInWorld(subject) : setupHead(setup);
}

/** Whether a light or flag stands about this subject's head. */
export const isAbout = (setup: Setup, thing: { around?: string | undefined }, subject: string): boolean =>
  (thing.around !== undefined && setup.subjects.items[thing.around]?.visible ? thing.around : firstInSight(setup)) === subject;

/** Direction from the head at an azimuth and elevation (degrees), in the world. */
export function directionAt(frame: Frame, azimuth: number, elevation: number): Vec3 {
  const a = azimuth * DEGREE,
    e = elevation * DEGREE;
  const x = Math.sin(a) * Math.cos(e),
    y = Math.sin(e),
    z = Math.cos(a) * Math.cos(e);
  return add(add(scale(frame.x, x), scale(frame.y, y)), scale(frame.z, z));
}

/** A point given in the head's frame, in the world. */
export const fromHead = (frame: Frame, p: Vec3): Vec3 =>
  add(frame.origin, add(add(scale(frame.x, p[0]), scale(frame.y, p[1])), scale(frame.z, p[2])));

/** A world point in the head's frame. */
export function toHead(frame: Frame, p: Vec3): Vec3 {
  const d = sub(p, frame.origin);
  return [dot(d, frame.x), dot(d, frame.y), dot(d, frame.z)];
}

/** Where a placed light stands in the world. */
export const placeInWorld = (frame: Frame, place: Place): Vec3 =>
  add(frame.origin, scale(directionAt(frame, place.azimuth, place.elevation), place.distance));

/** Azimuth −180…180 and elevation (degrees) and distance of a world point, as seen from the head. */
export function placeOf(frame: Frame, p: Vec3): { azimuth: number; elevation: number; distance: number } {
  const d = sub(p, frame.origin),
    l = length(d);
  const x = dot(d, frame.x),
    y = dot(d, frame.y),
    z = dot(d, frame.z);
  return {
    azimuth: Math.atan2(x, z) / DEGREE,
    elevation: l > 0 ? Math.asin(Math.min(1, Math.max(-1, y / l))) / DEGREE : 0,
    distance: l,
  };
}

/** Sine of the angle from the vertical within which a thing is straight overhead. */
const POLE = 1e-6;

/** Where a thing stands in the world, and unit axes of its own: x and y across, z the way it faces. */
export interface Axes {
  centre: Vec3;
  x: Vec3;
  y: Vec3;
  z: Vec3;
}

/** Where a placed thing stands and how: x and y across (turned by its roll), z towards its aim; upright. */
export function axesInWorld(frame: Frame, thing: { place: Place; roll?: number }): Axes {
  const centre = placeInWorld(frame, thing.place);
  const z = normalize(sub(fromHead(frame, thing.place.aim), centre), scale(frame.z, -1));
  // x × y must be the shining direction. Straight overhead, up says nothing: the azimuth is carried to the pole
  const level = cross([0, 1, 0], z);
  const x = normalize(length(level) > POLE ? level : cross([0, 1, 0], scale(directionAt(frame, thing.place.azimuth, 0), -1)));
  return { centre, ...rolled(x, cross(z, x), (thing.roll ?? 0) * DEGREE), z };
}

/** The rectangle of a light in the world, aimed, shining towards its aim. */
export const rectangleInWorld = (frame: Frame, light: { place: Place; roll?: number; width: number; height: number }): Rectangle =>
  rectangleOn(axesInWorld(frame, light), light);

/** A rectangle on axes that are known. */
export function rectangleOn({ centre, x, y }: Axes, light: { width: number; height: number }): Rectangle {
  const half = add(scale(x, light.width / 2), scale(y, light.height / 2));
  return { corner: sub(centre, half), ex: scale(x, light.width), ey: scale(y, light.height) };
}

/** Brings an azimuth into −180…180. */
export const wrapDegrees = (a: number): number => {
  const w = ((((a + 180) % 360) + 360) % 360) - 180;
  return w === -180 ? 180 : w;
};
