// A key light to where it draws a wished pattern on this face, in its present pose.
import {
  directionOfLight,
  featuresOf,
  lookUp,
  NAMED,
  scoresOf,
  type FaceLight,
  type FaceMap,
  type Pattern,
  type Score,
} from '../face/index.ts';
import { wrapDegrees } from '../setup/index.ts';
import type { KeyPattern } from './briefs.ts';
import { scoresFrom } from './directions.ts';

export interface PatternWish {
  pattern: KeyPattern;
  /** From which side of the figure light comes; without meaning for patterns that lie in the middle. */
  from: 'left' | 'right';
  /** By so many degrees light or head may turn, any way, and the pattern shall still be shown. */
  margin?: number;
}

export interface PatternPlaced {
  /** Where the light belongs, degrees about the head. */
  azimuth: number;
  elevation: number;
  /** What the light draws there, by its own size and distance. */
  score: Score;
  /** The wish was reached. */
  reached: boolean;
  /** What it draws instead where it was not. */
  instead?: Score;
  /** Where a margin was asked for: whether it is there, and else what is drawn instead within it. */
  margin?: { degrees: number; reached: boolean; becomes?: Pattern };
}

/** Where each pattern is looked for and begun: azimuth and elevation, degrees. Common practice, no source; the mesh decides. */
const WINDOWS: Record<PatternWish['pattern'], { azimuth: [number, number]; elevation: [number, number]; first: [number, number] }> = {
  loop: { azimuth: [6, 66], elevation: [4, 64], first: [38, 34] },
  'closed triangle': { azimuth: [18, 84], elevation: [4, 70], first: [50, 42] },
  split: { azimuth: [54, 120], elevation: [-4, 40], first: [88, 8] },
  butterfly: { azimuth: [0, 12], elevation: [20, 80], first: [0, 50] },
  under: { azimuth: [0, 30], elevation: [-60, -10], first: [0, -35] },
  rim: { azimuth: [110, 175], elevation: [0, 45], first: [150, 25] },
  flat: { azimuth: [0, 18], elevation: [-4, 30], first: [4, 10] },
};
const STEP = 6;
/** Candidates that are tried with the light as it is. */
const TRIED = 6;
/** Candidates whose margin is measured. */
const MEASURED = 10;
/** Samples of it to a side, finer and coarser: what is near a limit must not be decided by one look. */
const GRIDS = [5, 3];
/** A direction counts less the further it is from where the trade begins: a quarter at so many degrees. */
const HABIT = 40;

const scoreOf = (scores: readonly Score[], pattern: Pattern): Score => scores.find((s) => s.pattern === pattern)!;
/** How far a pattern is ahead of all others, 0…1. */
const lead = (scores: readonly Score[], pattern: Pattern): number =>
  Math.max(0, scoreOf(scores, pattern).score - 0.5 * Math.max(...scores.filter((s) => s.pattern !== pattern).map((s) => s.score)));

/** Ways about a direction that are looked at for a margin. */
const WAYS = 8;

/** How many of the ways about a direction still show the pattern after so many degrees, and what one of the others shows. */
function marginAt(
  map: FaceMap,
  azimuth: number,
  elevation: number,
  pattern: Pattern,
  degrees: number,
): { held: number; becomes?: Pattern } {
  let held = 0,
    becomes: Pattern | undefined;
  for (let k = 0; k < WAYS; k++) {
    const turn = (2 * Math.PI * k) / WAYS;
    const e = Math.min(90, Math.max(-90, elevation + degrees * Math.cos(turn)));
    // a step round is shorter the higher the light stands
    const round = Math.max(0.2, Math.cos((e * Math.PI) / 180));
    const first = scoresFrom(map, wrapDegrees(azimuth + (degrees * Math.sin(turn)) / round), e)[0]!;
    if (first.pattern === pattern && first.score >= NAMED) held++;
    else becomes ??= first.score >= NAMED ? first.pattern : undefined;
  }
  return becomes ? { held, becomes } : { held };
}

/**
 * Looks for the direction in whose surroundings a pattern is shown best, tries the best few with the light as it is, and answers what it
 * draws there.
 * @param at the light as it would be at an azimuth and elevation
 */
