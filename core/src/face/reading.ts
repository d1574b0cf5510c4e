// The reading of a face: what its lights do to it, in numbers.
import { dot, normalize, sub, type Vec3 } from '../math/index.ts';
import { catchlightsOf, type Catchlight } from './catchlight.ts';
import { LIT } from './dark.ts';
import { directionOfLight, featuresOf, type Features } from './features.ts';
import type { CellLight, FaceLight } from './lookup.ts';
import { CELLS, type FaceMap } from './map.ts';
import { scoresOf, type Below, type Score } from './pattern.ts';
import { regionNumber } from './regions.ts';

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
  /** Degrees by which the head is turned away from the camera, positive: its left is towards the camera; and which side is lit then. */
  turn: number;
  side?: 'broad' | 'short';
  catchlights: Catchlight[];
}

/** A head turned by less than this has neither broad nor short side, degrees. */
const TURNED = 10;
/** Scores below this name nothing. */
export const NAMED = 0.2;

/** The middle of some values, which are sorted. */
const median = (values: Float32Array): number => (values.length ? values.sort()[values.length >> 1]! : 0);

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
  return { open, lit, shadedBy: key.shadedBy };
}

/** Median of what the lit and the shadow side of the cheeks get: by the key's shadows, of all lights. */
export function ratioOf(map: FaceMap, features: Features, lights: readonly ReadLight[]): Reading['ratio'] {
  const near = regionNumber(features.side === 'left' ? 'cheekR' : 'cheekL'),
    far = regionNumber(features.side === 'left' ? 'cheekL' : 'cheekR');
  const lit: number[] = [],
    dark: number[] = [],
    whole: number[] = [];
  for (let c = 0; c < CELLS; c++) {
    if (!map.front[c]) continue;
    const region = map.region[c];
    if (region === near && features.shades[c] === LIT) lit.push(c);
    if (region !== far) continue;
    whole.push(c);
    if (features.shades[c] !== LIT) dark.push(c);
  }
  const shadow = dark.length > 0.06 * whole.length ? dark : whole;
  if (!lit.length || !shadow.length) return undefined;
  const on = lights.filter((l) => l.level > 0);
  const of = (cells: readonly number[], some: readonly ReadLight[]): number => {
    const sums = new Float32Array(cells.length);
    for (const { level, cells: light } of some) for (let i = 0; i < cells.length; i++) sums[i] = sums[i]! + level * light.lit[cells[i]!]!;
    return median(sums);
  };
  const value = of(lit, on) / of(shadow, on);
  return {
    value,
    stops: Math.log2(value),
    lights: on.map((l) => ({ id: l.light.id, lit: of(lit, [l]), shadow: of(shadow, [l]) })),
  };
}

/** What of a light does not change with its level. */
interface Kept {
  direction: { azimuth: number; elevation: number };
  /** What it gives to the front of the face without and with shadows, lx times square metres. */
  open: number;
  lit: number;
  features?: Features;
}

/**
 * Reads one face again and again. Levels, colours and switches cost no ray: `cells` of a light stay what they are while it stands where it
 * stands, and so does what is drawn by it alone.
 */
export class FaceMeter {
  readonly map: FaceMap;
  private readonly kept = new WeakMap<CellLight, Kept>();

  constructor(map: FaceMap) {
    this.map = map;
  }

  private of({ light, cells }: ReadLight): Kept {
    let kept = this.kept.get(cells);
    if (!kept) {
      const { map } = this;
      kept = { direction: directionOfLight(map, light), open: given(map, cells.open), lit: given(map, cells.lit) };
      this.kept.set(cells, kept);
    }
    return kept;
  }

  /** The light that gives most of those that come from somewhere; one that is all round only where there is no other. */
  private keyOf(on: readonly ReadLight[]): ReadLight | undefined {
    const worth = (l: ReadLight) => l.level * this.of(l).open * (l.light.around ? 1e-6 : 1);
    return on.reduce<ReadLight | undefined>((best, l) => (worth(l) > (best ? worth(best) : 0) ? l : best), undefined);
  }

  read(lights: readonly ReadLight[], camera: { origin: Vec3; right: Vec3; up: Vec3 }): Reading {
    const { map } = this,
      { frame } = map.face;
    const towards = normalize(sub(camera.origin, frame.origin), frame.z);
    // the camera's azimuth about the head: to its left means that the head shows its left
    const turn = (Math.atan2(dot(towards, frame.x), dot(towards, frame.z)) * 180) / Math.PI;
    const on = lights.filter((l) => l.level > 0),
      key = this.keyOf(on);
    if (!key) return { byKey: [], byAll: [], turn, catchlights: [] };
    const own = this.of(key),
      { direction } = own;
    const features = (own.features ??= featuresOf(map, key.cells, direction));
    const below = on
      .filter((l) => l !== key && this.of(l).direction.elevation < 0 && !l.light.around)
      .map((l): Below => ({ ...this.of(l).direction, share: (l.level * this.of(l).lit) / (key.level * own.open) }))
      .sort((a, b) => b.share - a.share)[0];
    const all = on.length === 1 ? features : featuresOf(map, together(on, key.cells), direction);
    const ratio = ratioOf(map, features, on);
    return {
      key: { id: key.light.id, ...direction },
      byKey: scoresOf(features),
      byAll: scoresOf(all, below),
      features,
      ...(ratio ? { ratio } : {}),
      turn,
      ...(Math.abs(turn) > TURNED && Math.abs(direction.azimuth) < 100 ? { side: direction.azimuth * turn > 0 ? 'broad' : 'short' } : {}),
      catchlights: on.flatMap((l) => (l.centre && !l.light.blind ? catchlightsOf(map, l.light.id, l.centre, camera) : [])),
    };
  }
}

/** The pattern that a reading names; nothing where no score is worth a name. */
export const named = (scores: readonly Score[]): Score | undefined => (scores[0] && scores[0].score >= NAMED ? scores[0] : undefined);
