import { exposureFactor, stopsToFactor } from '../photometry/index.ts';
import { lightColour } from './colour.ts';
import { factorOn, FILM_LAYERS, SEEN_LAYERS, type Gain, type LayerName, type Rgb } from './layers.ts';
import type { Light } from './light-schema.ts';
import { lightLuminance } from './output.ts';
import { orderOf } from './rank.ts';
import type { Setup } from './schema.ts';

/** What a light's level does: stops, less the half stops of its scrims. */
export const lightLevel = (light: Light): number => stopsToFactor(light.stops - light.scrims / 2);

/** Radiance of a light per channel as photometric luminance, whether on or off, without shares and exposure. */
export function lightRadiance(light: Light): Rgb {
  const l = lightLuminance(light) * lightLevel(light);
  const c = lightColour(light);
  return [c[0] * l, c[1] * l, c[2] * l];
}

/**
 * Factors for every light of a setup, exposure of the camera included. Films are traced with luminance 1, so level,
 * colour, output and shares never cost a ray. Soloed lights are heard alone, even when off. On layers beside `layers` they are nothing.
 */
export function setupGains(setup: Setup, solo: readonly string[] = [], layers: readonly LayerName[] = SEEN_LAYERS): Record<string, Gain> {
  const exposure = exposureFactor(setup.camera.ev);
  const out: Record<string, Gain> = {};
  for (const id of orderOf(setup.lights)) {
    const light = setup.lights.items[id]!;
    const heard = solo.length === 0 ? light.on : solo.includes(id);
    const [r, g, b] = lightRadiance(light).map((v) => (heard ? v * exposure : 0)) as Rgb;
    const on = (name: LayerName): Rgb => {
      const k = layers.includes(name) ? factorOn(light, name) : 0;
      return [r * k, g * k, b * k];
    };
    out[id] = Object.fromEntries(FILM_LAYERS.map(({ name }) => [name, on(name)])) as Gain;
  }
  return out;
}
