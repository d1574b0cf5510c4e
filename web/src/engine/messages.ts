import {
  headAt,
  partsAt,
  type CharacterAsset,
  type FigureProxy,
  type HeadFrame,
  type Picked,
  type LandmarkName,
  type Reading,
  type Finding,
  type ObjectRef,
  type Pattern,
  type PatternGrid,
  type Placed,
  type PlaceWish,
  type Seen,
  type Taken,
  type Targets,
  stanceOf,
  type StandIn,
  type StanceGuess,
  type ImportWarning,
  type KeptReading,
  type CutOut,
  type UsdRead,
  type UsdWritten,
  type Setup,
  type Subject,
  type Vec3,
} from '@plinket/core';

/** What the picture shows: all lights as balanced, one light's share, or something measured. */
export type PictureMode =
  { kind: 'light' } | { kind: 'share'; light: string } | { kind: 'tones' } | { kind: 'alpha' } | { kind: 'openness' };

/** How a setup is to be shown. */
export interface ShowWish {
  width: number;
  height: number;
  /** Pixels that the screen has for it: the picture goes on to these when all else rests. */
  full: [number, number];
  /** Lights that are heard alone; none: all that are on. */
  solo: readonly string[];
  mode: PictureMode;
  /** Grey clay on everything. */
  clay: boolean;
  thumb: [number, number];
}

/** Where the kernel's builds and the decoders are served. */
export interface EngineUrls {
  shared: string;
  own: string;
  film: string;
  draco: string;
  jpeg: string;
}

/** A wish with its number: every picture says which wish it answers. */
export interface ShowMessage extends ShowWish {
  type: 'show';
  number: number;
  setup: Setup;
}

/** What the page asks of the engine's worker. */
export type ToEngine =
  | { type: 'open'; urls: EngineUrls }
  | ShowMessage
  /** A hand was put on something, or let it go. */
  | { type: 'hand'; down: boolean }
  | { type: 'shelved'; request: number; asset: string; name: string }
  | { type: 'stand-in'; request: number; kind: StandIn }
  | { type: 'place'; request: number; light: string; wish: Wished }
  | { type: 'ask'; request: number; at: Spot }
  /** Reads the face over times of its clip, seconds; none stops that. */
  | { type: 'over'; times: readonly number[] }
  | { type: 'directions'; request: number }
  /** What the rig is, as an intention says it. */
  | { type: 'take'; request: number }
  | { type: 'pick'; request: number; x: number; y: number }
  | { type: 'head'; request: number; asset: string; name: string; head: HeadFrame }
  | { type: 'proxy'; request: number; asset: string; name: string; pose?: Subject['pose'] }
  | { type: 'parts'; request: number; asset: string; pose?: Subject['pose']; head?: HeadFrame }
  /** The picture as it is seen, or cut out of what lies behind it. */
  | { type: 'export'; request: number; setup: Setup; cut?: CutOut; reading?: KeptReading }
  | { type: 'contact'; request: number; setup: Setup }
  /** Everything as .usda, and what a .usda says of lights and camera. */
  | { type: 'usd-out'; request: number; setup: Setup }
  | { type: 'usd-in'; request: number; setup: Setup; text: string };

/** A part of a character as its file has it, for the material sheet. */
export interface PartReport {
  name: string;
  base: Vec3;
  metallic: number;
  roughness: number;
  subsurface: number;
  freePath: Vec3;
  coat: number;
  coatRoughness: number;
  sheen: number;
  sheenRoughness: number;
  fibres: number;
}

/** A character that is on the stage. */
export interface CharacterReport {
  parts: PartReport[];
  clips: { name: string; duration: number }[];
  /** Where the head is at the pose, of the head that was asked for. */
  head?: HeadFrame;
  /** Lowest and highest point at the pose, in the file's own space, metres. */
  lowest: number;
  highest: number;
}

/** A head to be pointed at, in its character's own space, at rest. */
export interface HeadReport {
  proxy: FigureProxy;
  /** Landmarks that the file has, and those that the surface proposes. */
  given: Partial<Record<LandmarkName, Vec3>>;
  proposed: Partial<Record<LandmarkName, Vec3>>;
}

