// Lights as UsdLux has them (openusd.org, "UsdLuxLightAPI", "UsdLuxShapingAPI", "UsdLuxShadowAPI"; from memory): they shine along their own −Z; luminance is
// intensity · 2^exposure · color, over the area of the source where `normalize` says so.
import { cross, DEGREE, scale, type Vec3 } from '../../math/index.ts';
import { kelvinToLinear } from '../../photometry/index.ts';
import { sunDirection } from '../../light/index.ts';
import {
  axesInWorld,
  headAround,
  isPlaced,
  lightColour,
  lightLuminance,
  type Light,
  type PlacedLight,
  type Setup,
} from '../../setup/index.ts';

/** Which schema stands for a light; nothing for what glows of itself. */
export function usdType(light: Light): string | undefined {
  switch (light.kind) {
    case 'rectangle':
      return 'RectLight';
    case 'disk':
      return 'DiskLight';
    case 'ball':
    case 'spot':
    case 'profile':
      return 'SphereLight';
    case 'tube':
      return 'CylinderLight';
    case 'sun':
      return 'DistantLight';
    case 'sky':
    case 'dome':
      return 'DomeLight';
    default:
      return undefined;
  }
}

/** Where a light stands and how it is turned, in USD's sense: rows of its matrix. */
export interface UsdFrame {
  x: Vec3;
  y: Vec3;
  z: Vec3;
  at: Vec3;
}

/** Any right-handed frame about a z. */
function frameAbout(z: Vec3): { x: Vec3; y: Vec3 } {
  const side: Vec3 = Math.abs(z[1]) > 0.999 ? [1, 0, 0] : [0, 1, 0];
  const c = cross(side, z),
    l = Math.hypot(...c);
  const x = scale(c, 1 / l);
  return { x, y: cross(z, x) };
}

/** The frame of a light in the world. Ours shine along +z; a tube lies along its y, a cylinder of USD along its x. */
export function usdFrame(setup: Setup, light: Light): UsdFrame {
  if (isPlaced(light)) {
    const { centre, x, y, z } = axesInWorld(headAround(setup, light), light);
    const back = scale(z, -1);
    return light.kind === 'tube' ? { x: y, y: x, z: back, at: centre } : { x: scale(x, -1), y, z: back, at: centre };
  }
  if (light.kind === 'sun') {
    const z = sunDirection(light.elevation, light.bearing);
    return { ...frameAbout(z), z, at: [0, 0, 0] };
  }
  const bearing = ('bearing' in light ? light.bearing : 0) * DEGREE,
    tilt = (light.kind === 'dome' ? light.tilt : 0) * DEGREE;
  const z: Vec3 = [Math.sin(bearing) * Math.cos(tilt), Math.sin(tilt), Math.cos(bearing) * Math.cos(tilt)],
    x: Vec3 = [Math.cos(bearing), 0, -Math.sin(bearing)];
  return { x, y: cross(z, x), z, at: [0, 0, 0] };
}

/** Radius of a disk as large as a flat ellipse. */
const roundRadius = ({ width, height }: { width: number; height: number }): number => Math.sqrt(width * height) / 2;

/** Area that `normalize` divides by, m²; of the sun π sin² of its half angle, so that intensity is illuminance. */
export function usdArea(light: Light): number {
  switch (light.kind) {
    case 'rectangle':
      return light.width * light.height;
    case 'disk':
      return Math.PI * roundRadius(light) ** 2;
    case 'ball':
    case 'spot':
    case 'profile':
      return Math.PI * light.diameter ** 2;
    case 'tube':
      return Math.PI * light.diameter * light.length;
    case 'sun':
      return Math.PI * Math.sin((light.angle * DEGREE) / 2) ** 2;
    default:
      return 1;
  }
}

/** Whether a size may change and the light stay: what is held says so. */
const isNormalized = (light: Light): boolean => light.kind === 'sun' || (light.output.held === 'flux' && light.kind !== 'spot');

