// Productions, their sequences, and the shots of these. A shot's light is a setup that follows the setup of its sequence; here stands what is said of it.
import { z } from 'zod';
import { orderOf } from './rank.ts';
import { applyPatch, type Patch } from './patch.ts';
import { rank } from './values.ts';

export const PRODUCTION_VERSION = 1;
export const SEQUENCE_VERSION = 1;
/** Most shots of one sequence. */
export const MOST_SHOTS = 1000;
/** Highest frame number. */
export const MOST_FRAME = 9_999_999;
/** Frames a second that pictures are shown at. */
export const TIME_RATES = [23.976, 24, 25, 29.97, 30, 48, 50, 59.94, 60] as const;

/** How far a shot's light has come. */
export const SHOT_STATES = ['to light', 'in work', 'to show', 'agreed'] as const;
export type ShotState = (typeof SHOT_STATES)[number];

const words = { name: z.string().trim().min(1).max(120), brief: z.string().max(240), notes: z.string().max(4000) };
const frame = z.number().int().min(0).max(MOST_FRAME);

/** Which setup a setup follows, and the revision of it that stands in it: what differs from that are its departures. */
export const followsSchema = z.strictObject({ setup: z.uuid(), revision: z.number().int().min(1).max(2_147_483_647) });
export type Follows = z.infer<typeof followsSchema>;

const ofShot = {
  /** As it is called in the cut. */
  code: z.string().trim().min(1).max(60),
  /** Frames from and to, both shown. */
  first: frame,
  last: frame,
  state: z.enum(SHOT_STATES),
  brief: words.brief,
  notes: words.notes,
};
const forwards = ({ first, last }: { first: number; last: number }): boolean => last >= first;
const BACKWARDS = { path: ['last'], error: 'a shot ends no earlier than it begins' };

/** What is said of a shot that has no place yet. */
export const placelessShotSchema = z.strictObject(ofShot).refine(forwards, BACKWARDS);
/** What is said of a shot; its light is the setup by whose id it is known. */
export const shotSchema = z.strictObject({ rank, ...ofShot }).refine(forwards, BACKWARDS);
export type Shot = z.infer<typeof shotSchema>;

/** How far neighbours may differ before it is called a jump. */
export const toleranceSchema = z.strictObject({
  /** Where the key comes from, degrees. */
  direction: z.number().min(1).max(180),
  /** Ratio, face and edge, stops. */
  stops: z.number().min(0.05).max(10),
  /** Colour of the face, CIEDE2000. */
  colour: z.number().min(0.5).max(100),
});
export type Tolerance = z.infer<typeof toleranceSchema>;
/** Common practice, no source. */
export const TOLERANCE: Tolerance = { direction: 15, stops: 0.5, colour: 6 };

export const sequenceSchema = z.strictObject({
  schemaVersion: z.literal(SEQUENCE_VERSION),
  ...words,
  /** The production that it belongs to, and its place there. */
  production: z.uuid().optional(),
  rank,
  /** The setup that its shots follow. */
  setup: z.uuid(),
  tolerance: toleranceSchema,
  /** By the id of their setups. */
  shots: z.strictObject({
    items: z.record(z.uuid(), shotSchema).refine((s) => Object.keys(s).length <= MOST_SHOTS, `a sequence has at most ${MOST_SHOTS} shots`),
  }),
});
export type Sequence = z.infer<typeof sequenceSchema>;

export const productionSchema = z.strictObject({
  schemaVersion: z.literal(PRODUCTION_VERSION),
  ...words,
  fps: z.union(TIME_RATES.map((rate) => z.literal(rate))),
});
export type Production = z.infer<typeof productionSchema>;

/** How many frames a shot has. */
export const shotFrames = ({ first, last }: Pick<Shot, 'first' | 'last'>): number => last - first + 1;

const FIELDS: [keyof Shot, string][] = [
  ['code', 'renamed'],
  ['state', 'state'],
  ['brief', 'brief'],
  ['notes', 'notes'],
];

/** What a change of a sequence does, in words for its history. */
export function describeSequence(before: Sequence, change: Patch): string {
  const after = applyPatch(before, change),
    said: string[] = [];
  if (before.name !== after.name) said.push(`renamed “${after.name}”`);
  for (const key of ['brief', 'notes'] as const) if (before[key] !== after[key]) said.push(key);
  if (before.production !== after.production) said.push('in another production');
  if (JSON.stringify(before.tolerance) !== JSON.stringify(after.tolerance)) said.push('tolerances');
  for (const id of new Set([...orderOf(before.shots), ...orderOf(after.shots)])) {
    const a = before.shots.items[id],
      b = after.shots.items[id];
    if (!a || !b) {
      said.push(`${(a ?? b)!.code}: ${a ? 'taken out' : 'added'}`);
      continue;
    }
    if (a === b) continue;
    for (const [key, word] of FIELDS)
      if (a[key] !== b[key])
        said.push(`${a.code}: ${key === 'state' || key === 'code' ? `${word === 'state' ? '' : `${word} `}${b[key]}` : word}`);
    if (a.first !== b.first || a.last !== b.last) said.push(`${a.code}: ${b.first}–${b.last}`);
    if (a.rank !== b.rank) said.push(`${a.code}: moved`);
  }
  const most = 6;
  return said.length > most ? `${said.slice(0, most).join(' · ')} · ${said.length - most} more` : said.join(' · ') || 'changed';
}
