import {
  keptReadingSchema,
  kitSchema,
  MOST_PINS,
  MOST_SHOTS,
  pinSchema,
  placelessShotSchema,
  productionSchema,
  recipeSchema,
  sequenceSchema,
  setupSchema,
} from '@plinket/core';
import { z } from 'zod';

// What web and server say to each other. Everything that crosses is one of these.

const iso = z.iso.datetime();
export const sha256Schema = z.string().regex(/^[0-9a-f]{64}$/, 'a SHA-256 in hexadecimal');
export const idSchema = z.uuid();
/** Media type of RFC 9457 problem details. */
export const PROBLEM = 'application/problem+json';
/** Number of a revision: whole, from 1, as PostgreSQL's int holds it. */
export const revisionSchema = z.coerce.number().int().min(1).max(2_147_483_647);
/** Id under which a change is sent, and sent again when its answer was lost. */
export const requestIdSchema = z.uuid();

/** RFC 9457 problem details. */
export const problemSchema = z.object({
  type: z.string(),
  title: z.string(),
  status: z.number().int(),
  detail: z.string().optional(),
  /** Every field that was refused, with its reason. */
  errors: z.array(z.object({ field: z.string(), reason: z.string() })).optional(),
  /** The newer document, when a revision was stale. */
  current: z.object({ revision: z.number().int(), document: z.unknown() }).optional(),
});

/** A document of any kind as the server answers it. */
export interface DocumentRecord<D> {
  id: string;
  revision: number;
  document: D;
  createdAt: string;
  updatedAt: string;
}

const recordSchema = <T extends z.ZodType>(document: T) =>
  z.object({ id: idSchema, revision: z.number().int().positive(), document, createdAt: iso, updatedAt: iso });
export const setupRecordSchema = recordSchema(setupSchema);
/** Which page of a list: words to find, how many, and the `next` of the page before. */
export const listWishSchema = z.object({
  search: z
    .string()
    .max(200)
    .refine((s) => !s.includes('\0'), 'holds the character NUL')
    .optional(),
  cursor: z.string().max(400).optional(),
  limit: z.coerce.number().int().min(1).max(200).default(50),
  /** Of setups, only those that belong to no sequence. */
  loose: z
    .enum(['true', 'false'])
    .transform((v) => v === 'true')
    .optional(),
});
const pageSchema = <T extends z.ZodType>(item: T) => z.object({ items: z.array(item), next: z.string().optional() });

