import { gridShare, spotFlux, SUN_OUTSIDE } from '../light/index.ts';
import type { Light, OutputUnit } from './light-schema.ts';

// How bright a source is, in every unit that it can be said in. All of them are proportional to the held value, so that
// one factor for each unit says it all.

/** Luminance (cd/m²) or intensity (cd) that counts as 1 in the unit "relative". */
const RELATIVE = 1000;

/** Shining area of a flat or round source, m², both sides of a two-sided one; 0 for what has none. */
export function sourceArea(light: Light): number {
  switch (light.kind) {
    case 'rectangle':
      return light.width * light.height * (light.twoSided ? 2 : 1);
    case 'disk':
      return (Math.PI / 4) * light.width * light.height * (light.twoSided ? 2 : 1);
    case 'ball':
      return Math.PI * light.diameter ** 2;
    case 'tube':
      return Math.PI * light.diameter * light.length;
    default:
      return 0;
  }
}

/** Area of a small source as seen from anywhere, m². */
const facing = (diameter: number): number => (Math.PI / 4) * diameter ** 2;
const shareOfBeam = (light: Light): number =>
  'beam' in light && light.beam.angle < 180 ? gridShare((light.beam.angle * Math.PI) / 180) : 1;

/** Luminance on the axis (cd/m²; of skies and domes: of what their picture calls 1) for each unit of the held value. */
function luminancePerValue(light: Light): number {
  switch (light.kind) {
    case 'rectangle':
    case 'disk':
    case 'ball':
    case 'tube': {
      const base = light.output.held === 'flux' ? 1 / (Math.PI * sourceArea(light)) : 1;
      return 'beam' in light && light.beam.keep === 'total' ? base / shareOfBeam(light) : base;
    }
    case 'spot':
      return (light.output.held === 'flux' ? 1 / spotFlux((light.angle * Math.PI) / 180, light.soft) : 1) / facing(light.diameter);
    case 'profile':
      return light.profile.peak / facing(light.diameter);
    case 'sun':
      // lux on a surface that faces it: a cap of half angle a and luminance L gives π L sin² a
      return 1 / (Math.PI * Math.sin((light.angle * Math.PI) / 360) ** 2);
    case 'sky':
    case 'dome':
    case 'glow':
    case 'object':
      return 1;
  }
}

/** Luminance of a light before stops and colour, cd/m²: what the film's unit stands for. */
export const lightLuminance = (light: Light): number => light.output.value * luminancePerValue(light);

/** Units that a light's output can be said in, the usual one first. */
export function unitsOf(light: Light): OutputUnit[] {
  switch (light.kind) {
    case 'rectangle':
    case 'disk':
    case 'ball':
    case 'tube':
      return ['cd/m²', 'kcd/m²', 'lm', 'W', 'relative'];
    case 'spot':
      return ['cd', 'lm', 'W', 'relative'];
    case 'profile':
      return ['relative', 'cd', 'lm', 'W'];
    case 'sun':
      return ['lx', 'relative'];
    case 'dome':
    case 'object':
      return ['cd/m²', 'kcd/m²', 'relative'];
    case 'sky':
    case 'glow':
      return ['relative'];
  }
}

/** What one unit of the held value is in `unit`. */
function factorOf(light: Light, unit: OutputUnit): number {
  const luminance = luminancePerValue(light);
  const flux = (): number => {
    switch (light.kind) {
      case 'spot':
        return light.output.held === 'flux' ? 1 : spotFlux((light.angle * Math.PI) / 180, light.soft);
      case 'profile':
        return light.profile.flux;
      default:
        return Math.PI * sourceArea(light) * luminance * shareOfBeam(light);
    }
  };
  const small = light.kind === 'spot' || light.kind === 'profile' ? facing(light.diameter) : 0;
  switch (unit) {
    case 'cd/m²':
      return luminance;
    case 'kcd/m²':
      return luminance / 1000;
    case 'cd':
      return luminance * small;
    case 'lm':
      return flux();
    case 'W':
      return flux() / light.output.efficacy;
    case 'lx':
      return 1;
    case 'relative':
      if (light.kind === 'sun') return 1 / SUN_OUTSIDE;
      if (light.kind === 'sky' || light.kind === 'glow' || light.kind === 'profile') return 1;
      return (small > 0 ? luminance * small : luminance) / RELATIVE;
  }
}

/**
 * A light's output in a unit; the light stays what it is.
 * @example outputIn(panel, 'lm')
 */
export const outputIn = (light: Light, unit: OutputUnit): number => light.output.value * factorOf(light, unit);

/** The held value that gives a light this output in a unit. */
export const outputValue = (light: Light, unit: OutputUnit, shown: number): number => shown / factorOf(light, unit);

/** The output of a light that is held by something else from now on, so that nothing changes in the picture. */
export function heldBy<L extends Light>(light: L, held: L['output']['held']): L['output'] {
  const now = lightLuminance(light);
  const next = { ...light, output: { ...light.output, held, value: 1 } } as L;
  return { ...light.output, held, value: now / luminancePerValue(next) };
}
