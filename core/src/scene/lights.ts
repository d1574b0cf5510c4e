import { cross, DEGREE, normalize, scale, turnY, type Vec3 } from '../math/index.ts';
import {
  goboPattern,
  gradientEnvironment,
  makeEnvironment,
  skyEnvironment,
  sunDirection,
  type Environment,
  type Flag,
  type GoboPattern,
  type Optics,
  type Profile,
  type Shape,
} from '../light/index.ts';
import {
  axesInWorld,
  inOrder,
  isPlaced,
  orderOf,
  headAround,
  rectangleOn,
  RELATIONS,
  type Axes,
  type FlagItem,
  type Frame,
  type Light,
  type PlacedLight,
  type Setup,
} from '../setup/index.ts';
import { MissingAssetError } from './pieces.ts';
import type { Bent, SceneLight } from './types.ts';

/** Finds what lights name by the SHA-256 of a file. */
export interface LightFiles {
  environment(sha256: string, layer: string): Environment | undefined;
  profile(sha256: string): Profile | undefined;
  gobo(sha256: string): GoboPattern | undefined;
}

/** No files at all. */
export const NO_FILES: LightFiles = { environment: () => undefined, profile: () => undefined, gobo: () => undefined };

/** The lights of a setup, in order; keys hold only what changes rays. @throws MissingAssetError */
export function compileLights(setup: Setup, files: LightFiles = NO_FILES): SceneLight[] {
  return orderOf(setup.lights).map((id) => compileLight(id, setup.lights.items[id]!, setup, flagsOf(setup, id), files));
}

/** A flag in the world. */
export function flagInWorld(head: Frame, flag: FlagItem): Flag {
  const { centre, x, y, z } = axesInWorld(head, flag);
  const half: Vec3 = [flag.width / 2, flag.height / 2, flag.kind === 'box' ? flag.depth / 2 : 0];
  return { kind: flag.kind, centre, x, y, z, half, density: flag.density, soft: flag.soft };
}

function flagsOf(setup: Setup, light: string): Flag[] {
  return inOrder(setup.flags)
    .filter((f) => f.on && f.density > 0 && (f.lights.length === 0 || f.lights.includes(light)))
    .map((f) => flagInWorld(headAround(setup, f), f));
}

function bentOf({ shadow, seen }: Light): Bent | undefined {
  const stays = shadow.colour.map((v) => 1 - shadow.density + shadow.density * v) as Vec3;
  if (shadow.cast && seen.mirror && stays.every((v) => v === 0)) return undefined;
  return { cast: shadow.cast, stays, mirror: seen.mirror };
}

/** What is said of a light's reach, if anything is. */
function reachOf({ reach }: Light): SceneLight['reach'] {
  const said = ([...RELATIONS, 'shadows'] as const).filter((r) => reach && Object.keys(reach[r] ?? {}).length > 0);
  return said.length ? Object.fromEntries(said.map((r) => [r, reach![r]])) : undefined;
}

/** What a picture of light is called in keys, which must not hold the picture itself. */
const named = (key: string, value: unknown): unknown => (value instanceof Float32Array || key === 'profile' ? undefined : value);

/** A scene's light without what all have. */
type Shaped = SceneLight extends infer L ? (L extends SceneLight ? Omit<L, 'id' | 'key' | 'camera' | 'bent' | 'reach'> : never) : never;

function compileLight(id: string, light: Light, setup: Setup, flags: Flag[], files: LightFiles): SceneLight {
  const bent = bentOf(light),
    reach = reachOf(light),
    camera = light.seen.camera;
  const more = { ...(bent ? { bent } : {}), ...(reach ? { reach } : {}), ...(camera ? { camera } : {}) };
  const finish = (scene: Shaped, tag: unknown = ''): SceneLight =>
    ({ id, ...scene, ...more, key: JSON.stringify([scene, more, tag], named) }) as SceneLight;
  const inWay = flags.length ? { flags } : {};
  if (isPlaced(light)) {
    const axes = axesInWorld(headAround(setup, light), light);
    const optics = opticsOf(light, axes, flags, files);
    const shape = shapeOn(axes, light);
    const plain = !optics && !bent && !camera && shape.kind === 'rectangle' && !shape.twoSided;
    if (plain) return finish({ kind: 'rectangle', rectangle: shape.rectangle });
    return finish({ kind: 'source', shape, ...(optics ? { optics } : {}) }, goboTag(light));
  }
  switch (light.kind) {
    case 'sun': {
      const towards = sunDirection(light.elevation, light.bearing);
      const shape: Shape = { kind: 'sun', towards, half: (light.angle * DEGREE) / 2 };
      return finish({ kind: 'source', shape, ...(flags.length ? { optics: { ...worldOptics(), ...inWay } } : {}) });
    }
    case 'sky': {
      const environment = skyEnvironment(light.elevation, light.turbidity);
      return finish({ kind: 'environment', environment, axes: turned(light.bearing, 0), ...withOptics(flags) }, environment.key);
    }
    case 'dome': {
      if (light.fill.kind === 'even' && !bent && !reach && !flags.length) return finish({ kind: 'dome' });
      const environment = domeEnvironment(light, files);
      return finish({ kind: 'environment', environment, axes: turned(light.bearing, light.tilt), ...withOptics(flags) }, environment.key);
    }
    case 'glow':
      return finish({ kind: 'glow' });
    case 'object':
      return finish({ kind: 'object', object: light.object });
  }
}

