// What a proof keeps beside picture and setup: the reading of its face, and pins with words on the picture.
import { z } from 'zod';
import { finite, within } from './values.ts';
import { LIMITS } from './limits.ts';

const share = within(LIMITS.unit);

/** A reading as it is kept: what it says, without the map it was made of. Lights are named as they were called. */
export const keptReadingSchema = z.strictObject({
  /** Pattern by the key alone, and by all lights. */
  pattern: z.string().min(1).max(40).optional(),
  all: z.string().min(1).max(40).optional(),
  /** The key and where it comes from, degrees. */
  key: z.strictObject({ name: z.string().max(120), azimuth: finite, elevation: finite }).optional(),
  /** Lit to shadow side of the face. */
  ratio: finite.positive().optional(),
  /** Share of the face that the key lights. */
  lit: share.optional(),
  side: z.enum(['broad', 'short']).optional(),
  /** Hours of the catchlights that are seen, by light. */
  catchlights: z.array(z.strictObject({ light: z.string().max(120), hour: z.number().int().min(1).max(12) })).max(60),
  /** Share of the skin that is clipped, and crushed. */
  clipped: share.optional(),
  crushed: share.optional(),
  /** Figure against ground along the silhouette, stops. */
  separation: finite.optional(),
  /** Skin of the lit cheek, linear Rec.709, white at 1. */
  face: z.tuple([finite.min(0), finite.min(0), finite.min(0)]).optional(),
  /** Share of the silhouette's left and right that stands off the ground. */
  edges: z.strictObject({ left: share.optional(), right: share.optional() }).optional(),
});

/** Words at a place of the picture, 0…1 from its left and top. */
export const pinSchema = z.strictObject({ at: z.tuple([share, share]), text: z.string().trim().min(1).max(240) });
/** Most pins on one picture. */
export const MOST_PINS = 40;

export type KeptReading = z.infer<typeof keptReadingSchema>;
export type Pin = z.infer<typeof pinSchema>;
