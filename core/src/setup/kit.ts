// A kit: parts of a setup kept to be put under other characters. Its numbers are those of a reference head (`NO_HEAD`: 0.23 m from chin to crown, 1.6 m
// up, looking along +Z), so that the schemas of the setup say what a kit may hold.
import { z } from 'zod';
import { flagSchema, lightSchema } from './light-schema.ts';
import { LIMITS } from './limits.ts';
import { diff, isEmptyPatch } from './patch.ts';
import { rankedItems, cameraSchema, hazeSchema, keptCameraSchema, lookSchema, plateSchema, stageSchema, TARGETS } from './schema.ts';
import { KIT_PARTS, type KitPart } from './tie.ts';
import { turntableSchema } from './turntable.ts';
import { sha256, within } from './values.ts';

export const KIT_VERSION = 2;

/** Lights and what stands in their way, and the exposure that belongs to them. */
export const kitRigSchema = z.strictObject({ lights: rankedItems(lightSchema), flags: rankedItems(flagSchema), ev: within(LIMITS.ev) });
export const kitStageSchema = z.strictObject({ stage: stageSchema, plate: plateSchema, haze: hazeSchema });
export const kitCamerasSchema = z.strictObject({ camera: cameraSchema, cameras: rankedItems(keptCameraSchema) });

export const kitSchema = z.strictObject({
  schemaVersion: z.literal(KIT_VERSION, {
    error: ({ input }) =>
      typeof input === 'number' && input > KIT_VERSION
        ? `version ${input} is newer than this Plinket reads, which is ${KIT_VERSION}`
        : `a kit has version ${KIT_VERSION}`,
  }),
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
  /** How it looked on those it was seen on, and what was read of them. */
  shown: z
    .array(
      z.strictObject({
        on: z.string().trim().min(1).max(120),
        picture: sha256.optional(),
        pattern: z.string().max(40).optional(),
        ratio: z.number().positive().max(1e6).optional(),
      }),
    )
    .max(12),
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

/** A kit of an older version brought up to date, for the schema to judge; what is none, and what is of a newer one, stays as it is. */
export function migrateKit(document: unknown): unknown {
  if (typeof document !== 'object' || document === null || !('schemaVersion' in document)) return document;
  return document.schemaVersion === 1 ? { ...document, schemaVersion: 2, shown: [] } : document;
}

/** What a change of a kit does, in words for its history. */
export function describeKit(before: Kit, after: Kit): string {
  const differ = (a: unknown, b: unknown) => !isEmptyPatch(diff({ is: a }, { is: b }));
  const parts = KIT_PARTS.filter((p) => differ(before.parts[p], after.parts[p]));
  const said = [
    ...(before.name === after.name ? [] : [`renamed “${after.name}”`]),
    ...(['brief', 'notes', 'tags'] as const).filter((k) => differ(before[k], after[k])),
    ...parts.map((p) => (!before.parts[p] ? `${p} added` : after.parts[p] ? `${p} anew` : `without its ${p}`)),
    ...(parts.length === 0 && differ(before.shown, after.shown) ? ['pictures'] : []),
  ];
  return said.join(', ') || 'changed';
}

/** The JSON Schema (2020-12) of a kit of today's version; what it cannot say, as that a rank is a fractional index, is checked where a kit is read. */
export const kitJsonSchema = (): object => ({
  title: `A kit, version ${KIT_VERSION}`,
  ...z.toJSONSchema(kitSchema, { io: 'input', reused: 'ref' }),
});