export function placePattern(
  map: FaceMap,
  { pattern, from, margin }: PatternWish,
  at: (azimuth: number, elevation: number) => FaceLight,
): PatternPlaced {
  const { azimuth, elevation, first } = WINDOWS[pattern],
    sign = from === 'left' ? 1 : -1;
  const columns = Math.floor((azimuth[1] - azimuth[0]) / STEP) + 1,
    rows = Math.floor((elevation[1] - elevation[0]) / STEP) + 1;
  const leads = new Float64Array(columns * rows);
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++)
      leads[j * columns + i] = lead(scoresFrom(map, sign * (azimuth[0] + i * STEP), elevation[0] + j * STEP), pattern);
  // what lies amid its like stands a nudge of the light or of the head
  const candidates = Array.from(leads, (own, k) => {
    const i = k % columns,
      j = Math.floor(k / columns);
    let around = 0,
      n = 0;
    for (let dj = -1; dj <= 1; dj++)
      for (let di = -1; di <= 1; di++) {
        if (i + di < 0 || i + di >= columns || j + dj < 0 || j + dj >= rows) continue;
        around += leads[(j + dj) * columns + i + di]!;
        n++;
      }
    const a = azimuth[0] + i * STEP,
      e = elevation[0] + j * STEP;
    const habit = 1 / (1 + 3 * (Math.hypot(a - first[0], e - first[1]) / HABIT) ** 2);
    return { a, e, worth: own > 0 ? (own + around / n) * habit : 0 };
  });
  const byWorth = (p: { worth: number }, q: { worth: number }) => q.worth - p.worth;
  candidates.sort(byWorth);
  // with a margin those are tried that keep it best
  if (margin) {
    candidates.length = Math.min(candidates.length, MEASURED);
    for (const c of candidates) c.worth *= (0.1 + marginAt(map, sign * c.a, c.e, pattern, margin).held / WAYS) ** 3;
  }
  const tried = candidates.sort(byWorth).slice(0, TRIED);
  let best: (PatternPlaced & { lead: number }) | undefined;
  for (const { a, e, worth } of [...tried, { a: first[0], e: first[1], worth: 0 }]) {
    if (best?.reached && worth < 0.6 * tried[0]!.worth) break;
    const light = at(sign * a, e),
      direction = directionOfLight(map, light);
    // rays see what is between these two: a pattern that one of them does not show hangs by a thread
    const [scores, coarser] = GRIDS.map((grid) => scoresOf(featuresOf(map, lookUp(map, light, grid), direction))) as [Score[], Score[]];
    const shows = (s: Score[]) => s[0]!.pattern === pattern && s[0]!.score > 0.3;
    const reached = shows(scores) && shows(coarser);
    const ahead = Math.min(lead(scores, pattern), lead(coarser, pattern));
    const now = { azimuth: sign * a, elevation: e, score: scoreOf(scores, pattern), reached, lead: ahead };
    const worse = best && (now.reached === best.reached ? now.lead <= best.lead : best.reached);
    if (worse) continue;
    // the pattern itself, too faint to count, is nothing else
    const first = shows(scores) ? coarser[0]! : scores[0]!;
    best = reached || first.pattern === pattern ? now : { ...now, instead: first };
  }
  const { lead: _, ...placed } = best!;
  if (!margin || !placed.reached) return placed;
  const { held, ...about } = marginAt(map, placed.azimuth, placed.elevation, pattern, margin);
  return { ...placed, margin: { degrees: margin, reached: held === WAYS, ...about } };
}

/** How far about a direction another pattern is looked for, and in which steps, degrees. */
const ABOUT = 42,
  RING = 6;

/**
 * Looks for the nearest direction from which a small light draws a pattern, ring by ring about one; yields between tries, so that whoever waits can do
 * something else. Nothing where none of them does.
 */
export function* nearestTo(
  map: FaceMap,
  { azimuth, elevation }: { azimuth: number; elevation: number },
  pattern: Pattern,
): Generator<undefined, { azimuth: number; elevation: number } | undefined> {
  for (let ring = RING; ring <= ABOUT; ring += RING) {
    const n = Math.ceil((2 * Math.PI * ring) / RING / 1.5);
    let best: { azimuth: number; elevation: number; score: number } | undefined;
    for (let k = 0; k < n; k++) {
      const turn = (2 * Math.PI * k) / n;
      const a = wrapDegrees(azimuth + ring * Math.sin(turn)),
        e = elevation + ring * Math.cos(turn);
      if (e > 88 || e < -60) continue;
      const [first] = scoresFrom(map, a, e);
      if (first!.pattern === pattern && first!.score > Math.max(0.3, best?.score ?? 0))
        best = { azimuth: a, elevation: e, score: first!.score };
      yield;
    }
    if (best) return { azimuth: best.azimuth, elevation: best.elevation };
  }
  return undefined;
}
