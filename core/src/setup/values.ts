import { z } from 'zod';
import { LIMITS, type Limits } from './limits.ts';
import { isRank } from './rank.ts';

// What the parts of the schema share.

export const finite = z.number().finite();
/** A number from the table of limits. */
export const within = ([min, max]: Limits) => finite.min(min).max(max);
export const point = z.tuple([finite, finite, finite]);
const channel = within(LIMITS.unit);
export const colour = z.tuple([channel, channel, channel]);
export const id = z.string().regex(/^[a-z0-9][a-z0-9-]{0,40}$/, 'an id is lower-case letters, digits and hyphens');
/** Where an item stands among the others of its collection. */
export const rank = z.string().max(80).refine(isRank, 'a rank is a fractional index such as “a0”');
export const sha256 = z.string().regex(/^[0-9a-f]{64}$/, 'a SHA-256 in hexadecimal');
