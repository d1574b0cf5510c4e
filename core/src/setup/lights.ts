import { FIRST_RANK, inOrder } from './rank.ts';
import type {
  BallLight,
  DiskLight,
  DomeLight,
  GlowLight,
  Light,
  ObjectLight,
  Place,
  ProfileLight,
  RectangleLight,
  SkyLight,
  SpotLight,
  SunLight,
  TubeLight,
} from './light-schema.ts';
import type { ObjectRef } from './object-ref.ts';
import type { Setup } from './schema.ts';

// What a light is unless somebody says otherwise. Everything that makes lights begins here.

/** Properties that every light has. */
export const LIGHT_DEFAULTS = {
  rank: FIRST_RANK,
  name: 'Light',
  role: 'accent',
  group: '',
  notes: '',
  locked: false,
  on: true,
  stops: 0,
  kelvin: 5600,
  tint: 0,
  picked: { colour: [1, 1, 1], strength: 0 },
  gel: '',
  scrims: 0,
  diffuse: 1,
  specular: 1,
  volume: 1,
  seen: { camera: false, mirror: true },
  shadow: { cast: true, density: 1, colour: [0, 0, 0] },
  reach: { lights: {}, casts: {} },
} satisfies Partial<Light>;

/** Lumens a watt of an incandescent lamp: common practice, no source. */
export const EFFICACY = 15;

/** Properties of lights that stand somewhere, and of those that are flat. */
export const PLACED_DEFAULTS = {
  place: { azimuth: 0, elevation: 0, distance: 1.5, aim: [0, 0, 0] } as Place,
  roll: 0,
  range: { near: 0, far: 0, soft: 0.3 },
  gobo: { pattern: 'none', distance: 0.5, width: 0.5, turn: 0 } as RectangleLight['gobo'],
};
export const FLAT_DEFAULTS = { twoSided: false, beam: { angle: 180, keep: 'centre' } } satisfies Partial<RectangleLight>;

const out = <H extends string, U extends string>(held: H, value: number, unit: U) => ({ held, value, unit, efficacy: EFFICACY });
type Without<T> = Partial<Omit<T, 'kind'>>;

/** Documents are plain JSON: nothing of the defaults must be shared between two lights. */
const fresh = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

export const rectangle = (more: Without<RectangleLight> = {}): RectangleLight => ({
  kind: 'rectangle',
  ...fresh({ ...LIGHT_DEFAULTS, ...PLACED_DEFAULTS, ...FLAT_DEFAULTS }),
  width: 0.5,
  height: 0.5,
  output: out('luminance', 800, 'cd/m²'),
  ...more,
});
export const disk = (more: Without<DiskLight> = {}): DiskLight => ({
  kind: 'disk',
  ...fresh({ ...LIGHT_DEFAULTS, ...PLACED_DEFAULTS, ...FLAT_DEFAULTS }),
  width: 0.5,
  height: 0.5,
  output: out('luminance', 800, 'cd/m²'),
  ...more,
});
export const ball = (more: Without<BallLight> = {}): BallLight => ({
  kind: 'ball',
  ...fresh({ ...LIGHT_DEFAULTS, ...PLACED_DEFAULTS }),
  diameter: 0.3,
  output: out('luminance', 800, 'cd/m²'),
  ...more,
});
export const tube = (more: Without<TubeLight> = {}): TubeLight => ({
  kind: 'tube',
  ...fresh({ ...LIGHT_DEFAULTS, ...PLACED_DEFAULTS }),
  length: 1.2,
  diameter: 0.04,
  output: out('luminance', 4000, 'cd/m²'),
  ...more,
});
export const spot = (more: Without<SpotLight> = {}): SpotLight => ({
  kind: 'spot',
  ...fresh({ ...LIGHT_DEFAULTS, ...PLACED_DEFAULTS }),
  diameter: 0.1,
  angle: 25,
  soft: 0.4,
  output: out('intensity', 400, 'cd'),
  ...more,
});
export const profiled = (profile: ProfileLight['profile'], more: Without<ProfileLight> = {}): ProfileLight => ({
  kind: 'profile',
  ...fresh({ ...LIGHT_DEFAULTS, ...PLACED_DEFAULTS }),
  diameter: 0.1,
  profile,
  output: out('scale', 1, 'relative'),
  ...more,
});
export const sun = (more: Without<SunLight> = {}): SunLight => ({
  kind: 'sun',
  ...fresh(LIGHT_DEFAULTS),
  kelvin: 6500,
  bearing: 40,
  elevation: 15,
  turbidity: 3,
  angle: 0.53,
  air: true,
  output: out('illuminance', 128000, 'lx'),
  ...more,
});
export const sky = (more: Without<SkyLight> = {}): SkyLight => ({
  kind: 'sky',
  ...fresh(LIGHT_DEFAULTS),
  role: 'dome',
  kelvin: 6500,
  bearing: 40,
  elevation: 15,
  turbidity: 3,
  output: out('scale', 1, 'relative'),
  ...more,
});
export const dome = (more: Without<DomeLight> = {}): DomeLight => ({
  kind: 'dome',
  ...fresh(LIGHT_DEFAULTS),
  role: 'dome',
  kelvin: 6500,
  fill: { kind: 'even' },
  bearing: 0,
  tilt: 0,
  output: out('luminance', 6, 'cd/m²'),
  ...more,
});
export const glow = (more: Without<GlowLight> = {}): GlowLight => ({
  kind: 'glow',
  ...fresh(LIGHT_DEFAULTS),
  name: 'Glow',
  kelvin: 6500,
  seen: { camera: true, mirror: true },
  output: out('luminance', 1, 'relative'),
  ...more,
});
export const glowing = (object: ObjectRef, more: Without<ObjectLight> = {}): ObjectLight => ({
  kind: 'object',
  ...fresh(LIGHT_DEFAULTS),
  object,
  seen: { camera: true, mirror: true },
  output: out('luminance', 800, 'cd/m²'),
  ...more,
});

/** What is made of a file: a dome's light of one of its layers, a luminaire's profile, a gobo or a plate. */
export type LightFileUse = { kind: 'environment'; layer: string } | { kind: 'profile' } | { kind: 'gobo' };

/** A file that something names, by SHA-256, with who wants it for what. */
export interface NamedLightFile {
  asset: string;
  name: string;
  use: LightFileUse;
}

/** Files that a setup's lights and plate name. */
export function lightFilesOf({ lights, plate }: Pick<Setup, 'lights' | 'plate'>): NamedLightFile[] {
  const behind: NamedLightFile[] =
    plate.kind === 'picture' && plate.asset ? [{ asset: plate.asset, name: 'The plate', use: { kind: 'gobo' } }] : [];
  const named = inOrder(lights).flatMap((light) => {
    const out: Omit<NamedLightFile, 'name'>[] = [];
    if (light.kind === 'dome' && light.fill.kind === 'picture')
      out.push({ asset: light.fill.asset, use: { kind: 'environment', layer: light.fill.layer } });
    if (light.kind === 'profile') out.push({ asset: light.profile.asset, use: { kind: 'profile' } });
    if ('gobo' in light && light.gobo.pattern === 'picture' && light.gobo.asset)
      out.push({ asset: light.gobo.asset, use: { kind: 'gobo' } });
    return out.map((file) => ({ ...file, name: light.name }));
  });
  return [...named, ...behind];
}
