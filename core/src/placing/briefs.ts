// Intentions, and what light they begin with. What suits which is common practice of the trade, no source; what is measured is the face.
import { z } from 'zod';
import { PATTERNS, type Pattern } from '../face/index.ts';
import { LIMITS, type Limits } from '../setup/index.ts';

const within = ([min, max]: Limits) => z.number().min(min).max(max);
/** A flat source: metres for a grown person's head, kelvin, and how much of a full key it gives. */
const source = { width: within(LIMITS.size), height: within(LIMITS.size), kelvin: within(LIMITS.kelvin), share: within([0, 1000]) };
const distance = within(LIMITS.distance),
  elevation = within(LIMITS.elevation);
const aimed = z.strictObject({ ...source, azimuth: within(LIMITS.turn), elevation, distance });

/** Patterns that one light can draw. */
export type KeyPattern = Exclude<Pattern, 'clamshell'>;
export const KEY_PATTERNS = PATTERNS.filter((p): p is KeyPattern => p !== 'clamshell');

/** What an intention says of the light. */
export const beginningSchema = z.strictObject({
  /** The key: a pattern that is looked for on the face. */
  key: z.strictObject({ ...source, pattern: z.enum(KEY_PATTERNS), distance }),
  /** Lit to shadow side, where the key has sides, and what fills it. */
  ratio: within([1, 64]).optional(),
  fill: z.strictObject({ ...source, elevation: elevation.optional() }).optional(),
  /** Beyond the figure, on the side away from the key; and on the key's own. Azimuths are from where the camera stands, for a key from the left. */
  rim: aimed.optional(),
  kick: aimed.optional(),
  /** A small light that only the eyes show, at an hour of the clock. */
  eye: z.strictObject({ clock: within([0, 12]), kelvin: within(LIMITS.kelvin) }).optional(),
  /** On the backdrop. */
  backdrop: z.strictObject({ share: within([0, 1000]), kelvin: within(LIMITS.kelvin) }).optional(),
});
export type Beginning = z.infer<typeof beginningSchema>;

export interface Brief extends Beginning {
  id: string;
  name: string;
  /** Why it begins so. */
  words: string;
}
type Aimed = NonNullable<Beginning['rim']>;

/** A strip beyond the figure, on the side away from the key. */
export const beyond = (share: number, kelvin: number, elevation = 28): Aimed => ({
  width: 0.2,
  height: 1.1,
  kelvin,
  share,
  azimuth: -150,
  elevation,
  distance: 1.6,
});