export const setupSummarySchema = z.object({
  id: idSchema,
  name: z.string(),
  brief: z.string(),
  revision: z.number().int(),
  updatedAt: iso,
  /** What changed last, in words; nothing as long as it is as it was made. */
  change: z.string().optional(),
  picture: sha256Schema.optional(),
});
export const setupListSchema = pageSchema(setupSummarySchema);
export const createSetupSchema = z.strictObject({ document: setupSchema });
/** An intention of one's own. */
export const recipeRecordSchema = recordSchema(recipeSchema);
export const createRecipeSchema = z.strictObject({ document: recipeSchema });
/** A kit. */
export const kitRecordSchema = recordSchema(kitSchema);
export const createKitSchema = z.strictObject({ document: kitSchema });
/** A production, and one of its sequences. */
export const productionRecordSchema = recordSchema(productionSchema);
export const createProductionSchema = z.strictObject({ document: productionSchema });
export const sequenceRecordSchema = recordSchema(sequenceSchema);
export const createSequenceSchema = z.strictObject({ document: sequenceSchema });
/** Shots that come new into a sequence: what is said of them, without the place, and the shot that they stand behind; without it, at the end. */
export const addShotsSchema = z.strictObject({
  shots: z.array(placelessShotSchema).min(1).max(MOST_SHOTS),
  after: z.uuid().optional(),
});
/** How the shots of a sequence stand. */
export const boardSchema = z.object({
  shots: z.array(
    z.object({
      id: idSchema,
      /** Thrown away: it can be had back. */
      gone: z.boolean(),
      updatedAt: iso,
      /** The latest proof, and what was read of it. */
      proof: z.object({ id: idSchema, picture: sha256Schema, reading: keptReadingSchema.optional(), createdAt: iso }).optional(),
      characters: z.array(z.string()),
      /** What it departs in from its sequence, in words; and whether the sequence has changed since it was last looked at. */
      departures: z.array(z.string()),
      behind: z.boolean(),
    }),
  ),
});
/** A change of a sequence's setup, to be told which shots it would be seen in. */
export const touchesSchema = z.strictObject({ patch: z.record(z.string(), z.unknown()) });
/** The shots of a sequence that a change of its setup is seen in, and those whose departures hide it. */
export const touchedSchema = z.object({ seen: z.array(idSchema), hidden: z.array(idSchema) });
/** Which value of a sequence's light: where it stands in a setup. */
export const alongWishSchema = z.object({
  path: z.string().regex(/^(camera\/ev|lights\/items\/[^/]{1,100}\/[A-Za-z/]{1,60})$/, 'a place of a light, or camera/ev'),
});
/** One value in the sequence's setup and in each shot, in their order; none where a shot has none. */
export const alongSchema = z.object({
  base: z.number().optional(),
  shots: z.array(z.object({ id: idSchema, revision: z.number().int(), value: z.number().optional() })),
});
/** Productions with their sequences, and sequences of none, for the first screen. */
export const productionsSchema = z.object({
  productions: z.array(z.object({ id: idSchema, revision: z.number().int(), name: z.string(), brief: z.string(), fps: z.number() })),
  sequences: z.array(
    z.object({
      id: idSchema,
      production: idSchema.optional(),
      rank: z.string(),
      name: z.string(),
      brief: z.string(),
      setup: idSchema,
      shots: z.number().int(),
      /** How many shots are in which state. */
      states: z.record(z.string(), z.number().int()),
      /** Pictures of its first shots. */
      pictures: z.array(sha256Schema),
    }),
  ),
});
/** A JSON Merge Patch (RFC 7396) on the document: an object, checked against the setup's schema once applied. */
export const patchSchema = z.record(z.string(), z.unknown());
export const historyWishSchema = z.object({ before: revisionSchema.optional() });
/** Accepted patches, the latest first; `next` is the revision before which the next page begins. */
export const historySchema = z.object({
  items: z.array(z.object({ revision: z.number().int(), words: z.string(), by: z.string().optional(), at: iso, patch: patchSchema })),
  next: z.number().int().optional(),
});

/** A change that was accepted, as those who have the document open hear of it. */
export const acceptedChangeSchema = z.object({
  revision: z.number().int().positive(),
  /** Under which it was sent: whoever sent it knows it as its own. */
  request: requestIdSchema.optional(),
  /** Who made it, where people sign in. */
  by: z.string().optional(),
  patch: patchSchema,
});

/** What a page says of itself: which one it is, the sequence that it works in, and the lights that it has in hand. */
export const holdingSchema = z.strictObject({
  client: idSchema,
  sequence: idSchema.optional(),
  lights: z.array(z.string().max(100)).max(200),
});
/** A page that has a document open, as the others see it; `name` where people sign in. */
export const handSchema = holdingSchema.extend({ document: idSchema, name: z.string().optional() });
/** Who else is in a document or its sequence; told whenever that changes. */
export const handsToldSchema = z.object({ hands: z.array(handSchema) });

export const assetSchema = z.object({
  sha256: sha256Schema,
  name: z.string(),
  fileName: z.string(),
  bytes: z.number().int(),
  triangles: z.number().int(),
  size: z.object({ width: z.number(), height: z.number(), depth: z.number() }),
  createdAt: iso,
});
export const assetListSchema = pageSchema(assetSchema);
/** A file that a character was made of, as it came. */
export const originalSchema = z.object({ sha256: sha256Schema, fileName: z.string(), bytes: z.number().int() });
/** A file for a light that has been read and kept: a picture for a dome, a photometric profile, a gobo. */
const kept = { sha256: sha256Schema, fileName: z.string(), notes: z.array(z.string()) };
export const lightFileSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('dome'), ...kept, width: z.number().int(), height: z.number().int(), layers: z.array(z.string()) }),
  z.object({ kind: z.literal('gobo'), ...kept, width: z.number().int(), height: z.number().int() }),
  z.object({ kind: z.literal('profile'), ...kept, name: z.string(), peak: z.number(), flux: z.number(), watts: z.number() }),
]);
/** A picture that has been read and kept. */
export const pictureSchema = z.object({ sha256: sha256Schema, width: z.number().int(), height: z.number().int() });
/** A look-up table that has been read and kept. */
export const cubeSchema = z.object({ sha256: sha256Schema, title: z.string(), size: z.number().int() });
const proofName = z.string().trim().min(1).max(120),
  proofNotes = z.string().max(4000),
  pins = z.array(pinSchema).max(MOST_PINS);
