import { add, dot, length, scale, sub, type Vec3 } from '../../math/index.ts';
import { kelvinToLinear, luminance } from '../../photometry/index.ts';
import {
  axesInWorld,
  ball,
  disk,
  dome,
  headAround,
  isPlaced,
  lightLuminance,
  LIMITS,
  placeOf,
  rectangle,
  spot,
  sun,
  toHead,
  tube,
  wrapDegrees,
  type Light,
  type Limits,
  type PlacedLight,
  type Setup,
} from '../../setup/index.ts';
import { usdArea, usdFrame, usdLight, type UsdLight } from './light.ts';
import type { WorldFrame } from './matrix.ts';

/** What was said of a light by a file. */
export type ReadLight = Partial<UsdLight> & { visible: boolean; frame: WorldFrame };

/** What UsdLux says of a light whose file says nothing (the fallbacks of its schemas; from memory); lengths in units of the file. */
export const fallbacks = (type: string): Partial<UsdLight> => ({
  intensity: type === 'DistantLight' ? 50_000 : 1,
  exposure: 0,
  normalize: false,
  color: [1, 1, 1],
  enableColorTemperature: false,
  colorTemperature: 6500,
  diffuse: 1,
  specular: 1,
  ...(type === 'RectLight' ? { width: 1, height: 1 } : {}),
  ...(/^(Disk|Sphere|Cylinder)Light$/.test(type) ? { radius: 0.5 } : {}),
  ...(type === 'CylinderLight' ? { length: 1 } : {}),
  ...(type === 'DistantLight' ? { angle: 0.53 } : {}),
});

/** How near two numbers are the same: files hold floats. */
const NEAR = 2e-6;
const same = (a: number | boolean | string | Vec3 | undefined, b: typeof a): boolean => {
  if (Array.isArray(a) && Array.isArray(b)) return a.every((v, i) => same(v, b[i]));
  if (typeof a === 'number' && typeof b === 'number') return Math.abs(a - b) <= NEAR * Math.max(1, Math.abs(a), Math.abs(b));
  return a === b;
};

/** A light of ours for a type of UsdLux. */
export function lightOf(type: string, read: ReadLight): Light | undefined {
  switch (type) {
    case 'RectLight':
      return rectangle({ width: 1, height: 1 });
    case 'DiskLight':
      return disk({ width: 1, height: 1 });
    case 'SphereLight':
      return read['shaping:cone:angle'] !== undefined && read['shaping:cone:angle'] < 90 ? spot({ diameter: 1 }) : ball({ diameter: 1 });
    case 'CylinderLight':
      return tube({ length: 1, diameter: 1 });
    case 'DistantLight':
      return sun({ air: false });
    case 'DomeLight':
    case 'DomeLight_1':
      return dome();
    default:
      return undefined;
  }
}

/** Takes lengths of a file into metres: its own scale is that of the frame. */
export function inMetres(read: ReadLight): ReadLight {
  const [sx, sy] = read.frame.scale;
  const times = (v: number | undefined, k: number) => (v === undefined ? {} : { v: v * k }).v;
  const out: ReadLight = { ...read };
  const sized = {
    width: times(read.width, sx),
    height: times(read.height, sy),
    radius: times(read.radius, Math.max(sx, sy)),
    length: times(read.length, sx),
  };
  return Object.assign(out, Object.fromEntries(Object.entries(sized).filter(([, v]) => v !== undefined)));
}

/**
 * A light as a file says it, begun from `start`: what agrees with it stays to the last digit, what does not is taken from the file.
 * @param told hears what had to be changed
 */
export function takeLight(setup: Setup, start: Light, read: ReadLight, told: (words: string) => void): Light {
  const light = JSON.parse(JSON.stringify(start)) as Light;
  const said = usdLight(start);
  const differs = <K extends keyof UsdLight>(key: K): boolean => read[key] !== undefined && !same(read[key], said[key]);
  const within = (v: number, limits: Limits, what: string): number => {
    const kept = Math.max(limits[0], Math.min(limits[1], v));
    if (kept !== v) told(`${what} ${Number(v.toPrecision(4))} is beyond what can be set: ${kept}`);
    return Number(kept.toPrecision(9));
  };
  light.on = read.visible;
  takeSize(light, read, differs, within);
  if (differs('diffuse')) light.diffuse = within(read.diffuse!, LIMITS.share, 'diffuse');
  if (differs('specular')) light.specular = within(read.specular!, LIMITS.share, 'specular');
  if (differs('shadow:enable')) light.shadow.cast = read['shadow:enable']!;
  if (differs('shadow:color'))
    Object.assign(light.shadow, { density: 1, colour: read['shadow:color']!.map((v) => within(v, LIMITS.unit, 'the shadow’s colour')) });
  takeLevel(light, start, read, differs, within);
  takePlace(setup, light, start, read.frame, within);
  return light;
}

type Differs = (key: keyof UsdLight) => boolean;
type Within = (v: number, limits: Limits, what: string) => number;