/** What an import found, for the sheet that the artist confirms. */
export interface AssetReport {
  name: string;
  fileName: string;
  size: { width: number; height: number; depth: number };
  floor: number;
  triangles: number;
  parts: { name: string; triangles: number }[];
  head: HeadFrame;
  /** How sure the head is, 0 … 1. */
  headSure: number;
  landmarks: number;
  clips: string[];
  /** How the figure stands in the file, as far as its mesh tells. */
  stance: StanceGuess;
  warnings: ImportWarning[];
  /** What mending did. */
  notes?: string[];
}

export interface Thumb {
  id: string;
  width: number;
  height: number;
  rgba: ArrayBuffer;
}

/** One developed picture with what was measured in it. */
export interface Frame {
  type: 'frame';
  width: number;
  height: number;
  rgba: ArrayBuffer;
  bins: Uint32Array;
  clipped: number;
  crushed: number;
  /** Least and most samples of any part of the picture, and at which it rests at the latest. */
  samples: number;
  most: number;
  target: number;
  /** All parts rest. */
  finished: boolean;
  done: number;
  msLeft: number;
  /** Pixels that get a sample of every light in a second. */
  speed: number;
  /** Noise that is left, in steps of 8 bit; infinite while it cannot be told. */
  noise: number;
  /** Whether the noise in this picture has been removed. */
  smoothed: boolean;
  /** Rays traced so far, and milliseconds that balance and development took. */
  rays: number;
  balanceMs: number;
  /** Number of the newest wish that this picture answers, in full or coarsely. */
  wish: number;
}

/** What the page is told of a face. */
export interface FaceReport {
  type: 'reading';
  /** Number of the wish that it reads. */
  wish: number;
  /** Whose face; nothing where no character is in sight. */
  subject?: string;
  /** Nothing was read: the face is being looked at, landmarks are missing, or there is no face. */
  why?: { kind: 'looking' } | { kind: 'landmarks'; missing: LandmarkName[] } | { kind: 'nobody' } | { kind: 'failed'; message: string };
  reading?: Reading;
  /** From where the key would draw the pattern that is nearest, degrees; once the hand rests. */
  nearest?: { pattern: Pattern; azimuth: number; elevation: number };
  /** Light on each place of the map in stops against what the brightest get, −∞ where none falls; NaN where there is no face. */
  stops?: Float32Array;
  /** Followed by rays, shadows of the set among them; else looked up. */
  exact: boolean;
}

/** A point of the picture, 0…1 from its left and top. */
export type Spot = [x: number, y: number];

/** What is wished of a light, or of all, by who points into the picture. */
export type Wished =
  | Exclude<PlaceWish, { kind: 'highlight' | 'shadow' | 'rim' | 'targets' }>
  | { kind: 'highlight'; at: Spot }
  | { kind: 'shadow'; pairs: { falls: Spot; casts: Spot }[] }
  | { kind: 'rim'; stroke: Spot[] }
  | { kind: 'targets'; targets: Targets };

/** What the picture shows of a face, once it is calm enough to be measured; and what is to be said about it. */
export interface SeenReport {
  type: 'seen';
  /** Number of the wish that was measured. */
  wish: number;
  seen: Seen;
  findings: Finding[];
  /** x y of each place of the face's map, 0…1 of the picture; NaN where it is not seen. */
  places: Float32Array;
}

/** What is to be said about the set in the picture, face or not. */
export interface SetReport {
  type: 'set-seen';
  wish: number;
  findings: Finding[];
}

/** What a face reads at one moment of its motion. */
export interface MomentReport {
  /** Seconds of the clip. */
  time: number;
  pattern?: Pattern;
  ratio?: number;
  lit: number;
  over: number;
  meets: Record<string, number>;
}

/** What was read of a motion so far, of how many moments. */
export interface MotionReport {
  type: 'motion';
  moments: MomentReport[];
  of: number;
  done: boolean;
  failed?: string;
}

