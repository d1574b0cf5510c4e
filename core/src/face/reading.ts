// The reading of a face: what its lights do to it, in numbers.
import { dot, normalize, sub, type Vec3 } from '../math/index.ts';
import { catchlightsOf, type Catchlight } from './catchlight.ts';
import { LIT } from './dark.ts';
import { directionOfLight, featuresOf, type Features } from './features.ts';
import type { CellLight, FaceLight } from './lookup.ts';
import { CELLS, regionOfCell, type FaceMap } from './map.ts';
import { scoresOf, type Below, type Score } from './pattern.ts';

/** A light as a reading needs it. */
export interface ReadLight {
  light: FaceLight;
  /** What it sends to the face at luminance 1. */
  cells: CellLight;
  /** Luminance at which it burns, as the picture has it; 0: off. */
  level: number;
  /** The middle of its source in the world, where it has one. */
  centre?: Vec3;
}

export interface Reading {
  /** Light that gives the face most, and where it comes from; nothing where no light reaches it. */
  key?: { id: string; azimuth: number; elevation: number };
  /** Scores by the key alone and by all lights together, the best first, and what they were made of. */
  byKey: Score[];
  byAll: Score[];
  features?: Features;
  /** Lit to shadow side of the cheeks; what each light gives to either, lx by picture's level. */
  ratio?: { value: number; stops: number; lights: { id: string; lit: number; shadow: number }[] };
  /** Share of the face's front that the key lights. */
  reveal: number;
  /** Degrees by which the head is turned away from the camera, positive: its left is towards the camera; and which side is lit then. */
  turn: number;
  side?: 'broad' | 'short';
  catchlights: Catchlight[];
}

/** A head turned by less than this has neither broad nor short side, degrees. */
const TURNED = 10;
/** Scores below this name nothing. */
export const NAMED = 0.2;

const median = (values: number[]): number => {
  values.sort((a, b) => a - b);
  return values.length ? values[Math.floor(values.length / 2)]! : 0;
};

/** What a light gives to the front of a face, lx times square metres. */
function given(map: FaceMap, cells: Float32Array): number {
  let sum = 0;
  for (let c = 0; c < CELLS; c++) if (map.front[c]) sum += cells[c]! * map.area[c]!;
  return sum;
}

/** All lights at their levels, in the key's shadows. */
function together(lights: readonly ReadLight[], key: CellLight): CellLight {
  const open = new Float32Array(CELLS),
    lit = new Float32Array(CELLS);
  for (const { cells, level } of lights)
    if (level > 0)
      for (let c = 0; c < CELLS; c++) {
        open[c] = open[c]! + level * cells.open[c]!;
        lit[c] = lit[c]! + level * cells.lit[c]!;
      }
  return { id: '', open, lit, blocker: key.blocker };
}

/** Median of what the lit and the shadow side of the cheeks get: by the key's shadows, of all lights. */
export function ratioOf(map: FaceMap, features: Features, lights: readonly ReadLight[]): Reading['ratio'] {
  const near = features.side === 'left' ? 'cheekR' : 'cheekL',
    far = features.side === 'left' ? 'cheekL' : 'cheekR';
  const lit: number[] = [],
    dark: number[] = [],
    whole: number[] = [];
  for (let c = 0; c < CELLS; c++) {
    if (!map.front[c]) continue;
    const region = regionOfCell(map, c);
    if (region === near && features.shades[c] === LIT) lit.push(c);
    if (region !== far) continue;
    whole.push(c);
    if (features.shades[c] !== LIT) dark.push(c);
  }
  const shadow = dark.length > 0.06 * whole.length ? dark : whole;
  if (!lit.length || !shadow.length) return undefined;
  const on = lights.filter((l) => l.level > 0);
  const of = (cells: number[], some: readonly ReadLight[]): number =>
    median(cells.map((c) => some.reduce((sum, l) => sum + l.level * l.cells.lit[c]!, 0)));
  const value = of(lit, on) / of(shadow, on);
  return {
    value,
    stops: Math.log2(value),
    lights: on.map((l) => ({ id: l.light.id, lit: of(lit, [l]), shadow: of(shadow, [l]) })),
  };
}

/** Reads a face. Levels, colours and switches cost no ray: `cells` of a light stay what they are while it stands where it stands. */
export function readFace(map: FaceMap, lights: readonly ReadLight[], camera: { origin: Vec3; right: Vec3; up: Vec3 }): Reading {
  const { frame } = map.face;
  const towards = normalize(sub(camera.origin, frame.origin), frame.z);
  // the camera's azimuth about the head: to its left means that the head shows its left
  const turn = (Math.atan2(dot(towards, frame.x), dot(towards, frame.z)) * 180) / Math.PI;
  const none: Reading = { byKey: [], byAll: [], reveal: 0, turn, catchlights: [] };
  const shares = lights.map((l) => ({
    l,
    gives: l.level > 0 ? l.level * given(map, l.cells.open) : 0,
    lit: l.level > 0 ? l.level * given(map, l.cells.lit) : 0,
  }));
  const key = shares.reduce<(typeof shares)[number] | undefined>((best, s) => (s.gives > (best?.gives ?? 0) ? s : best), undefined);
  if (!key) return none;
  const direction = directionOfLight(map, key.l.light),
    features = featuresOf(map, key.l.cells, direction);
  const below = shares
    .filter((s) => s !== key && s.lit > 0)
    .map((s): Below => ({ ...directionOfLight(map, s.l.light), share: s.lit / key.gives }))
    .filter((b) => b.elevation < 0)
    .sort((a, b) => b.share - a.share)[0];
  const all = featuresOf(map, together(lights, key.l.cells), direction);
  const ratio = ratioOf(map, features, lights);
  return {
    key: { id: key.l.light.id, ...direction },
    byKey: scoresOf(features),
    byAll: scoresOf(all, below),
    features,
    ...(ratio ? { ratio } : {}),
    reveal: features.lit,
    turn,
    ...(Math.abs(turn) > TURNED && Math.abs(direction.azimuth) < 100 ? { side: direction.azimuth * turn > 0 ? 'broad' : 'short' } : {}),
    catchlights: lights.flatMap((l) =>
      l.level > 0 && l.centre ? catchlightsOf(map.face, map.measures, l.light.id, l.centre, camera) : [],
    ),
  };
}

/** The pattern that a reading names; nothing where no score is worth a name. */
export const named = (scores: readonly Score[]): Score | undefined => (scores[0] && scores[0].score >= NAMED ? scores[0] : undefined);