const worldOptics = (): Optics => ({ centre: [0, 0, 0], x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] });
const withOptics = (flags: Flag[]): { optics?: Optics } => (flags.length ? { optics: { ...worldOptics(), flags } } : {});
const goboTag = (light: PlacedLight): unknown => [
  light.gobo.pattern,
  light.gobo.asset,
  light.kind === 'profile' ? light.profile.asset : '',
];

/** Axes of a dome's own space in the world: turned by its bearing, its front tipped up by its tilt (degrees). */
function turned(bearing: number, tilt: number): [Vec3, Vec3, Vec3] {
  const z: Vec3 = turnY([0, Math.sin(tilt * DEGREE), Math.cos(tilt * DEGREE)], bearing * DEGREE),
    x: Vec3 = turnY([1, 0, 0], bearing * DEGREE);
  return [x, cross(z, x), z];
}

function domeEnvironment(light: Extract<Light, { kind: 'dome' }>, files: LightFiles): Environment {
  const { fill } = light;
  switch (fill.kind) {
    case 'even':
      return makeEnvironment('even', 2, 2, new Float32Array(12).fill(1));
    case 'gradient':
      return gradientEnvironment(JSON.stringify(fill.stops), fill.stops);
    case 'picture': {
      const found = files.environment(fill.asset, fill.layer);
      if (!found) throw new MissingAssetError(light.name, fill.asset);
      return found;
    }
  }
}

/** The shape of a light that stands on these axes. */
function shapeOn(axes: Axes, light: PlacedLight): Shape {
  const { centre, x, y } = axes;
  switch (light.kind) {
    case 'rectangle':
      return { kind: 'rectangle', rectangle: rectangleOn(axes, light), twoSided: light.twoSided };
    case 'disk':
      return { kind: 'disk', disk: { centre, a: scale(x, light.width / 2), b: scale(y, light.height / 2) }, twoSided: light.twoSided };
    case 'ball':
    case 'spot':
    case 'profile':
      return { kind: 'ball', centre, radius: light.diameter / 2 };
    case 'tube':
      return { kind: 'tube', tube: { centre, axis: normalize(y), length: light.length, radius: light.diameter / 2 } };
  }
}

function opticsOf(light: PlacedLight, axes: Axes, flags: Flag[], files: LightFiles): Optics | undefined {
  const optics: Optics = { ...axes };
  const { range, gobo } = light;
  if ('beam' in light && light.beam.angle < 180) optics.grid = light.beam.angle * DEGREE;
  if (light.kind === 'spot') optics.spot = { angle: light.angle * DEGREE, soft: light.soft };
  if (light.kind === 'profile') {
    const profile = files.profile(light.profile.asset);
    if (!profile) throw new MissingAssetError(light.name, light.profile.asset);
    optics.profile = profile;
  }
  if (range.near > 0 || range.far > 0) optics.range = range;
  if (gobo.pattern !== 'none') {
    const pattern = gobo.pattern === 'picture' ? files.gobo(gobo.asset ?? '') : goboPattern(gobo.pattern);
    if (!pattern) throw new MissingAssetError(light.name, gobo.asset ?? '');
    const half = gobo.width / 2;
    optics.gobo = { distance: gobo.distance, half: [half, (half * pattern.height) / pattern.width], turn: gobo.turn * DEGREE, pattern };
  }
  if (flags.length) optics.flags = flags;
  const bare = Object.keys(optics).length === 4;
  return bare ? undefined : optics;
}
