// What proofs say, row by row, and where one says something else than the first.
import { describePatch, diff, formatStops, orderOf, patternName, type KeptReading, type Pattern, type Setup } from '@plinket/core';

export interface Fact {
  label: string;
  /** One for each proof; a dash where it was not read. */
  values: string[];
  /** Whether the value differs from the first proof's. */
  differs: boolean[];
}

interface Told {
  reading?: KeptReading | undefined;
  document: Setup;
}

const NONE = '–';
const percent = (v: number | undefined): string =>
  v === undefined ? NONE : v > 0 && v < 0.001 ? '< 0.1 %' : `${(v * 100).toFixed(v > 0 && v < 0.1 ? 1 : 0)} %`;
const angle = (v: number, positive: string, negative: string, none: string): string =>
  Math.round(v) === 0 ? none : `${Math.abs(Math.round(v))}° ${v < 0 ? negative : positive}`;
const pattern = (name: string | undefined): string => (name === undefined ? NONE : (patternName(name as Pattern) ?? name));

/** What is read of a face, in the words of the table. */
const READ: [string, (r: KeptReading) => string][] = [
  ['Pattern', (r) => pattern(r.pattern)],
  ['By all lights', (r) => pattern(r.all)],
  ['Ratio', (r) => (r.ratio === undefined ? NONE : `${r.ratio.toFixed(1)} : 1, ${Math.log2(r.ratio).toFixed(1)} st`)],
  ['Face lit', (r) => percent(r.lit) + (r.side ? `, ${r.side}` : '')],
  [
    'Key',
    (r) => (r.key ? `${angle(r.key.azimuth, 'left', 'right', 'from the front')}, ${angle(r.key.elevation, 'up', 'below', 'level')}` : NONE),
  ],
  ['Catchlights', (r) => r.catchlights.map((c) => `${c.light} ${c.hour} h`).join(', ') || 'none'],
  ['Against ground', (r) => (r.separation === undefined ? NONE : `${formatStops(r.separation)} st`)],
  ['Skin clipped, crushed', (r) => `${percent(r.clipped)}, ${percent(r.crushed)}`],
];

/** What a setup says by itself. */
const SET: [string, (s: Setup) => string][] = [
  [
    'Camera',
    ({ camera }) =>
      `${Math.round(camera.focal)} mm${camera.lens.fNumber > 0 ? `, f/${camera.lens.fNumber}` : ''}, EV ${camera.ev.toFixed(1)}`,
  ],
  [
    'Lights',
    ({ lights }) => {
      const all = orderOf(lights),
        on = all.filter((id) => lights.items[id]!.on).length;
      return on === all.length ? `${on}` : `${on} of ${all.length} on`;
    },
  ],
];

/** What was changed from one setup to another, in words; nothing where they are the same. */
export function changeWords(from: Setup, to: Setup): string {
  const patch = diff(from, to);
  return Object.keys(patch).length ? describePatch(from, patch) : '';
}

/** The rows of the table below the wall. */
export function factsOf(proofs: readonly Told[]): Fact[] {
  const row = (label: string, values: string[]): Fact => ({ label, values, differs: values.map((v) => v !== values[0]) });
  const first = proofs[0]?.document;
  const read = READ.map(([label, say]) =>
    row(
      label,
      proofs.map(({ reading }) => (reading ? say(reading) : NONE)),
    ),
  );
  const set = SET.map(([label, say]) =>
    row(
      label,
      proofs.map(({ document }) => say(document)),
    ),
  );
  const changed = proofs.map(({ document }, i) => (i === 0 || !first ? NONE : changeWords(first, document) || 'the same setup'));
  return [{ label: 'Against the first', values: changed, differs: changed.map(() => false) }, ...read, ...set];
}
