// A shadow catcher: objects that show nothing of themselves but the shadows that fall on them, for another picture behind.
import { z } from 'zod';
import { LIMITS } from './limits.ts';
import { objectRef, refCovers, type ObjectRef } from './object-ref.ts';
import { colour, id, within } from './values.ts';

/** Most objects and lights that it names. */
const MOST = 400;
const few = <T extends z.ZodType>(of: T) =>
  z.record(of as unknown as z.ZodString, z.literal(true)).refine((c) => Object.keys(c).length <= MOST, `at most ${MOST} can be named`);

export const catcherSchema = z.strictObject({
  /** Which objects catch: the stage, things, characters or parts of them. None: nothing does. */
  objects: few(objectRef),
  /** Lights whose shadows are left out. */
  without: few(id),
  /** How much of the shadow as it was traced is taken, and its colour as it shall look, linear. */
  density: within(LIMITS.unit),
  colour,
  /** Darkening where surfaces lie close together, as a share of its own. */
  contact: within(LIMITS.unit),
  /** Whether light that other surfaces throw on the catcher is shown, and what it mirrors of them. */
  bounce: z.boolean(),
  mirror: z.boolean(),
});
export type Catcher = z.infer<typeof catcherSchema>;

/** Catches nothing yet; shadows as they were traced. */
export const CATCHER_DEFAULTS: Catcher = {
  objects: {},
  without: {},
  density: 1,
  colour: [0, 0, 0],
  contact: 0,
  bounce: false,
  mirror: false,
};

/** Whether an object catches. */
export const isCatcher = (catcher: Catcher | undefined, object: ObjectRef): boolean =>
  catcher !== undefined && Object.keys(catcher.objects).some((ref) => refCovers(ref, object));

/** Whether contact is to be shown on catchers: it takes a film of its own. */
export const wantsOpenness = (setup: { catcher?: Catcher | undefined }): boolean => hasCatcher(setup) && setup.catcher!.contact > 0;

/** Whether a setup has a catcher at all. */
export const hasCatcher = ({ catcher }: { catcher?: Catcher | undefined }): boolean =>
  catcher !== undefined && Object.keys(catcher.objects).length > 0;
