// Which pattern a key light draws. Definitions and limits are common practice of the trade, no source; what is measured is the mesh.
import type { Features } from './features.ts';

export const PATTERNS = ['loop', 'closed triangle', 'split', 'butterfly', 'clamshell', 'under', 'rim', 'flat'] as const;
export type Pattern = (typeof PATTERNS)[number];

/** One measured thing that speaks for a pattern, or against it. */
export interface Reason {
  claim: string;
  measure: number;
  unit: '°' | '%' | 'mm';
  /** What the measure must reach (`at least`) or stay within (`at most`). */
  limit?: { at: 'least' | 'most'; value: number };
  /** Whether it holds. */
  holds: boolean;
  /** Places of the map that it is about. */
  cells?: readonly number[];
}

export interface Score {
  pattern: Pattern;
  /** 0…1: the product of how well its reasons hold. */
  score: number;
  reasons: Reason[];
}

/** How well a value keeps a limit: 1 beyond it by `soft`, ½ at it, 0 short of it by `soft`. */
const held = (value: number, at: 'least' | 'most', limit: number, soft: number): number => {
  const t = ((at === 'least' ? value - limit : limit - value) / soft + 1) / 2;
  return Math.min(1, Math.max(0, t));
};

/** Collects reasons and how well each holds. */
class Case {
  readonly reasons: Reason[] = [];
  score = 1;
  private readonly pattern: Pattern;

  constructor(pattern: Pattern) {
    this.pattern = pattern;
  }

  /** A measure that must keep a limit; `soft` is how far about the limit it is a matter of degree. */
  asks(
    claim: string,
    measure: number,
    unit: Reason['unit'],
    at: 'least' | 'most',
    value: number,
    soft: number,
    cells?: readonly number[],
  ): this {
    const share = held(measure, at, value, soft);
    this.score *= share;
    this.reasons.push({ claim, measure, unit, limit: { at, value }, holds: share >= 0.5, ...(cells ? { cells } : {}) });
    return this;
  }

  /** Something that is so, or is not. */
  needs(claim: string, holds: boolean): this {
    if (!holds) this.score = 0;
    this.reasons.push({ claim, measure: holds ? 100 : 0, unit: '%', holds });
    return this;
  }

  get scored(): Score {
    return { pattern: this.pattern, score: this.score, reasons: this.reasons };
  }
}

/** A second light below the face, as it matters for a clamshell. */
export interface Below {
  elevation: number;
  azimuth: number;
  /** Its light on the face over the key's. */
  share: number;
}

/** A nose shadow that leans by more than this is no longer under the nose; degrees. */
const LEANS = 18;

/** Scores of all patterns, the best first. */
export function scoresOf(f: Features, below?: Below): Score[] {
  const slant = Math.abs(f.nose?.slant ?? 0),
    far = f.side === 'left' ? f.litLeft : f.litRight,
    near = f.side === 'left' ? f.litRight : f.litLeft;
  const noseCells = f.nose?.cells,
    // light from under the eyes reads as such before any shadow does
    above = (c: Case) => c.asks('the light stands above the eyes', f.elevation, '°', 'least', -6, 6);
  const shut = f.gap === 0 && f.patch !== undefined;
  // a shadow of a few hundredths of the nose's length squared is one; common practice, no source
  const shadowed = (c: Case) => c.asks('the nose casts a shadow', 100 * (f.nose?.share ?? 0), '%', 'least', 3, 1.2, noseCells);

  const loop = above(shadowed(new Case('loop')))
    .asks('the nose’s shadow leans', slant, '°', 'least', LEANS, 5, noseCells)
    .asks('it stays clear of the cheek’s shadow', f.gap === undefined ? 99 : f.gap * 1000, 'mm', 'least', 3, 3, noseCells)
    .asks('the far side is lit', far * 100, '%', 'least', 50, 14)
    .asks('the near side is lit', near * 100, '%', 'least', 38, 12);
  const triangle = above(shadowed(new Case('closed triangle')))
    .asks('the nose’s shadow leans', slant, '°', 'least', LEANS, 5, noseCells)
    .asks('it meets the cheek’s shadow', f.gap === undefined ? 99 : f.gap * 1000, 'mm', 'most', 3, 3, noseCells)
    .needs('light is left under the far eye', shut)
    .asks('the near side is lit', near * 100, '%', 'least', 38, 12);
  if (f.patch)
    triangle
      .asks('that light is more than a speck', f.patch.width, 'mm', 'least', 0.3 * f.eyeWidth, 0.15 * f.eyeWidth, f.patch.cells)
      .asks('it is no wider than the eye', f.patch.width, 'mm', 'most', 1.25 * f.eyeWidth, 0.9 * f.eyeWidth, f.patch.cells)
      .asks('and no longer than the nose', f.patch.height, 'mm', 'most', 1.1 * f.noseLength, 0.6 * f.noseLength, f.patch.cells);
  // from the side a light may stand a good deal lower before its shadows are said to climb
  const split = new Case('split')
    .asks('the light stands hardly below the eyes', f.elevation, '°', 'least', -34, 8)
    .asks('the far half is dark', far * 100, '%', 'most', 22, 9)
    .asks('the near half is lit', near * 100, '%', 'least', 38, 12);
  const butterfly = above(shadowed(new Case('butterfly')))
    .asks('the nose’s shadow lies straight below it', slant, '°', 'most', LEANS, 5, noseCells)
    .asks('and reaches towards the mouth', 100 * (f.nose?.reach ?? 0), '%', 'least', 25, 10, noseCells)
    .asks('both halves are lit', Math.min(far, near) * 100, '%', 'least', 60, 13);
  const clamshell = above(shadowed(new Case('clamshell')))
    .asks('the nose’s shadow lies straight below it', slant, '°', 'most', LEANS, 5, noseCells)
    .needs('a second light comes from below', below !== undefined && below.elevation < 0);
  if (below)
    clamshell
      .asks('it stands in front', Math.abs(below.azimuth), '°', 'most', 30, 10)
      .asks('and gives enough of the key’s light', below.share * 100, '%', 'least', 12, 6);
  const under = new Case('under')
    .asks('the light stands below the eyes', f.elevation, '°', 'most', -8, 6)
    .asks('it comes from the front rather than the side', Math.abs(f.azimuth), '°', 'most', 78, 15)
    .asks('the face is lit', f.lit * 100, '%', 'least', 22, 12);
  const rim = new Case('rim')
    .asks('the face is dark', f.lit * 100, '%', 'most', 20, 8)
    .asks('the light stands behind', Math.abs(f.azimuth), '°', 'least', 97, 12);
  const flat = above(new Case('flat'))
    .asks('most of the face is lit', f.lit * 100, '%', 'least', 78, 6)
    .asks('and its far side with it', far * 100, '%', 'least', 70, 8)
    .needs('the nose casts no shadow to speak of', f.nose === undefined || f.nose.share < 0.03 || f.nose.reach < 0.35);
  return [loop, triangle, split, butterfly, clamshell, under, rim, flat].map((c) => c.scored).sort((a, b) => b.score - a.score);
}
