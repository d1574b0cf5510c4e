// What the set view shows of a setup, as numbers: lights and flags to scale, beams, the camera's frame.
import {
  orderOf,
  add,
  axesInWorld,
  compileCamera,
  DEGREE,
  distance,
  fromHead,
  headAround,
  isPlaced,
  scale,
  setupHead,
  sunDirection,
  type Light,
  type PlacedLight,
  type Setup,
  type Vec3,
} from '@plinket/core';
import { colourOf, letterOf } from '../../parts/identity.ts';

export type Form =
  | { kind: 'panel'; width: number; height: number }
  | { kind: 'disk'; width: number; height: number }
  | { kind: 'ball'; radius: number }
  | { kind: 'tube'; length: number; radius: number }
  | { kind: 'box'; width: number; height: number; depth: number };

/** A light or a flag as an object: where it stands, its axes (z shines), its form. */
export interface Body {
  id: string;
  what: 'light' | 'flag';
  name: string;
  letter: string;
  colour: string;
  on: boolean;
  locked: boolean;
  centre: Vec3;
  x: Vec3;
  y: Vec3;
  z: Vec3;
  form: Form;
  /** Half angle of the beam, degrees; nothing for what shines all around. */
  beam?: number;
  /** Metres to what it is aimed at. */
  reach: number;
}

/** Smallest radius at which a source is shown: a lens of a centimetre would not be seen. */
const SEEN = 0.035;

function formOf(light: PlacedLight): Form {
  switch (light.kind) {
    case 'rectangle':
      return { kind: 'panel', width: light.width, height: light.height };
    case 'disk':
      return { kind: 'disk', width: light.width, height: light.height };
    case 'ball':
    case 'profile':
    case 'spot':
      return { kind: 'ball', radius: Math.max(SEEN, light.diameter / 2) };
    case 'tube':
      return { kind: 'tube', length: light.length, radius: Math.max(SEEN / 3, light.diameter / 2) };
  }
}

function beamOf(light: PlacedLight): { beam?: number } {
  if (light.kind === 'spot') return { beam: light.angle / 2 };
  if ('beam' in light && light.beam.angle < 180) return { beam: light.beam.angle / 2 };
  return {};
}

/** Every light that stands somewhere, and every flag. */
export function bodiesOf(setup: Setup): Body[] {
  const lights = orderOf(setup.lights).flatMap((id, i): Body[] => {
    const light = setup.lights.items[id]!;
    if (!isPlaced(light)) return [];
    const head = headAround(setup, light),
      axes = axesInWorld(head, light);
    return [
      {
        id,
        what: 'light',
        name: light.name,
        letter: letterOf(i),
        colour: colourOf(i),
        on: light.on,
        locked: light.locked,
        ...axes,
        form: formOf(light),
        ...beamOf(light),
        reach: distance(axes.centre, fromHead(head, light.place.aim)),
      },
    ];
  });
  const flags = orderOf(setup.flags).map((id): Body => {
    const flag = setup.flags.items[id]!;
    const { width, height, depth } = flag;
    const head = headAround(setup, flag),
      axes = axesInWorld(head, flag);
    return {
      id,
      what: 'flag',
      name: flag.name,
      letter: '',
      colour: '#1c1c1c',
      on: flag.on,
      locked: false,
      ...axes,
      form: flag.kind === 'box' ? { kind: 'box', width, height, depth } : { kind: flag.kind, width, height },
      reach: distance(axes.centre, fromHead(head, flag.place.aim)),
    };
  });
  return [...lights, ...flags];
}

/** Suns and skies: the direction that their light comes from. */
export function airOf(setup: Setup): { id: string; colour: string; letter: string; towards: Vec3 }[] {
  return orderOf(setup.lights).flatMap((id, i) => {
    const light: Light = setup.lights.items[id]!;
    return light.kind === 'sun' && light.on
      ? [{ id, colour: colourOf(i), letter: letterOf(i), towards: sunDirection(light.elevation, light.bearing) }]
      : [];
  });
}

/** Pairs of points: the lines from the camera through the corners of its frame, and the frame at its target's distance. */
export function cameraLines(setup: Setup): Vec3[] {
  const { origin, forward, right, up, halfHeight: h, aspect } = compileCamera(setup);
  const d = distance(setup.camera.position, setup.camera.target);
  const corner = (i: number, j: number): Vec3 => add(origin, scale(add(add(forward, scale(right, i * h * aspect)), scale(up, j * h)), d));
  const ring = [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)];
  return ring.flatMap((p, k) => [origin, p, p, ring[(k + 1) % 4]!]);
}

/** Pairs of points: the edges of a beam, to what it is aimed at, and the ring that it makes there. */
export function beamLines({ centre, x, y, z, beam, reach }: Body): Vec3[] {
  if (beam === undefined) return [];
  const r = Math.tan(Math.min(beam, 80) * DEGREE) * reach,
    n = 24;
  const far = add(centre, scale(z, reach));
  const at = (k: number): Vec3 => {
    const a = (k / n) * 2 * Math.PI;
    return add(far, add(scale(x, r * Math.cos(a)), scale(y, r * Math.sin(a))));
  };
  return Array.from({ length: n }, (_, k) => [at(k), at(k + 1), ...(k % 6 === 0 ? [centre, at(k)] : [])]).flat();
}

export type SetAngle = 'free' | 'top' | 'front' | 'side' | 'along' | 'camera';

/** Where the set is looked at from: eye, target, and which way is up. Top has the camera at the bottom, as the plan has. */
export function standOf(setup: Setup, angle: SetAngle, along: string | undefined): { eye: Vec3; target: Vec3; up: Vec3; fov: number } {
  const head = setupHead(setup);
  const back: Vec3 = [0, 1, 2].map((k) => setup.camera.position[k]! - setup.camera.target[k]!) as Vec3;
  const level = Math.hypot(back[0], back[2]) || 1;
  const toCamera: Vec3 = [back[0] / level, 0, back[2] / level],
    right: Vec3 = [toCamera[2], 0, -toCamera[0]];
  const from = (c: number, r: number, h: number): Vec3 => add(head.origin, add(add(scale(toCamera, c), scale(right, r)), [0, h, 0]));
  const plain = { target: head.origin, up: [0, 1, 0] as Vec3, fov: 36 };
  switch (angle) {
    case 'top':
      return { ...plain, eye: from(0.001, 0, 7), up: scale(toCamera, -1) };
    case 'front':
      return { ...plain, eye: from(6, 0, 0.2) };
    case 'side':
      return { ...plain, eye: from(0, 6, 0.2) };
    case 'along': {
      const body = bodiesOf(setup).find((b) => b.id === along);
      if (body) return { eye: body.centre, target: add(body.centre, scale(body.z, body.reach)), up: [0, 1, 0], fov: 36 };
      break;
    }
    case 'camera': {
      const { halfHeight, up } = compileCamera(setup);
      return { eye: setup.camera.position, target: setup.camera.target, up, fov: (2 * Math.atan(halfHeight)) / DEGREE };
    }
  }
  // far enough that every light that stands there is in sight, within reason
  const reach = bodiesOf(setup).reduce((most, b) => Math.max(most, distance(b.centre, head.origin)), 1.2);
  const k = Math.min(14, 2.4 + 1.5 * reach);
  return { ...plain, eye: from(0.72 * k, 0.6 * k, 0.34 * k) };
}
