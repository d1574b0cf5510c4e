// Things that have turned about one vertical axis. A figure on a turntable stays where it is: all else turns the other way, which is the same picture,
// and its mesh, by far the largest, need not be looked at again.
import { add, DEGREE, turnY, type Vec3 } from '../math/index.ts';
import type { Flag, Optics, Shape } from '../light/index.ts';
import type { SceneCamera, SceneLight } from './types.ts';

/** How far what a setup is made of has turned in the world, degrees, positive to a figure's left; x and z of the axis. */
export interface Turned {
  axis: readonly [number, number];
  figure: number;
  camera: number;
  lights: number;
  /** Domes, skies and suns. */
  dome: number;
}

/** A turn about a vertical axis, degrees. */
export interface Spin {
  axis: readonly [number, number];
  angle: number;
}

/** An angle in 0 … 360, whole turns taken off; nothing where nothing is left. */
const left = (axis: Spin['axis'], degrees: number): Spin | undefined => {
  const angle = ((degrees % 360) + 360) % 360;
  return angle === 0 ? undefined : { axis, angle };
};

/** What has to turn so that the figure may stay as it is. */
export function spinsOf({ axis, figure, camera, lights, dome }: Turned): {
  stage: Spin | undefined;
  camera: Spin | undefined;
  lights: Spin | undefined;
  dome: Spin | undefined;
} {
  return {
    stage: left(axis, -figure),
    camera: left(axis, camera - figure),
    lights: left(axis, lights - figure),
    dome: left(axis, dome - figure),
  };
}

const direction = (v: Vec3, { angle }: Spin): Vec3 => turnY(v, angle * DEGREE);

/** A point after the turn, metres. */
export function spunPoint([x, y, z]: Vec3, spin: Spin): Vec3 {
  const [ax, az] = spin.axis;
  return add([ax, 0, az], direction([x - ax, y, z - az], spin));
}

/** A camera after the turn. */
export function spunCamera(camera: SceneCamera, spin: Spin | undefined): SceneCamera {
  if (!spin) return camera;
  return {
    ...camera,
    key: `${camera.key} ${JSON.stringify(spin)}`,
    origin: spunPoint(camera.origin, spin),
    forward: direction(camera.forward, spin),
    right: direction(camera.right, spin),
    up: direction(camera.up, spin),
  };
}

function spunShape(shape: Shape, spin: Spin): Shape {
  const point = (v: Vec3) => spunPoint(v, spin),
    along = (v: Vec3) => direction(v, spin);
  switch (shape.kind) {
    case 'rectangle': {
      const { corner, ex, ey } = shape.rectangle;
      return { ...shape, rectangle: { corner: point(corner), ex: along(ex), ey: along(ey) } };
    }
    case 'disk':
      return { ...shape, disk: { centre: point(shape.disk.centre), a: along(shape.disk.a), b: along(shape.disk.b) } };
    case 'ball':
      return { ...shape, centre: point(shape.centre) };
    case 'tube':
      return { ...shape, tube: { ...shape.tube, centre: point(shape.tube.centre), axis: along(shape.tube.axis) } };
    case 'sun':
      return { ...shape, towards: along(shape.towards) };
  }
}

/** Axes that stand somewhere, after the turn. */
function spunAxes<A extends Pick<Flag, 'centre' | 'x' | 'y' | 'z'>>(axes: A, spin: Spin): A {
  const { centre, x, y, z } = axes;
  return { ...axes, centre: spunPoint(centre, spin), x: direction(x, spin), y: direction(y, spin), z: direction(z, spin) };
}

const spunOptics = (optics: Optics, spin: Spin): Optics => ({
  ...spunAxes(optics, spin),
  ...(optics.flags ? { flags: optics.flags.map((flag) => spunAxes(flag, spin)) } : {}),
});

/** A light after the turn, with what shapes it; those that are surfaces stay with these, and what is even all round stays what it is. */
export function spunLight(light: SceneLight, spin: Spin | undefined): SceneLight {
  if (!spin) return light;
  const key = `${light.key} ${JSON.stringify(spin)}`;
  switch (light.kind) {
    case 'rectangle': {
      const { corner, ex, ey } = light.rectangle;
      return { ...light, key, rectangle: { corner: spunPoint(corner, spin), ex: direction(ex, spin), ey: direction(ey, spin) } };
    }
    case 'source':
      return { ...light, key, shape: spunShape(light.shape, spin), ...(light.optics ? { optics: spunOptics(light.optics, spin) } : {}) };
    case 'environment': {
      const [x, y, z] = light.axes;
      return {
        ...light,
        key,
        axes: [direction(x, spin), direction(y, spin), direction(z, spin)],
        ...(light.optics ? { optics: spunOptics(light.optics, spin) } : {}),
      };
    }
    case 'dome':
    case 'glow':
    case 'object':
    case 'openness':
      return light;
  }
}
