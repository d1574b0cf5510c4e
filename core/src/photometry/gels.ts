// Colour filters in front of a light. The names are ours; conversion gels are described as makers publish theirs, by the
// shift in micro reciprocal degrees and the transmission of luminance, colours by their transmission of linear red, green, blue.
import type { Vec3 } from '../math/index.ts';
import { luminance } from './colour.ts';
import { kelvinToLinear } from './white.ts';

export interface Gel {
  id: string;
  name: string;
  /** Shift of the light's reciprocal temperature, 10⁶/K: positive warms. */
  mired?: number;
  /** Share of luminance that passes a conversion gel. */
  passes?: number;
  /** Transmission of linear red, green, blue, of a colour. */
  colour?: Vec3;
}

/** Conversion shifts and transmissions as are usual for full, half, quarter and eighth gels: common practice, no source. */
export const GELS: readonly Gel[] = [
  { id: 'ember', name: 'Ember', mired: 159, passes: 0.58 },
  { id: 'half-ember', name: 'Half ember', mired: 81, passes: 0.73 },
  { id: 'quarter-ember', name: 'Quarter ember', mired: 42, passes: 0.82 },
  { id: 'eighth-ember', name: 'Eighth ember', mired: 20, passes: 0.89 },
  { id: 'dusk', name: 'Dusk', mired: -137, passes: 0.34 },
  { id: 'half-dusk', name: 'Half dusk', mired: -78, passes: 0.52 },
  { id: 'quarter-dusk', name: 'Quarter dusk', mired: -35, passes: 0.69 },
  { id: 'lamp-oil', name: 'Lamp oil', colour: [0.95, 0.66, 0.22] },
  { id: 'rust', name: 'Rust', colour: [0.86, 0.29, 0.09] },
  { id: 'signal-red', name: 'Signal red', colour: [0.72, 0.03, 0.02] },
  { id: 'sea-glass', name: 'Sea glass', colour: [0.34, 0.78, 0.62] },
  { id: 'moss', name: 'Moss', colour: [0.28, 0.52, 0.1] },
  { id: 'deep-water', name: 'Deep water', colour: [0.04, 0.2, 0.56] },
  { id: 'storm', name: 'Storm', colour: [0.3, 0.42, 0.56] },
  { id: 'heather', name: 'Heather', colour: [0.56, 0.26, 0.6] },
  { id: 'shell', name: 'Shell', colour: [0.94, 0.74, 0.68] },
];

export const gelOf = (id: string): Gel | undefined => GELS.find((g) => g.id === id);

/** What passes a gel of light of `kelvin`: factors on the light's own linear red, green, blue. Unknown gels pass all. */
export function gelTransmission(id: string, kelvin: number): Vec3 {
  const gel = gelOf(id);
  if (!gel) return [1, 1, 1];
  if (gel.colour) return [...gel.colour];
  const shifted = 1e6 / Math.min(1e6 / 1000, Math.max(1e6 / 25000, 1e6 / kelvin + gel.mired!));
  const before = kelvinToLinear(kelvin),
    after = kelvinToLinear(shifted);
  return [0, 1, 2].map((k) => (before[k]! > 1e-6 ? (after[k]! / before[k]!) * gel.passes! : 0)) as Vec3;
}

/** How strongly a picked colour of a given strength acts, in a word. Common practice, no source: colour acts sooner than expected. */
export const strengthWord = (strength: number): 'none' | 'hint' | 'clear' | 'strong' =>
  strength <= 0 ? 'none' : strength < 0.2 ? 'hint' : strength < 0.5 ? 'clear' : 'strong';

/** A picked colour between white (0) and itself (1), luminance 1. */
export function pickedColour(rgb: Vec3, strength: number): Vec3 {
  const own = luminance(...rgb);
  const pure: Vec3 = own > 1e-6 ? [rgb[0] / own, rgb[1] / own, rgb[2] / own] : [1, 1, 1];
  return [1 + (pure[0] - 1) * strength, 1 + (pure[1] - 1) * strength, 1 + (pure[2] - 1) * strength];
}

/** The colour that makes white together with a light's colour: its complement, brightest channel 1. */
export function complementOf(rgb: Vec3): Vec3 {
  const most = Math.max(...rgb, 1e-6),
    least = Math.min(...rgb);
  const out = rgb.map((v) => (most + least - v) / most) as Vec3;
  const top = Math.max(...out, 1e-6);
  return [out[0] / top, out[1] / top, out[2] / top];
}

/**
 * The temperature on the other side of a white, as far away from it in reciprocal kelvin.
 * @example complementKelvin(4000, 6500) // 17333: cool against warm
 */
export function complementKelvin(kelvin: number, white: number): number {
  const mired = 2e6 / white - 1e6 / kelvin;
  return mired <= 40 ? 25000 : Math.min(25000, Math.max(1700, 1e6 / mired));
}
