import { sunThroughAir, SUN_OUTSIDE } from '../light/index.ts';
import { gelTransmission, kelvinToLinear, pickedColour } from '../photometry/index.ts';
import type { Vec3 } from '../math/index.ts';
import type { Light, SunLight } from './light-schema.ts';

const suns = new Map<string, Vec3>();

/** What the air leaves of the sun, red, green, blue. */
function throughAir({ elevation, turbidity }: SunLight): Vec3 {
  const key = `${elevation} ${turbidity}`;
  let share = suns.get(key);
  if (!share) {
    if (suns.size > 64) suns.clear();
    share = sunThroughAir(elevation, turbidity).map((v) => v / SUN_OUTSIDE) as Vec3;
    suns.set(key, share);
  }
  return share;
}

/** Colour of a light's source itself, luminance 1: temperature, tint and the picked colour; without gel and air. */
export function sourceColour(light: Pick<Light, 'kelvin' | 'tint' | 'picked'>): Vec3 {
  const white = kelvinToLinear(light.kelvin, light.tint);
  if (light.picked.strength === 0) return white;
  const picked = pickedColour(light.picked.colour, light.picked.strength);
  return [white[0] * picked[0], white[1] * picked[1], white[2] * picked[2]];
}

/** All that colours a light, as factors on its luminance: the source, the gel, and the air before a sun. */
export function lightColour(light: Light): Vec3 {
  const c = sourceColour(light);
  const gel = light.gel ? gelTransmission(light.gel, light.kelvin) : [1, 1, 1];
  const air = light.kind === 'sun' && light.air ? throughAir(light) : [1, 1, 1];
  return [c[0] * gel[0]! * air[0]!, c[1] * gel[1]! * air[1]!, c[2] * gel[2]! * air[2]!];
}
