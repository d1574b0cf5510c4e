// Which kits a setup is made of, and to which of them it stays tied: where those change later, their changes are offered here.
import { z } from 'zod';
import { id } from './values.ts';

/** What of a setup a kit can hold, in the order in which it is shown. */
export const KIT_PARTS = ['rig', 'stage', 'cameras', 'look', 'targets', 'turntable'] as const;
export type KitPart = (typeof KIT_PARTS)[number];

/** Most kits that one setup is tied to. */
const MOST_TIES = 40;
const ids = z.record(id, id);

export const tieSchema = z.strictObject({
  /** What the kit was called. */
  name: z.string().min(1).max(120),
  /** The kit's revision that stands here. */
  revision: z.number().int().min(1).max(2_147_483_647),
  parts: z.array(z.enum(KIT_PARTS)).min(1).max(KIT_PARTS.length),
  how: z.enum(['replace', 'merge']),
  /** Later changes of the kit are offered here; else it is only known where this came from. */
  offers: z.boolean(),
  /** Under which id what has one in the kit stands here. */
  ids: z.strictObject({ lights: ids, flags: ids, cameras: ids }),
});
export type Tie = z.infer<typeof tieSchema>;
export type KitIds = Tie['ids'];

/** Ties by the id of the kit. */
export const tiesSchema = z
  .record(z.uuid(), tieSchema)
  .refine((ties) => Object.keys(ties).length <= MOST_TIES, `a setup is tied to at most ${MOST_TIES} kits`);
