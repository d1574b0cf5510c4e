import { z } from 'zod';
import { cross } from '../math/index.ts';
import { LIMITS } from './limits.ts';
import { partName } from './object-ref.ts';
import { colour, finite, id, point, rank, sha256, within } from './values.ts';
import { flagSchema, lightSchema } from './light-schema.ts';
import { catcherSchema } from './catcher.ts';
import { followsSchema } from './sequence.ts';
import { tiesSchema } from './tie.ts';
import { turntableSchema } from './turntable.ts';
import { LANDMARK_NAMES } from './landmark-names.ts';

// The setup: everything an artist decides about one picture. Lengths in metres, angles in degrees, colours in linear
// Rec.709, light in photometric units. Collections are maps keyed by id whose items carry their rank, so that a JSON
// Merge Patch (RFC 7396) can change, add, move or remove one without knowing of the others; nothing is ever null.

export const SCHEMA_VERSION = 6;

/** Parts of the picture that can be aimed at. */
export const TARGETS = ['lit cheek', 'shadow cheek', 'edge', 'hair', 'background'] as const;
export type Target = (typeof TARGETS)[number];
/** Luminance wished for parts of the picture, stops from middle grey. */
export type Targets = Partial<Record<Target, number>>;

/** Where the head is in the subject's own space: origin between the pupils, where the nose points, where the crown is. */
export const headFrameSchema = z
  .strictObject({
    origin: point,
    forward: point.refine((v) => Math.hypot(...v) > 1e-6, 'forward needs a length'),
    up: point.refine((v) => Math.hypot(...v) > 1e-6, 'up needs a length'),
    /** Chin to crown, metres. */
    height: finite.positive().max(LIMITS.headHeight[1]),
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
  metallic: within(LIMITS.unit).optional(),
  roughness: within(LIMITS.unit).optional(),
  subsurface: within(LIMITS.unit).optional(),
  freePath: z.tuple([within(LIMITS.freePath), within(LIMITS.freePath), within(LIMITS.freePath)]).optional(),
  coat: within(LIMITS.unit).optional(),
  coatRoughness: within(LIMITS.unit).optional(),
  sheen: within(LIMITS.unit).optional(),
  sheenRoughness: within(LIMITS.unit).optional(),
  fibres: within(LIMITS.unit).optional(),
  /** Light of its own in the colour of its base, cd/m². */
  emission: within(LIMITS.emission).optional(),
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
  scale: finite.positive().max(LIMITS.scale[1]),
  head: headFrameSchema,
  /** Points of the head that were confirmed by hand, in the subject's own space; without it, those of its file hold. */
  landmarks: z.partialRecord(z.enum(LANDMARK_NAMES), point).optional(),
  /** Eyes look at a point of the set instead of where the file has them look. `parts` are their names. */
  gaze: z.strictObject({ target: point, parts: z.array(partName).min(1).max(40) }).optional(),
  /** Changes, part by part. */
  materials: z.record(partName, materialChangeSchema),
  /** A moment of one of its clips, seconds; without it, it stands at rest. With a `head`, that is where the head is at that moment. */
  pose: z
    .strictObject({
      clip: z.string().min(1).max(120),
      time: within(LIMITS.seconds),
      head: headFrameSchema.optional(),
      /** The part of the clip that is played, seconds; without it, all of it. */
      range: z
        .tuple([within(LIMITS.seconds), within(LIMITS.seconds)])
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
  radius: within(LIMITS.ballRadius),
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
  width: within(LIMITS.thingWidth),
  height: within(LIMITS.thingHeight),
  colour,
  roughness: within(LIMITS.unit),
});
/** A flight of steps, or one: the middle of its front edge stands at the position, from where it rises away. */
export const stepsSchema = z.strictObject({
  kind: z.literal('steps'),
  rank,
  name: z.string().min(1).max(60),
  visible: z.boolean(),
  position: point,
  /** Turned about the vertical, degrees; 0 rises towards the wall. */
  turn: within(LIMITS.thingTurn),
  /** Across, depth of a tread and height of a riser, metres. */
  width: within(LIMITS.thingWidth),
  tread: within(LIMITS.tread),
  rise: within(LIMITS.rise),
  count: within(LIMITS.steps).int(),
  colour,
  roughness: within(LIMITS.unit),
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
  width: finite.positive().max(LIMITS.stageWidth[1]),
  /** Floor in front of the subject. */
  front: within(LIMITS.stageFront),
  /** From the subject to the wall. */
  back: finite.positive().max(LIMITS.stageWidth[1]),
  height: finite.positive().max(LIMITS.stageHeight[1]),
  /** Radius where floor and wall, or wall and wall, meet. */
  fillet: within(LIMITS.fillet),
  /** How gently a sweep's curve sets in, 0 (an arc of a circle, as without it) to 1 (its curvature begins and ends at nothing). */
  smoothness: within(LIMITS.unit).optional(),
  /** Height of the floor. */
  floor: finite,
  colour,
  /** Of a room's front half, which lights the face from where the camera stands. */
  frontColour: colour,
  /** The backdrop turns into another tone between two heights over the floor, metres. */
  gradient: z
    .strictObject({ colour, from: finite.min(0).max(LIMITS.stageHeight[1]), to: finite.min(0).max(LIMITS.stageHeight[1]) })
    .optional(),
  roughness: within(LIMITS.unit),
});

/** What is seen where nothing stands: it lights nothing, and the look goes over it. Colours are as they shall look, linear. */
export const plateSchema = z.strictObject({
  kind: z.enum(['none', 'linear', 'radial', 'picture', 'checker']),
  /** Brighter or darker than its colours say, stops. */
  stops: within(LIMITS.target).optional(),
  /** Above or in the middle, and below or around. */
  from: colour,
  to: colour,
  /** Middle of a radial one, 0…1 of the frame, and how far it reaches, in heights of the frame. */
  centre: z.tuple([within(LIMITS.unit), within(LIMITS.unit)]),
  reach: within(LIMITS.plateReach),
  /** SHA-256 of a PNG. */
  asset: sha256.optional(),
});

export const cameraSchema = z.strictObject({
  name: z.string().min(1).max(60),
  position: point,
  target: point,
  /** Focal length and height of the sensor, millimetres. */
  focal: within(LIMITS.focal),
  sensor: within(LIMITS.sensor),
  /** Turned about its own axis, degrees, clockwise for who looks through it. */
  roll: within(LIMITS.turn),
  /** Drags and wheels leave it where it is. */
  locked: z.boolean(),
  /** Width to height of the frame. */
  aspect: within(LIMITS.aspect),
  /** Exposure value at ISO 100. */
  ev: within(LIMITS.ev),
  /** Depth of field: f-number (0: everything is sharp) and distance of the plane in focus, metres. */
  lens: z.strictObject({ fNumber: within(LIMITS.fNumber), focus: within(LIMITS.focus) }),
});

/** A camera that is kept beside the one in use. */
export const keptCameraSchema = cameraSchema.extend({ rank });

/** Even haze everywhere: extinction in 1/m (0: none), and how far forwards it scatters. */
export const hazeSchema = z.strictObject({ density: within(LIMITS.haze), anisotropy: within(LIMITS.anisotropy) });

/** How the linear picture becomes one for the eye. All touches are off at 0. */
export const lookSchema = z.strictObject({
  view: z.enum(['neutral', 'plain', 'filmic', 'extended', 'lut']),
  /** What the camera takes for white, kelvin; 6500 changes nothing. */
  white: within(LIMITS.white),
  /** Slope around middle grey in stops per stop. */
  contrast: within(LIMITS.contrast),
  glare: within(LIMITS.unit),
  fringe: within(LIMITS.unit),
  vignette: within(LIMITS.unit),
  grain: within(LIMITS.unit),
  /** Noise removal, 0…1. */
  smooth: within(LIMITS.unit),
  /** SHA-256 of a .cube file, for the view “lut”. */
  lut: sha256.optional(),
});

/** Most items of one collection. */
const MOST_ITEMS = 200;

/** Things by their ids, each with its rank. */
export const rankedItems = <T extends z.ZodType>(item: T) =>
  z.strictObject({
    items: z.record(id, item).refine((items) => Object.keys(items).length <= MOST_ITEMS, `at most ${MOST_ITEMS} can be kept`),
  });

export const setupSchema = z.strictObject({
  schemaVersion: z.literal(SCHEMA_VERSION),
  name: z.string().min(1).max(120),
  /** The one sentence that says what the light is for. */
  brief: z.string().max(240),
  subjects: rankedItems(subjectSchema),
  stage: stageSchema,
  /** The camera in use, and others that are kept. */
  camera: cameraSchema,
  cameras: rankedItems(keptCameraSchema),
  plate: plateSchema,
  props: rankedItems(propSchema),
  haze: hazeSchema,
  lights: rankedItems(lightSchema),
  /** Dark things in the lights' way. */
  flags: rankedItems(flagSchema),
  look: lookSchema,
  /** What shows nothing of itself but shadows; without it, as setups of before have it, nothing. */
  catcher: catcherSchema.optional(),
  /** How it turns, where it is shown turning. */
  turntable: turntableSchema.optional(),
  /** Kits that were put on it, with what of them stands here. */
  ties: tiesSchema.optional(),
  /** The setup that this one follows, where it is a shot's: what changes there changes here, except what departs from it. */
  follows: followsSchema.optional(),
  /** How bright parts of the picture shall be, stops from middle grey: a recipe that levels can be brought back to. */
  targets: z.partialRecord(z.enum(TARGETS), within(LIMITS.target)).optional(),
  /** Findings that were looked at and left: they are quiet. */
  accepted: z.record(z.string().min(1).max(60), z.literal(true)).optional(),
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