/** What is said of a light by attributes that every renderer knows; names without `inputs:`. */
export interface UsdLight {
  intensity: number;
  exposure: number;
  normalize: boolean;
  color: Vec3;
  enableColorTemperature: boolean;
  colorTemperature: number;
  diffuse: number;
  specular: number;
  width?: number;
  height?: number;
  radius?: number;
  length?: number;
  angle?: number;
  'shaping:cone:angle'?: number;
  'shaping:cone:softness'?: number;
  'shaping:ies:file'?: string;
  'texture:file'?: string;
  'shadow:enable': boolean;
  'shadow:color': Vec3;
}

/** A light's size in the words of its schema. */
function sizeOf(light: Light): Partial<UsdLight> {
  switch (light.kind) {
    case 'rectangle':
      return { width: light.width, height: light.height };
    case 'disk':
      return { radius: roundRadius(light) };
    case 'ball':
    case 'spot':
    case 'profile':
      return { radius: light.diameter / 2 };
    case 'tube':
      return { length: light.length, radius: light.diameter / 2 };
    case 'sun':
      return { angle: light.angle };
    default:
      return {};
  }
}

/** A light in UsdLux's words. */
export function usdLight(light: Light): UsdLight {
  const normalize = isNormalized(light);
  // the temperature is said as such; what else colours it is left in the colour
  const white = kelvinToLinear(light.kelvin),
    all = lightColour(light);
  const color = all.map((v, k) => (white[k]! > 1e-6 ? v / white[k]! : v)) as Vec3;
  const { shadow } = light;
  return {
    intensity: lightLuminance(light) * (normalize ? usdArea(light) : 1),
    exposure: light.stops - light.scrims / 2,
    normalize,
    color,
    enableColorTemperature: true,
    colorTemperature: light.kelvin,
    diffuse: light.diffuse,
    specular: light.specular,
    ...sizeOf(light),
    ...(light.kind === 'spot' ? { 'shaping:cone:angle': light.angle / 2, 'shaping:cone:softness': light.soft } : {}),
    ...(light.kind === 'profile' ? { 'shaping:ies:file': light.profile.name } : {}),
    ...(light.kind === 'dome' && light.fill.kind === 'picture' ? { 'texture:file': light.fill.name } : {}),
    'shadow:enable': shadow.cast,
    'shadow:color': shadow.colour.map((v) => 1 - shadow.density + shadow.density * v) as Vec3,
  };
}

/** What of a light UsdLux has no words for, in ours. */
export function withoutCounterpart(light: Light): string[] {
  const said: string[] = [];
  const say = (is: boolean, words: string) => is && said.push(words);
  if (usdType(light) === undefined) say(true, 'surfaces that glow are no light of UsdLux');
  say(light.kind === 'sky', 'its sky is a model: the dome is even');
  say(light.kind === 'dome' && light.fill.kind === 'gradient', 'its gradient: the dome is even');
  say(light.kind === 'dome' && light.fill.kind === 'picture', 'the picture of the dome must lie beside the file');
  say(light.kind === 'profile', 'the profile (.ies) must lie beside the file');
  say(light.kind === 'disk' && light.width !== light.height, 'an ellipse: the disk is round, of the same area');
  say(light.kind === 'spot', 'a cone’s edge falls off in each renderer’s own way');
  say('twoSided' in light && light.twoSided, 'light on both sides');
  say('beam' in light && light.beam.angle < 180, 'the honeycomb grid');
  say(light.scrims > 0, 'scrims (they are in the exposure)');
  say(light.tint !== 0 || light.picked.strength > 0 || light.gel !== '', 'tint, picked colour and gel (they are in the colour)');
  say(Object.keys(light.reach?.shadows ?? {}).length > 0, 'shadows of some things that are less than whole');
  say(light.volume !== 1, 'the share in haze');
  say(light.seen.camera || !light.seen.mirror, 'where the source is seen');
  if (isPlaced(light)) sayPlaced(light, say);
  return said;
}

function sayPlaced(light: PlacedLight, say: (is: boolean, words: string) => unknown): void {
  say(light.range.near > 0 || light.range.far > 0, 'where its light begins and ends');
  say(light.gobo.pattern !== 'none', 'the gobo');
}