export const BRIEFS: readonly Brief[] = [
  {
    id: 'heroic',
    name: 'Heroic',
    words: 'a clear loop from above, firm shadows, and an edge on both sides that lifts the figure off the ground',
    key: { pattern: 'loop', width: 0.5, height: 0.65, kelvin: 5200, share: 1, distance: 1.6 },
    ratio: 4,
    fill: { width: 1.2, height: 1.2, kelvin: 6200, share: 0.3 },
    rim: beyond(1.6, 6500),
    kick: { width: 0.15, height: 0.9, kelvin: 4600, share: 0.8, azimuth: 140, elevation: 12, distance: 1.5 },
  },
  {
    id: 'menacing',
    name: 'Menacing',
    words: 'light from below, so that shadows climb, and a catchlight at 6 o’clock that keeps the eyes',
    key: { pattern: 'under', width: 0.35, height: 0.3, kelvin: 4300, share: 0.8, distance: 1.2 },
    fill: { width: 1.2, height: 1.2, kelvin: 8000, share: 0.15 },
    rim: beyond(0.9, 8500, 40),
    eye: { clock: 6, kelvin: 4300 },
  },
  {
    id: 'tender',
    name: 'Tender',
    words: 'a large source near by, a soft loop that leaves the eyes open, warm, and little between light and shadow',
    key: { pattern: 'loop', width: 1.1, height: 1.1, kelvin: 4300, share: 0.95, distance: 1.3 },
    ratio: 2,
    fill: { width: 1.4, height: 1.4, kelvin: 4800, share: 0.5 },
    rim: beyond(0.5, 3800),
  },
  {
    id: 'mysterious',
    name: 'Mysterious',
    words: 'half of the face kept back, a thin cool edge that says where it ends, one glint in the eyes',
    key: { pattern: 'split', width: 0.35, height: 0.7, kelvin: 5000, share: 0.7, distance: 1.6 },
    ratio: 8,
    fill: { width: 1.2, height: 1.2, kelvin: 9000, share: 0.08 },
    rim: beyond(0.8, 9000),
    eye: { clock: 10, kelvin: 5600 },
  },
  {
    id: 'glamorous',
    name: 'Glamorous',
    words: 'from above the camera, cheekbones first, the shadow under the nose short, all of it soft',
    key: { pattern: 'butterfly', width: 0.6, height: 0.6, kelvin: 5600, share: 1, distance: 1.1 },
    fill: { width: 0.9, height: 0.4, kelvin: 5600, share: 0.3, elevation: -25 },
    rim: beyond(1.1, 5600, 40),
    backdrop: { share: 0.5, kelvin: 5600 },
  },
  {
    id: 'honest',
    name: 'Honest',
    words: 'one window, nothing that flatters: a closed triangle, the room gives the rest',
    key: { pattern: 'closed triangle', width: 0.9, height: 1.2, kelvin: 5800, share: 0.9, distance: 2.2 },
    ratio: 4,
    fill: { width: 1.6, height: 1.6, kelvin: 6200, share: 0.25 },
  },
  {
    id: 'night-inside',
    name: 'Night inside',
    words: 'a warm lamp for what happens here, the cold of the window behind it',
    key: { pattern: 'closed triangle', width: 0.3, height: 0.3, kelvin: 2900, share: 0.75, distance: 1.2 },
    ratio: 8,
    fill: { width: 1.4, height: 1.4, kelvin: 9000, share: 0.1 },
    rim: beyond(0.7, 10000),
    backdrop: { share: 0.15, kelvin: 9000 },
  },
  {
    id: 'storm',
    name: 'Storm',
    words: 'grey from high above, hardly a shadow, and one hard cold edge as of lightning',
    key: { pattern: 'butterfly', width: 1.1, height: 1.1, kelvin: 7500, share: 0.6, distance: 1.8 },
    fill: { width: 1.4, height: 1.4, kelvin: 8500, share: 0.3 },
    rim: { ...beyond(2.2, 11000, 45), width: 0.15, height: 0.3 },
  },
  {
    id: 'lonely',
    name: 'Lonely',
    words: 'the light comes from behind and leaves the face in shade; what is left of it is cool',
    key: { pattern: 'rim', width: 0.4, height: 1, kelvin: 6800, share: 1.6, distance: 1.7 },
    fill: { width: 1.6, height: 1.6, kelvin: 8500, share: 0.22 },
    eye: { clock: 11, kelvin: 6500 },
  },
  {
    id: 'wonder',
    name: 'Wonder',
    words: 'what the figure looks at gives the light: in front, a little below, warm, and wide eyes that mirror it',
    key: { pattern: 'under', width: 0.9, height: 0.5, kelvin: 3600, share: 0.85, distance: 1.2 },
    fill: { width: 1.2, height: 1.2, kelvin: 7500, share: 0.35 },
    rim: beyond(0.9, 8000),
  },
  {
    id: 'merry',
    name: 'Merry',
    words: 'flat and bright, nothing to hide, an edge of sun',
    key: { pattern: 'flat', width: 1.4, height: 1.2, kelvin: 5400, share: 1, distance: 1.8 },
    fill: { width: 1.4, height: 1.4, kelvin: 5600, share: 0.4 },
    rim: beyond(1.5, 4600, 35),
    backdrop: { share: 0.8, kelvin: 5400 },
  },
  {
    id: 'evening',
    name: 'Last light',
    words: 'a low sun from the side, sky on the other: warm against cool, shadows long',
    key: { pattern: 'split', width: 0.25, height: 0.25, kelvin: 3200, share: 1.1, distance: 2.4 },
    ratio: 4,
    fill: { width: 1.6, height: 1.6, kelvin: 9500, share: 0.3 },
    rim: beyond(0.8, 3000, 10),
  },
];
