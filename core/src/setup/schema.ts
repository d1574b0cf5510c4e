import { z } from 'zod';
import { colour, finite, id, point, sha256 } from './values.ts';
import { flagSchema, lightSchema } from './light-schema.ts';
import { migrateSetup } from './migrate.ts';

// The setup: everything an artist decides about one picture. Lengths in metres, angles in degrees, colours in linear
// Rec.709, light in photometric units. Collections are maps keyed by id with their order beside them, so that a JSON
// Merge Patch (RFC 7396) can change one member; nothing is ever null.

export const SCHEMA_VERSION = 3;

/** Where the head is in the subject's own space: origin between the pupils, where the nose points, where the crown is. */
export const headFrameSchema = z.strictObject({
  origin: point,
  forward: point.refine((v) => Math.hypot(...v) > 1e-6, 'forward needs a length'),
  up: point.refine((v) => Math.hypot(...v) > 1e-6, 'up needs a length'),
  /** Chin to crown, metres. */
  height: finite.positive().max(1000),
  /** Who said so. */
  source: z.enum(['file', 'proposed', 'hand']),
});

/** What an artist changes of one part's material; what is not named stays as the file has it. Paths in millimetres. */
export const materialChangeSchema = z.strictObject({
  base: colour.optional(),
  metallic: finite.min(0).max(1).optional(),
  roughness: finite.min(0).max(1).optional(),
  subsurface: finite.min(0).max(1).optional(),
  freePath: z.tuple([finite.min(0).max(100), finite.min(0).max(100), finite.min(0).max(100)]).optional(),
  coat: finite.min(0).max(1).optional(),
  coatRoughness: finite.min(0).max(1).optional(),
  sheen: finite.min(0).max(1).optional(),
  sheenRoughness: finite.min(0).max(1).optional(),
  fibres: finite.min(0).max(1).optional(),
  /** Light of its own in the colour of its base, cd/m². */
  emission: finite.min(0).max(1e7).optional(),
  twoSided: z.boolean().optional(),
});

export const subjectSchema = z.strictObject({
  name: z.string().min(1).max(120),
  /** SHA-256 of the GLB. */
  asset: sha256,
  visible: z.boolean(),
  position: point,
  /** Turned about the vertical, degrees, positive to the subject's left. */
  turn: finite,
  scale: finite.positive().max(1000),
  head: headFrameSchema,
  /** Changes by the part's name. */
  materials: z.record(z.string().min(1).max(120), materialChangeSchema),
});

/** Things on the stage that help to judge light: a mirror ball, a ball of 18 % grey. */
export const propSchema = z.strictObject({
  kind: z.literal('ball'),
  finish: z.enum(['chrome', 'grey']),
  name: z.string().min(1).max(60),
  visible: z.boolean(),
  position: point,
  radius: finite.min(0.005).max(20),
});

/** A floor that turns up into a wall through one fillet; stands under the subject, its wall behind. */
export const sweepSchema = z.strictObject({
  kind: z.literal('sweep'),
  width: finite.positive().max(200),
  /** Floor in front of the subject. */
  front: finite.nonnegative().max(200),
  /** From the subject to the wall. */
  back: finite.positive().max(200),
  height: finite.positive().max(100),
  fillet: finite.nonnegative().max(50),
  /** Height of the floor. */
  floor: finite,
  colour,
  roughness: finite.min(0).max(1),
});
export const stageSchema = z.discriminatedUnion('kind', [sweepSchema, z.strictObject({ kind: z.literal('none') })]);

export const cameraSchema = z.strictObject({
  position: point,
  target: point,
  /** Focal length on a frame 24 mm high. */
  focal: finite.min(8).max(1200),
  /** Width to height of the frame. */
  aspect: finite.min(0.2).max(5),
  /** Exposure value at ISO 100. */
  ev: finite.min(-10).max(24),
  /** Depth of field: f-number (0: everything is sharp) and distance of the plane in focus, metres. */
  lens: z.strictObject({ fNumber: finite.min(0).max(64), focus: finite.min(0.02).max(1000) }),
});

/** Even haze everywhere: extinction in 1/m (0: none), and how far forwards it scatters. */
export const hazeSchema = z.strictObject({ density: finite.min(0).max(10), anisotropy: finite.min(-0.95).max(0.95) });

/** How the linear picture becomes one for the eye. All touches are off at 0. */
export const lookSchema = z.strictObject({
  view: z.enum(['neutral', 'plain', 'filmic', 'extended', 'lut']),
  /** What the camera takes for white, kelvin; 6500 changes nothing. */
  white: finite.min(1700).max(25000),
  /** Slope around middle grey in stops per stop. */
  contrast: finite.min(0.4).max(2.5),
  glare: finite.min(0).max(1),
  fringe: finite.min(0).max(1),
  vignette: finite.min(0).max(1),
  grain: finite.min(0).max(1),
  /** Noise removal, 0…1. */
  smooth: finite.min(0).max(1),
  /** SHA-256 of a .cube file, for the view “lut”. */
  lut: sha256.optional(),
});

const ordered = <T extends z.ZodType>(item: T) =>
  z
    .strictObject({ order: z.array(id).max(200), items: z.record(id, item) })
    .refine(
      (c) =>
        c.order.length === Object.keys(c.items).length && c.order.every((k) => k in c.items) && new Set(c.order).size === c.order.length,
      {
        message: 'order must name every item once',
        path: ['order'],
      },
    );

export const setupSchema = z.strictObject({
  schemaVersion: z.literal(SCHEMA_VERSION),
  name: z.string().min(1).max(120),
  /** The one sentence that says what the light is for. */
  brief: z.string().max(240),
  subjects: ordered(subjectSchema),
  stage: stageSchema,
  camera: cameraSchema,
  props: ordered(propSchema),
  haze: hazeSchema,
  lights: ordered(lightSchema),
  /** Dark things in the lights' way. */
  flags: ordered(flagSchema),
  look: lookSchema,
});

export type HeadFrame = z.infer<typeof headFrameSchema>;
export type Subject = z.infer<typeof subjectSchema>;
export type Sweep = z.infer<typeof sweepSchema>;
export type Camera = z.infer<typeof cameraSchema>;
export type MaterialChange = z.infer<typeof materialChangeSchema>;
export type Prop = z.infer<typeof propSchema>;
export type Look = z.infer<typeof lookSchema>;
export type Setup = z.infer<typeof setupSchema>;
export type ViewTransform = Setup['look']['view'];

/** One reason why a document was refused. */
export interface FieldProblem {
  /** Dotted path of the field, '' for the document itself. */
  field: string;
  reason: string;
}

/** A setup that breaks the schema; `problems` names every field and reason. */
export class SetupError extends Error {
  readonly problems: FieldProblem[];
  constructor(problems: FieldProblem[]) {
    super(problems.map((p) => (p.field ? `${p.field}: ${p.reason}` : p.reason)).join('; '));
    this.name = 'SetupError';
    this.problems = problems;
  }
}

/**
 * Reads an unknown value as a setup; documents of older versions are brought up to date first.
 * @throws SetupError naming each field and reason.
 */
export function parseSetup(value: unknown): Setup {
  const result = setupSchema.safeParse(migrateSetup(value));
  if (result.success) return result.data;
  throw new SetupError(result.error.issues.map((i) => ({ field: i.path.join('.'), reason: i.message })));
}
