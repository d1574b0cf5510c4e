import { z } from 'zod';
import { LIMITS } from './limits.ts';
import { objectRef } from './object-ref.ts';
import { reachSchema } from './reach.ts';
import { colour, finite, id, point, rank, sha256, within } from './values.ts';

// Lights, and the flags in their way. Level, colour, gel, scrim and shares are balance: they cost no ray. Everything else
// about a light costs that light's film.

/** Placed around the head, from where the nose points: azimuth positive to the subject's left, elevation 0 = eye level. */
export const placeSchema = z.strictObject({
  azimuth: within(LIMITS.turn),
  elevation: within(LIMITS.elevation),
  distance: within(LIMITS.distance),
  /** A point in the head's frame that the light looks at; [0,0,0] is the head. */
  aim: point,
});

/** What a light is for. */
export const ROLES = ['key', 'fill', 'rim', 'hair', 'kick', 'eye', 'background', 'accent', 'dome'] as const;
/** Units that an output can be shown and typed in. */
export const UNITS = ['relative', 'cd/m²', 'kcd/m²', 'lm', 'W', 'cd', 'lx'] as const;

const common = {
  rank,
  name: z.string().min(1).max(60),
  role: z.enum(ROLES),
  /** Lights of one group stand together; '' is none. */
  group: z.string().max(40),
  notes: z.string().max(400),
  /** The hand cannot move it by accident. */
  locked: z.boolean(),
  /** Off keeps everything but the light. */
  on: z.boolean(),
  /** Level in stops against the output. */
  stops: within(LIMITS.stops),
  /** Colour temperature, kelvin, and what moves it towards green (positive) or magenta, thousandths of CIE 1960 u v. */
  kelvin: within(LIMITS.kelvin),
  tint: within(LIMITS.tint),
  /** A picked colour, linear, and how far the light goes towards it, 0…1. */
  picked: z.strictObject({ colour, strength: within(LIMITS.unit) }),
  /** A gel of the shelf; '' is none. */
  gel: z.string().max(40),
  /** Half stops that scrims take. */
  scrims: within(LIMITS.scrims).int(),
  /** Factors on the two shares, and on what haze scatters of it. */
  diffuse: within(LIMITS.share),
  specular: within(LIMITS.share),
  volume: within(LIMITS.share),
  /** Whether the camera sees the source, and whether mirrors (roughness below 0.15) do. Its light never changes. */
  seen: z.strictObject({ camera: z.boolean(), mirror: z.boolean() }),
  /** Artistic: what a shadow takes away (1: all), and the colour that stays in it. */
  shadow: z.strictObject({ cast: z.boolean(), density: within(LIMITS.unit), colour }),
  /** Which objects it lights, and which cast its shadow; without it, as lights of before have it, all. */
  reach: reachSchema.optional(),
  /** A pair that shares everything but name, role, notes and place, and what else is its `own`. */
  twin: z.strictObject({ pair: id, own: z.array(z.string().max(20)).max(20) }).optional(),
};

const placed = {
  place: placeSchema,
  /** Id of the subject around whose head it stands; without it, the first in sight. */
  around: id.optional(),
  /** Turned about its own axis, degrees. */
  roll: within(LIMITS.turn),
  /** Where its light begins and ends, metres from the source; 0: nowhere. `soft` is the share that fades. */
  range: z.strictObject({ near: within(LIMITS.range), far: within(LIMITS.range), soft: within(LIMITS.unit) }),
  /** A picture in the way: metres before the source, width in metres, turn in degrees. */
  gobo: z.strictObject({
    pattern: z.enum(['none', 'window', 'blinds', 'leaves', 'picture']),
    /** SHA-256 of a PNG, for the pattern “picture”. */
    asset: sha256.optional(),
    distance: within(LIMITS.goboDistance),
    width: within(LIMITS.goboWidth),
    turn: within(LIMITS.turn),
  }),
};

const size = within(LIMITS.size);
/** What stays when the size changes, how much of it, and the unit it is shown in; efficacy in lm/W is for watts. */
const output = <T extends string>(...held: [T, ...T[]]) =>
  z.strictObject({
    held: z.enum(held),
    value: finite.positive().max(1e9),
    unit: z.enum(UNITS),
    efficacy: within(LIMITS.efficacy),
  });

const flat = {
  width: size,
  height: size,
  twoSided: z.boolean(),
  /** Full angle of a honeycomb grid, degrees; 180: none. What narrowing keeps: the luminance, or the total. */
  beam: z.strictObject({ angle: within(LIMITS.grid), keep: z.enum(['centre', 'total']) }),
};

export const rectangleLightSchema = z.strictObject({
  kind: z.literal('rectangle'),
  ...common,
  ...placed,
  ...flat,
  output: output('luminance', 'flux'),
});
export const diskLightSchema = z.strictObject({
  kind: z.literal('disk'),
  ...common,
  ...placed,
  ...flat,
  output: output('luminance', 'flux'),
});
export const ballLightSchema = z.strictObject({
  kind: z.literal('ball'),
  ...common,
  ...placed,
  diameter: size,
  output: output('luminance', 'flux'),
});
export const tubeLightSchema = z.strictObject({
  kind: z.literal('tube'),
  ...common,
  ...placed,
  length: size,
  diameter: size,
  output: output('luminance', 'flux'),
});

