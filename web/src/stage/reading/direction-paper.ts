// All directions about a head on paper: tones of the patterns that they draw, and where each pattern's name stands.
import { PATTERNS, type Pattern, type PatternGrid } from '@plinket/core';

/** A tone for each pattern, told apart by lightness first; what has no name is darkest but for the rim. */
export const TONES: Record<Pattern, [number, number, number]> = {
  flat: [201, 198, 189],
  butterfly: [184, 169, 138],
  clamshell: [184, 169, 138],
  loop: [143, 165, 140],
  'closed triangle': [102, 138, 158],
  split: [84, 92, 130],
  under: [122, 92, 108],
  rim: [46, 46, 54],
};
export const NAMELESS: [number, number, number] = [30, 30, 33];

/** RGBA bytes, a pixel for each direction of the grid; a pattern that is hardly shown is darker. */
export function patternTones({ pattern, score }: PatternGrid): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(pattern.length * 4);
  pattern.forEach((p, k) => {
    const tone = p < 0 ? NAMELESS : TONES[PATTERNS[p]!];
    const shown = p < 0 ? 1 : 0.72 + 0.28 * Math.min(1, score[k]!);
    out.set([...tone.map((v) => v * shown), 255], k * 4);
  });
  return out;
}

/** Patterns cover at least so many directions of the grid to be named on it. */
const NAMEABLE = 18;

/** Where names stand: for each group of directions that hang together and show one pattern, the one of them that lies deepest inside. */
export function patternNames({ azimuths, elevations, pattern }: PatternGrid): { pattern: Pattern; azimuth: number; elevation: number }[] {
  const w = azimuths.length,
    h = elevations.length;
  // how far each direction lies from one that shows something else, in steps
  const deep = new Int16Array(w * h);
  for (let round = 1; round < w; round++) {
    let any = false;
    for (let j = 0; j < h; j++)
      for (let i = 0; i < w; i++) {
        const k = j * w + i;
        if (deep[k] !== round - 1) continue;
        const inside = [k - 1, k + 1, k - w, k + w].every(
          (n, side) =>
            (side === 0 ? i > 0 : side === 1 ? i < w - 1 : n >= 0 && n < w * h) && pattern[n] === pattern[k] && deep[n]! >= round - 1,
        );
        if (inside) {
          deep[k] = round;
          any = true;
        }
      }
    if (!any) break;
  }
  const seen = new Uint8Array(w * h);
  const out: { pattern: Pattern; azimuth: number; elevation: number }[] = [];
  for (let start = 0; start < w * h; start++) {
    if (seen[start] || pattern[start]! < 0) continue;
    const group = [start];
    seen[start] = 1;
    for (const k of group)
      for (const n of [k % w > 0 ? k - 1 : -1, k % w < w - 1 ? k + 1 : -1, k - w, k + w])
        if (n >= 0 && n < w * h && !seen[n] && pattern[n] === pattern[k]) {
          seen[n] = 1;
          group.push(n);
        }
    if (group.length < NAMEABLE) continue;
    const best = group.reduce((a, b) => (deep[b]! > deep[a]! ? b : a));
    out.push({ pattern: PATTERNS[pattern[start]!]!, azimuth: azimuths[best % w]!, elevation: elevations[Math.floor(best / w)]! });
  }
  return out;
}
