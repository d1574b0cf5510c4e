// What a reading says, in sentences. The data come first: nothing is said that is not in them.
import { named, type Catchlight, type Pattern, type Reading, type Reason, type Score } from '../face/index.ts';

const NAMES: Record<Pattern, string> = {
  loop: 'Loop',
  'closed triangle': 'Closed triangle',
  split: 'Split',
  butterfly: 'Butterfly',
  clamshell: 'Clamshell',
  under: 'Light from below',
  rim: 'Rim, silhouette',
  flat: 'Flat',
};
export const patternName = (pattern: Pattern): string => NAMES[pattern];

const round = (v: number, digits = 0): string => v.toFixed(digits).replace('-', '−');

/** One reason as it is read out: the claim, what was measured, and what it had to be where it fails. */
export function reasonWords({ claim, measure, unit, limit, holds }: Reason): string {
  if (!limit) return holds ? claim : `not so: ${claim}`;
  const space = unit === '°' ? '' : ' ';
  // a measure far beyond its limit says no more than that
  const said = unit === 'mm' && measure >= 99 ? 'far apart' : `${round(measure)}${space}${unit}`;
  return holds ? `${claim}: ${said}` : `not so: ${claim} (${said}, at ${limit.at} ${round(limit.value)}${space}${unit})`;
}

/** Patterns that are further than this from being shown are not near. */
const FAR = 2.5;

/** How far a reason is from holding, against its own limit; something that is simply not so counts as much as the whole limit. */
const shortOf = ({ measure, limit, holds }: Reason): number =>
  holds ? 0 : limit ? Math.abs(measure - limit.value) / Math.max(10, Math.abs(limit.value)) : 1;

/** The nearest pattern that the face does not show, and what is most in its way; nothing where all are far. */
export function nearMiss(scores: readonly Score[]): { pattern: Pattern; lacks: Reason } | undefined {
  const shown = named(scores);
  const others = scores
    .filter((s) => s.pattern !== shown?.pattern)
    .map(({ pattern, reasons }) => ({ pattern, reasons, short: reasons.reduce((sum, r) => sum + shortOf(r), 0) }))
    .filter((s) => s.short > 0 && s.short < FAR)
    .sort((p, q) => p.short - q.short);
  const nearest = others[0];
  return nearest && { pattern: nearest.pattern, lacks: nearest.reasons.reduce((worst, r) => (shortOf(r) > shortOf(worst) ? r : worst)) };
}

/** The hour of a clock face, 1 … 12. */
export const hourOf = (clock: number): number => Math.round(clock) % 12 || 12;

/** What is in light's way, in words. */
export const blockerWords = (by: NonNullable<Catchlight['hidden']>): string =>
  by === 'lids' ? 'the lids' : by === 'other' ? 'something else' : by === 'flank' ? 'the nose' : `the ${by}`;

/** A reading in sentences, the most important first. `nameOf` says what a light is called. */
export function readingWords(reading: Reading, nameOf: (id: string) => string): string[] {
  const { key, features, ratio, byKey, byAll, side, turn, catchlights } = reading;
  if (!key || !features) return ['No light reaches this face.'];
  const out: string[] = [];
  const alone = named(byKey),
    all = named(byAll);
  out.push(alone ? `${NAMES[alone.pattern]}, by ${nameOf(key.id)}.` : `No pattern that has a name, by ${nameOf(key.id)}.`);
  const { nose, gap } = features;
  if (nose) {
    const lean = Math.abs(nose.slant),
      where = lean < 3 ? 'falls straight down' : `slants ${round(lean)}° to the figure’s ${nose.slant > 0 ? 'left' : 'right'}`;
    const clear =
      gap === undefined ? '' : gap === 0 ? ' and joins the cheek’s shadow' : `, ${round(gap * 1000)} mm clear of the cheek’s shadow`;
    out.push(`The nose’s shadow ${where}, ends ${round(nose.reach * 100)} % of the way to the corner of the mouth${clear}.`);
  }
  if (all?.pattern !== alone?.pattern)
    out.push(all ? `With all lights: ${NAMES[all.pattern].toLowerCase()}.` : 'With all lights it has no name.');
  const miss = nearMiss(byKey);
  if (miss) out.push(`Nearest${alone ? ' to it' : ''}: ${NAMES[miss.pattern].toLowerCase()}; ${reasonWords(miss.lacks)}.`);
  if (ratio) out.push(`Lit side to shadow side ${round(ratio.value, 1)} : 1, ${round(ratio.stops, 1)} stops.`);
  out.push(`${round(features.lit * 100)} % of the face’s front is lit.`);
  if (side) out.push(`The head is turned ${round(Math.abs(turn))}° away: ${side} light.`);
  const seen = catchlights.filter((c) => c.seen),
    behind = catchlights.filter((c) => c.hidden && c.hidden !== 'lids');
  out.push(
    seen.length
      ? `Catchlights: ${seen.map((c) => `${nameOf(c.light)} in the ${c.eye} eye at ${hourOf(c.clock)} o’clock`).join(', ')}.`
      : behind.length
        ? 'No catchlight is seen.'
        : 'No catchlight falls between the lids.',
  );
  for (const { light, eye, hidden } of behind) out.push(`${nameOf(light)} is hidden from the ${eye} eye by ${blockerWords(hidden!)}.`);
  return out;
}