function takeSize(light: Light, read: ReadLight, differs: Differs, within: Within): void {
  const size = (v: number, what: string) => within(v, LIMITS.size, what);
  switch (light.kind) {
    case 'rectangle':
      if (differs('width')) light.width = size(read.width!, 'the width');
      if (differs('height')) light.height = size(read.height!, 'the height');
      break;
    case 'disk':
      if (differs('radius')) light.width = light.height = size(2 * read.radius!, 'the diameter');
      break;
    case 'tube':
      if (differs('length')) light.length = size(read.length!, 'the length');
      if (differs('radius')) light.diameter = size(2 * read.radius!, 'the diameter');
      break;
    case 'ball':
    case 'spot':
    case 'profile':
      if (differs('radius')) light.diameter = size(2 * read.radius!, 'the diameter');
      break;
    case 'sun':
      if (differs('angle')) light.angle = within(read.angle!, LIMITS.sunDisk, 'the angle');
  }
  if (light.kind === 'spot') {
    if (differs('shaping:cone:angle')) light.angle = within(2 * read['shaping:cone:angle']!, LIMITS.beam, 'the cone');
    if (differs('shaping:cone:softness')) light.soft = within(read['shaping:cone:softness']!, LIMITS.unit, 'the softness');
  } else if ('beam' in light && (read['shaping:cone:angle'] ?? 90) < 90)
    light.beam.angle = within(2 * read['shaping:cone:angle']!, LIMITS.grid, 'the cone');
}

/** Intensity, exposure and colour. */
function takeLevel(light: Light, start: Light, read: ReadLight, differs: Differs, within: Within): void {
  const said = usdLight(start);
  const tempered = read.enableColorTemperature ?? said.enableColorTemperature;
  let colour = 1;
  if (differs('enableColorTemperature') || differs('color') || differs('colorTemperature')) {
    light.kelvin = within(tempered ? (read.colorTemperature ?? said.colorTemperature) : 6500, LIMITS.kelvin, 'the colour temperature');
    const own = (read.color ?? said.color).map((v) => Math.max(0, v)) as Vec3;
    if (differs('color') || !tempered) {
      const most = Math.max(...own, 1e-9);
      Object.assign(light, {
        gel: '',
        tint: 0,
        picked: { colour: own.map((v) => Number((v / most).toPrecision(9))), strength: own.every((v) => v === own[0]) ? 0 : 1 },
      });
    }
    const white = kelvinToLinear(light.kelvin),
      wished = luminance(white[0] * own[0], white[1] * own[1], white[2] * own[2]);
    const made = usdLight(light).color;
    colour = wished / Math.max(1e-9, luminance(white[0] * made[0], white[1] * made[1], white[2] * made[2]));
  }
  let extra = 0;
  if (differs('exposure')) {
    const stops = read.exposure! + light.scrims / 2;
    light.stops = Math.max(LIMITS.stops[0], Math.min(LIMITS.stops[1], Number(stops.toPrecision(9))));
    extra = stops - light.stops;
  }
  const resized = light.kind !== 'dome' && usdArea(light) !== usdArea(start);
  if (differs('intensity') || differs('normalize') || colour !== 1 || extra !== 0 || resized) {
    const normalize = read.normalize ?? said.normalize,
      intensity = read.intensity ?? said.intensity;
    const wanted = ((intensity * colour) / (normalize ? usdArea(light) : 1)) * 2 ** extra;
    const unit = lightLuminance({ ...light, output: { ...light.output, value: 1 } } as Light);
    light.output.value = within(wanted / unit, LIMITS.output, 'the output');
  }
}

/** Where it stands: around the head, or where in the sky. */
function takePlace(setup: Setup, light: Light, start: Light, frame: WorldFrame, within: Within): void {
  const was = usdFrame(setup, start);
  if (same(frame.z, was.z) && (!isPlaced(light) || (same(frame.x, was.x) && same(frame.at, was.at)))) return;
  const { z } = frame;
  const bearing = Math.atan2(z[0], z[2]) * (180 / Math.PI),
    up = Math.asin(Math.max(-1, Math.min(1, z[1]))) * (180 / Math.PI);
  const round = (v: number) => Number(v.toFixed(4));
  if (isPlaced(light)) standAt(setup, light, frame, within);
  else if (light.kind === 'sun' || light.kind === 'sky') {
    light.bearing = round(bearing);
    light.elevation = within(round(up), LIMITS.sunHeight, 'the height of the sun');
  } else if (light.kind === 'dome') {
    light.bearing = round(bearing);
    light.tilt = round(up);
  }
}

function standAt(setup: Setup, light: PlacedLight, { x, y, z, at }: WorldFrame, within: Within): void {
  const head = headAround(setup, light);
  const round = (v: number) => Number(v.toFixed(5));
  const { azimuth, elevation, distance } = placeOf(head, at);
  // it looks along −z: what it is aimed at is where that passes the head nearest
  const forward = scale(z, -1),
    far = Math.max(0.1, dot(sub(head.origin, at), forward));
  const aim = toHead(head, add(at, scale(forward, far)));
  light.place = {
    azimuth: round(wrapDegrees(azimuth)),
    elevation: round(elevation),
    distance: within(round(distance), LIMITS.distance, 'the distance'),
    aim: length(aim) < 1e-4 ? [0, 0, 0] : (aim.map(round) as Vec3),
  };
  const level = axesInWorld(head, { place: light.place });
  const own = light.kind === 'tube' ? y : scale(x, -1);
  light.roll = round(Math.atan2(dot(own, level.y), dot(own, level.x)) * (180 / Math.PI));
}