export const proofSummarySchema = z.object({
  id: idSchema,
  setupId: idSchema,
  /** What its setup is called today. */
  setupName: z.string(),
  name: z.string(),
  picture: sha256Schema,
  width: z.number().int(),
  height: z.number().int(),
  /** What was read of the face in it, where it was read. */
  reading: keptReadingSchema.optional(),
  createdAt: iso,
});
export const proofSchema = proofSummarySchema.extend({ document: setupSchema, notes: proofNotes, pins });
export const proofListSchema = pageSchema(proofSummarySchema);
/** Which proofs: words of its name, notes, setup and characters; one setup's; one pattern's; one character's (SHA-256); one kit's. */
export const proofWishSchema = listWishSchema.extend({
  setup: idSchema.optional(),
  pattern: z.string().max(40).optional(),
  character: sha256Schema.optional(),
  kit: idSchema.optional(),
});
/** What may be changed of a proof: what is said about it. */
export const proofChangeSchema = z
  .strictObject({ name: proofName.optional(), notes: proofNotes.optional(), pins: pins.optional() })
  .refine((change) => Object.keys(change).length > 0, 'name, notes or pins must be given');
export const healthSchema = z.object({ name: z.literal('plinket'), database: z.enum(['up', 'down']), version: z.string() });

export type Problem = z.infer<typeof problemSchema>;
export type SetupRecord = z.infer<typeof setupRecordSchema>;
export type PictureRecord = z.infer<typeof pictureSchema>;
export type KitRecord = z.infer<typeof kitRecordSchema>;
export type RecipeRecord = z.infer<typeof recipeRecordSchema>;
export type ListWish = z.input<typeof listWishSchema>;
export type ProductionRecord = z.infer<typeof productionRecordSchema>;
export type SequenceRecord = z.infer<typeof sequenceRecordSchema>;
export type AddShots = z.infer<typeof addShotsSchema>;
export type Board = z.infer<typeof boardSchema>;
export type Along = z.infer<typeof alongSchema>;
export type Touched = z.infer<typeof touchedSchema>;
export type Productions = z.infer<typeof productionsSchema>;
export type SetupSummary = z.infer<typeof setupSummarySchema>;
export type SetupList = z.infer<typeof setupListSchema>;
export type AcceptedChange = z.infer<typeof acceptedChangeSchema>;
export type Holding = z.infer<typeof holdingSchema>;
export type Hand = z.infer<typeof handSchema>;
export type HandsTold = z.infer<typeof handsToldSchema>;
export type History = z.infer<typeof historySchema>;
export type AssetRecord = z.infer<typeof assetSchema>;
export type AssetList = z.infer<typeof assetListSchema>;
export type OriginalRecord = z.infer<typeof originalSchema>;
export type CubeRecord = z.infer<typeof cubeSchema>;
export type LightFileRecord = z.infer<typeof lightFileSchema>;
export type ProofSummary = z.infer<typeof proofSummarySchema>;
export type ProofList = z.infer<typeof proofListSchema>;
export type ProofWish = z.input<typeof proofWishSchema>;
export type ProofChange = z.infer<typeof proofChangeSchema>;
export type Proof = z.infer<typeof proofSchema>;
export type Health = z.infer<typeof healthSchema>;

/** Largest GLB that the server takes. */
export const MAX_ASSET_BYTES = 256 * 1024 * 1024;
/** Most files that one character may have been made of. */
export const MAX_ORIGINALS = 200;
/** Largest proof picture. */
export const MAX_PICTURE_BYTES = 64 * 1024 * 1024;
/** Largest JSON body. */
export const MAX_JSON_BYTES = 1024 * 1024;
/** Largest look-up table. */
export const MAX_CUBE_BYTES = 96 * 1024 * 1024;
/** Largest file for a light. */
export const MAX_LIGHT_FILE_BYTES = 256 * 1024 * 1024;
/** Largest picture of a kit. */
export const MAX_SMALL_PICTURE_BYTES = 8 * 1024 * 1024;
/** Largest kit as a file, packed and unpacked. */
export const MAX_KIT_BYTES = 512 * 1024 * 1024;
