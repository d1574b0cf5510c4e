// A kit: parts of a setup kept to be put under other characters. Its numbers are those of a reference head (`NO_HEAD`: 0.23 m from chin to crown, 1.6 m
// up, looking along +Z), so that the schemas of the setup say what a kit may hold.
import { z } from 'zod';
import { flagSchema, lightSchema } from './light-schema.ts';
import { LIMITS } from './limits.ts';
import { rankedItems, cameraSchema, hazeSchema, keptCameraSchema, lookSchema, plateSchema, stageSchema, TARGETS } from './schema.ts';
import { turntableSchema } from './turntable.ts';
import { within } from './values.ts';

export const KIT_VERSION = 1;

/** What of a setup a kit can hold, in the order in which it is shown. */
export const KIT_PARTS = ['rig', 'stage', 'cameras', 'look', 'targets', 'turntable'] as const;
export type KitPart = (typeof KIT_PARTS)[number];

/** Lights and what stands in their way, and the exposure that belongs to them. */
export const kitRigSchema = z.strictObject({ lights: rankedItems(lightSchema), flags: rankedItems(flagSchema), ev: within(LIMITS.ev) });
export const kitStageSchema = z.strictObject({ stage: stageSchema, plate: plateSchema, haze: hazeSchema });
export const kitCamerasSchema = z.strictObject({ camera: cameraSchema, cameras: rankedItems(keptCameraSchema) });

export const kitSchema = z.strictObject({
  schemaVersion: z.literal(KIT_VERSION),
  name: z.string().trim().min(1).max(120),
  /** What it is for, in a line. */
  brief: z.string().max(240),
  notes: z.string().max(4000),
  tags: z.array(z.string().trim().min(1).max(40)).max(20),
  /** What it draws on the face that it was made for, as that was read: fitting it to another face brings these back. */
  shows: z
    .strictObject({
      pattern: z.string().max(40).optional(),
      ratio: z.number().positive().max(1e6).optional(),
      key: z.string().max(41).optional(),
    })
    .optional(),
  parts: z
    .strictObject({
      rig: kitRigSchema.optional(),
      stage: kitStageSchema.optional(),
      cameras: kitCamerasSchema.optional(),
      look: lookSchema.optional(),
      targets: z.partialRecord(z.enum(TARGETS), within(LIMITS.target)).optional(),
      turntable: turntableSchema.optional(),
    })
    .refine((parts) => Object.values(parts).some((p) => p !== undefined), 'a kit holds at least one part of a setup'),
});
export type Kit = z.infer<typeof kitSchema>;
export type KitRig = z.infer<typeof kitRigSchema>;
export type KitStage = z.infer<typeof kitStageSchema>;
export type KitCameras = z.infer<typeof kitCamerasSchema>;

/** The parts that a kit holds, in their order. */
export const partsOf = ({ parts }: Pick<Kit, 'parts'>): KitPart[] => KIT_PARTS.filter((p) => parts[p] !== undefined);
