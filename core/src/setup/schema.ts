import { z } from 'zod';
import { cross } from '../math/index.ts';
import { colour, finite, id, point, rank, sha256 } from './values.ts';
import { flagSchema, lightSchema } from './light-schema.ts';
import { LANDMARK_NAMES } from './landmarks.ts';
import { migrateSetup } from './migrate.ts';

// The setup: everything an artist decides about one picture. Lengths in metres, angles in degrees, colours in linear
// Rec.709, light in photometric units. Collections are maps keyed by id whose items carry their rank, so that a JSON
// Merge Patch (RFC 7396) can change, add, move or remove one without knowing of the others; nothing is ever null.

export const SCHEMA_VERSION = 5;

/** Where the head is in the subject's own space: origin between the pupils, where the nose points, where the crown is. */
export const headFrameSchema = z
  .strictObject({
    origin: point,
    forward: point.refine((v) => Math.hypot(...v) > 1e-6, 'forward needs a length'),
    up: point.refine((v) => Math.hypot(...v) > 1e-6, 'up needs a length'),
    /** Chin to crown, metres. */
    height: finite.positive().max(1000),
    /** Who said so. */
    source: z.enum(['file', 'proposed', 'hand']),
  })
  .refine(({ forward, up }) => Math.hypot(...cross(forward, up)) > 1e-6 * Math.hypot(...forward) * Math.hypot(...up), {
    message: 'up must not point where the nose does',
    path: ['up'],
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
  rank,
  name: z.string().min(1).max(120),
  /** SHA-256 of the GLB. */
  asset: sha256,
  visible: z.boolean(),
  position: point,
  /** Turned about the vertical, degrees, positive to the subject's left. */
  turn: finite,
  scale: finite.positive().max(1000),
  head: headFrameSchema,
  /** Points of the head that were confirmed by hand, in the subject's own space; without it, those of its file hold. */
  landmarks: z.partialRecord(z.enum(LANDMARK_NAMES), point).optional(),
  /** Eyes look at a point of the set instead of where the file has them look. `parts` are their names. */
  gaze: z.strictObject({ target: point, parts: z.array(z.string().min(1).max(120)).min(1).max(40) }).optional(),
  /** Changes by the part's name. */
  materials: z.record(z.string().min(1).max(120), materialChangeSchema),
  /** A moment of one of its clips, seconds; without it, it stands at rest. With a `head`, that is where the head is at that moment. */
  pose: z
    .strictObject({
      clip: z.string().min(1).max(120),
      time: finite.min(0).max(36000),
      head: headFrameSchema.optional(),
      /** The part of the clip that is played, seconds; without it, all of it. */
      range: z
        .tuple([finite.min(0).max(36000), finite.min(0).max(36000)])
        .refine(([from, to]) => from < to, 'the range must end after it begins')
        .optional(),
    })
    .optional(),
});

/** A mirror ball, or one of 18 % grey: they help to judge light. */
export const ballSchema = z.strictObject({
  kind: z.literal('ball'),
  rank,
  finish: z.enum(['chrome', 'grey']),
  name: z.string().min(1).max(60),
  visible: z.boolean(),
  position: point,
  radius: finite.min(0.005).max(20),
});
/** What a figure stands on, or beside: its foot stands at the position. */
export const plinthSchema = z.strictObject({
  kind: z.literal('plinth'),
  rank,
  shape: z.enum(['round', 'square', 'rock']),
  name: z.string().min(1).max(60),
  visible: z.boolean(),
  position: point,
  /** Across, and tall, metres. */
  width: finite.min(0.02).max(50),
  height: finite.min(0.005).max(20),
  colour,
  roughness: finite.min(0).max(1),
});
/** A flight of steps, or one: the middle of its front edge stands at the position, from where it rises away. */
export const stepsSchema = z.strictObject({
  kind: z.literal('steps'),
  rank,
  name: z.string().min(1).max(60),
  visible: z.boolean(),
  position: point,
  /** Turned about the vertical, degrees; 0 rises towards the wall. */
  turn: finite.min(-360).max(360),
  /** Across, depth of a tread and height of a riser, metres. */
  width: finite.min(0.02).max(50),
  tread: finite.min(0.02).max(20),
  rise: finite.min(0.005).max(5),
  count: z.int().min(1).max(40),
  colour,
  roughness: finite.min(0).max(1),
});
/** Things on the stage. */
export const propSchema = z.discriminatedUnion('kind', [ballSchema, plinthSchema, stepsSchema]);