/** A small source with a beam: `angle` is the full angle at which half is left, `soft` the share that the edge takes. */
export const spotLightSchema = z.strictObject({
  kind: z.literal('spot'),
  ...common,
  ...placed,
  diameter: size,
  angle: within(LIMITS.beam),
  soft: within(LIMITS.unit),
  output: output('intensity', 'flux'),
});

/** A luminaire as measured: an IES LM-63 file, its peak (cd) and total (lm); the output's value multiplies them. */
export const profileLightSchema = z.strictObject({
  kind: z.literal('profile'),
  ...common,
  ...placed,
  diameter: size,
  profile: z.strictObject({ asset: sha256, name: z.string().max(120), peak: finite.positive(), flux: finite.positive() }),
  output: output('scale'),
});

const air = {
  /** Bearing from +Z (towards the camera), positive towards +X, and height of the sun, degrees. */
  bearing: within(LIMITS.turn),
  elevation: within(LIMITS.sunHeight),
  /** 1: nothing but air; 2…3 clear; 10 haze. */
  turbidity: within(LIMITS.turbidity),
};

/** The sun: `angle` is its diameter in the sky (0.53° is the real one). `air`: tinted and dimmed by its height. */
export const sunLightSchema = z.strictObject({
  kind: z.literal('sun'),
  ...common,
  ...air,
  angle: within(LIMITS.sunDisk),
  air: z.boolean(),
  /** Illuminance outside the air, lx. */
  output: output('illuminance'),
  /** Where and when, when the artist wants that; north is the bearing at which it lies. */
  where: z
    .strictObject({
      latitude: within(LIMITS.latitude),
      longitude: within(LIMITS.turn),
      at: z.string().max(40),
      north: within(LIMITS.turn),
    })
    .optional(),
});

/** The sky that belongs to a sun, without its disk; the output's value multiplies what the model of the air gives. */
export const skyLightSchema = z.strictObject({ kind: z.literal('sky'), ...common, ...air, output: output('scale') });

/** Light from all around: even, a gradient by elevation, or a picture. The output is the luminance of white in it. */
export const domeLightSchema = z.strictObject({
  kind: z.literal('dome'),
  ...common,
  fill: z.discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('even') }),
    z.strictObject({
      kind: z.literal('gradient'),
      stops: z
        .array(z.strictObject({ elevation: within(LIMITS.elevation), colour }))
        .min(2)
        .max(8),
    }),
    z.strictObject({ kind: z.literal('picture'), asset: sha256, name: z.string().max(200), layer: z.string().max(120) }),
  ]),
  bearing: within(LIMITS.turn),
  tilt: within(LIMITS.elevation),
  output: output('luminance'),
});

/** All surfaces that give light of their own, in a share of their own; `value` multiplies what their materials say. */
export const glowLightSchema = z.strictObject({ kind: z.literal('glow'), ...common, output: output('luminance') });

/** One object of the scene as a glowing surface. */
export const objectLightSchema = z.strictObject({
  kind: z.literal('object'),
  ...common,
  object: objectRef,
  output: output('luminance'),
});

export const lightSchema = z.discriminatedUnion('kind', [
  rectangleLightSchema,
  diskLightSchema,
  ballLightSchema,
  tubeLightSchema,
  spotLightSchema,
  profileLightSchema,
  sunLightSchema,
  skyLightSchema,
  domeLightSchema,
  glowLightSchema,
  objectLightSchema,
]);

/** A flag: stops light on its way. Placed like a light; its face looks at its aim. */
export const flagSchema = z.strictObject({
  kind: z.enum(['panel', 'disk', 'box']),
  rank,
  name: z.string().min(1).max(60),
  on: z.boolean(),
  place: placeSchema,
  /** As a light's. */
  around: id.optional(),
  roll: within(LIMITS.turn),
  width: size,
  height: size,
  /** Of a box. */
  depth: size,
  density: within(LIMITS.unit),
  soft: within(LIMITS.unit),
  /** Lights that it stands in the way of; empty: all. */
  lights: z.array(id).max(200),
});

export type Place = z.infer<typeof placeSchema>;
export type Role = (typeof ROLES)[number];
export type OutputUnit = (typeof UNITS)[number];
export type RectangleLight = z.infer<typeof rectangleLightSchema>;
export type DiskLight = z.infer<typeof diskLightSchema>;
export type BallLight = z.infer<typeof ballLightSchema>;
export type TubeLight = z.infer<typeof tubeLightSchema>;
export type SpotLight = z.infer<typeof spotLightSchema>;
export type ProfileLight = z.infer<typeof profileLightSchema>;
export type SunLight = z.infer<typeof sunLightSchema>;
export type SkyLight = z.infer<typeof skyLightSchema>;
export type DomeLight = z.infer<typeof domeLightSchema>;
export type GlowLight = z.infer<typeof glowLightSchema>;
export type ObjectLight = z.infer<typeof objectLightSchema>;
export type Light = z.infer<typeof lightSchema>;
export type FlagItem = z.infer<typeof flagSchema>;
/** Lights that stand somewhere around the head. */
export type PlacedLight = RectangleLight | DiskLight | BallLight | TubeLight | SpotLight | ProfileLight;

/** Whether a light stands somewhere around the head. */
export const isPlaced = (light: Light): light is PlacedLight => 'place' in light;