/** What lights do at one point of the picture. */
export interface Asked {
  object: ObjectRef;
  /** Stops from middle grey. */
  tone: number;
  lights: {
    id: string;
    /** Its share of the picture there, 0…1, and how far it is below all together, stops. */
    share: number;
    stops: number;
    /** Of its direct light; what is in the way where something is. */
    state: 'lit' | 'half' | 'shadow' | 'away' | 'out';
    by?: ObjectRef;
  }[];
}

/** What the engine's worker tells the page. */
export type FromEngine =
  | Frame
  | FaceReport
  | SeenReport
  | SetReport
  | MotionReport
  | { type: 'thumbs'; thumbs: Thumb[] }
  | { type: 'state'; state: 'loading' | 'building' | 'tracing' | 'finished' }
  /** `glb` is what is to be kept, where the file was no GLB. */
  | { type: 'inspected'; request: number; report: AssetReport; glb?: ArrayBuffer }
  | { type: 'refused'; request: number; code: string; message: string }
  | { type: 'placed'; request: number; placed: Placed }
  | { type: 'asked'; request: number; asked: Asked | undefined }
  | { type: 'directions'; request: number; grid: PatternGrid }
  | { type: 'taken'; request: number; taken: Taken }
  | { type: 'picked'; request: number; picked: Picked | undefined }
  | { type: 'proxied'; request: number; proxy: FigureProxy }
  | { type: 'head'; request: number; report: HeadReport }
  | { type: 'parts'; request: number; character: CharacterReport }
  | { type: 'exported'; request: number; png: ArrayBuffer }
  | { type: 'contacts'; request: number; pictures: Thumb[] }
  | { type: 'usd-written'; request: number; written: UsdWritten }
  | { type: 'usd-read'; request: number; read: UsdRead }
  | { type: 'failed'; message: string };

/** The report of a character that was read. */
export function reportOf(asset: CharacterAsset, fileName: string): AssetReport {
  const { min, max } = asset.bounds;
  return {
    name: asset.name,
    fileName,
    size: { width: max[0] - min[0], height: max[1] - min[1], depth: max[2] - min[2] },
    floor: min[1],
    triangles: asset.triangles,
    parts: asset.parts.map((p) => ({ name: p.name, triangles: p.indices.length / 3 })),
    head: asset.head,
    landmarks: Object.keys(asset.landmarks).length,
    clips: (asset.rig?.clips ?? []).map((c) => c.name),
    headSure: asset.headSure ?? 1,
    stance: stanceOf(asset),
    warnings: asset.warnings,
  };
}

/** The parts of a character with what their materials are in the file; lengths in millimetres as artists think of them. */
export function partsOf(asset: CharacterAsset): PartReport[] {
  const seen = new Map<string, PartReport>();
  for (const { name, material: m } of asset.parts)
    seen.set(name, {
      name,
      base: m.base,
      metallic: m.metallic,
      roughness: m.roughness,
      subsurface: m.subsurface,
      freePath: m.freePath.map((v) => Number((v * 1000).toFixed(3))) as Vec3,
      coat: m.coat,
      coatRoughness: m.coatRoughness,
      sheen: Math.max(...m.sheen),
      sheenRoughness: m.sheenRoughness,
      fibres: m.fibres,
    });
  return [...seen.values()];
}

/** What there is to know about a character as it stands at a pose. */
export function characterOf(asset: CharacterAsset, pose: Subject['pose'], head?: HeadFrame): CharacterReport {
  let lowest = Infinity,
    highest = -Infinity;
  for (const { positions } of partsAt(asset, pose))
    for (let i = 1; i < positions.length; i += 3) {
      lowest = Math.min(lowest, positions[i]!);
      highest = Math.max(highest, positions[i]!);
    }
  return {
    parts: partsOf(asset),
    clips: (asset.rig?.clips ?? []).map(({ name, duration }) => ({ name, duration })),
    lowest,
    highest,
    ...(head ? { head: headAt(asset, head, pose) } : {}),
  };
}