/** Backdrops: a floor turned up into a wall, two walls that meet, a flat, a rounded room, a floor, nothing. */
export const STAGE_KINDS = ['sweep', 'corner', 'flat', 'room', 'floor', 'none'] as const;

/**
 * The stage, built to measure around the subject, metres; which measures count depends on its kind, and all are kept when
 * it changes.
 */
export const stageSchema = z.strictObject({
  kind: z.enum(STAGE_KINDS),
  width: finite.positive().max(200),
  /** Floor in front of the subject. */
  front: finite.nonnegative().max(200),
  /** From the subject to the wall. */
  back: finite.positive().max(200),
  height: finite.positive().max(100),
  /** Radius where floor and wall, or wall and wall, meet. */
  fillet: finite.nonnegative().max(50),
  /** How gently a sweep's curve sets in, 0 (an arc of a circle, as without it) to 1 (its curvature begins and ends at nothing). */
  smoothness: finite.min(0).max(1).optional(),
  /** Height of the floor. */
  floor: finite,
  colour,
  /** Of a room's front half, which lights the face from where the camera stands. */
  frontColour: colour,
  /** The backdrop turns into another tone between two heights over the floor, metres. */
  gradient: z.strictObject({ colour, from: finite.min(0).max(100), to: finite.min(0).max(100) }).optional(),
  roughness: finite.min(0).max(1),
});

/** What is seen where nothing stands: it lights nothing, and the look goes over it. Colours are as they shall look, linear. */
export const plateSchema = z.strictObject({
  kind: z.enum(['none', 'linear', 'radial', 'picture']),
  /** Above or in the middle, and below or around. */
  from: colour,
  to: colour,
  /** Middle of a radial one, 0…1 of the frame, and how far it reaches, in heights of the frame. */
  centre: z.tuple([finite.min(0).max(1), finite.min(0).max(1)]),
  reach: finite.min(0.05).max(3),
  /** SHA-256 of a PNG. */
  asset: sha256.optional(),
});

export const cameraSchema = z.strictObject({
  name: z.string().min(1).max(60),
  position: point,
  target: point,
  /** Focal length and height of the sensor, millimetres. */
  focal: finite.min(4).max(2000),
  sensor: finite.min(1).max(200),
  /** Turned about its own axis, degrees, clockwise for who looks through it. */
  roll: finite.min(-180).max(180),
  /** Drags and wheels leave it where it is. */
  locked: z.boolean(),
  /** Width to height of the frame. */
  aspect: finite.min(0.2).max(5),
  /** Exposure value at ISO 100. */
  ev: finite.min(-10).max(24),
  /** Depth of field: f-number (0: everything is sharp) and distance of the plane in focus, metres. */
  lens: z.strictObject({ fNumber: finite.min(0).max(64), focus: finite.min(0.02).max(1000) }),
});

/** A camera that is kept beside the one in use. */
export const keptCameraSchema = cameraSchema.extend({ rank });

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

/** Most items of one collection. */
const MOST_ITEMS = 200;

const ordered = <T extends z.ZodType>(item: T) =>
  z.strictObject({
    items: z.record(id, item).refine((items) => Object.keys(items).length <= MOST_ITEMS, `at most ${MOST_ITEMS} can be kept`),
  });

export const setupSchema = z.strictObject({
  schemaVersion: z.literal(SCHEMA_VERSION),
  name: z.string().min(1).max(120),
  /** The one sentence that says what the light is for. */
  brief: z.string().max(240),
  subjects: ordered(subjectSchema),
  stage: stageSchema,
  /** The camera in use, and others that are kept. */
  camera: cameraSchema,
  cameras: ordered(keptCameraSchema),
  plate: plateSchema,
  props: ordered(propSchema),
  haze: hazeSchema,
  lights: ordered(lightSchema),
  /** Dark things in the lights' way. */
  flags: ordered(flagSchema),
  look: lookSchema,
});

export type HeadFrame = z.infer<typeof headFrameSchema>;
export type Subject = z.infer<typeof subjectSchema>;
export type StageShape = z.infer<typeof stageSchema>;
export type Plate = z.infer<typeof plateSchema>;
export type Camera = z.infer<typeof cameraSchema>;
export type KeptCamera = z.infer<typeof keptCameraSchema>;
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
