// Shot lists as OpenTimelineIO JSON: Timeline.1, its first track of pictures, clips in their order (the format's published schema, from memory).
import { z } from 'zod';
import { inOrder, shotFrames, type Sequence } from '../../setup/index.ts';
import { checkedShots, ShotListError, type ListedShot, type ShotList } from './listed.ts';

const rationalTime = z.object({ OTIO_SCHEMA: z.literal('RationalTime.1'), rate: z.number().positive(), value: z.number() });
const timeRange = z.object({ OTIO_SCHEMA: z.literal('TimeRange.1'), start_time: rationalTime, duration: rationalTime });
const child = z.object({
  OTIO_SCHEMA: z.string(),
  name: z.string().nullish(),
  source_range: timeRange.nullish(),
  media_reference: z.object({ available_range: timeRange.nullish() }).nullish(),
  media_references: z.record(z.string(), z.object({ available_range: timeRange.nullish() })).nullish(),
  active_media_reference_key: z.string().nullish(),
});
type Child = z.infer<typeof child>;
const timeline = z.object({
  OTIO_SCHEMA: z.string().regex(/^Timeline\.\d+$/, 'no timeline'),
  name: z.string().nullish(),
  tracks: z.object({
    OTIO_SCHEMA: z.string().regex(/^Stack\.\d+$/, 'no stack'),
    children: z.array(z.object({ OTIO_SCHEMA: z.string(), kind: z.string().nullish(), children: z.array(z.unknown()).optional() })),
  }),
});

const rangeOf = (clip: Child) =>
  clip.source_range ??
  clip.media_reference?.available_range ??
  clip.media_references?.[clip.active_media_reference_key ?? '']?.available_range;

/** What of a track is no clip, and how it is told. */
const OTHERS: [RegExp, string][] = [
  [/^Gap\./, 'gaps'],
  [/^Transition\./, 'transitions'],
  [/^(Stack|Track|Composition)\./, 'nested cuts'],
];

/** @throws ShotListError that names each member */
export function readShotOtio(text: string, file: string): ShotList {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    throw new ShotListError(file, [{ field: '', reason: (error as Error).message }]);
  }
  const issues = (error: z.ZodError, before = '') => error.issues.map((i) => ({ field: before + i.path.join('.'), reason: i.message }));
  const read = timeline.safeParse(json);
  if (!read.success) throw new ShotListError(file, issues(read.error));
  const tracks = read.data.tracks.children,
    at = tracks.findIndex((t) => /^Track\./.test(t.OTIO_SCHEMA) && (t.kind ?? 'Video') === 'Video');
  if (at < 0) throw new ShotListError(file, [{ field: 'tracks.children', reason: 'there is no track of pictures' }]);
  const notes: string[] = [],
    left = new Map<string, number>(),
    problems: { field: string; reason: string }[] = [],
    shots: (ListedShot & { where: string })[] = [];
  const others = tracks.length - 1;
  if (others > 0) notes.push(`Only the first track of pictures was read; ${others} more ${others === 1 ? 'was' : 'were'} left out.`);
  (tracks[at]!.children ?? []).forEach((value, i) => {
    const where = `tracks.children.${at}.children.${i}`;
    const item = child.safeParse(value);
    if (!item.success) return void problems.push(...issues(item.error, `${where}.`));
    const clip = item.data;
    if (!/^Clip\./.test(clip.OTIO_SCHEMA)) {
      const what = OTHERS.find(([schema]) => schema.test(clip.OTIO_SCHEMA))?.[1] ?? clip.OTIO_SCHEMA;
      left.set(what, (left.get(what) ?? 0) + 1);
      return;
    }
    const range = rangeOf(clip);
    if (!range)
      return void problems.push({ field: `${where}.source_range`, reason: `${clip.name ?? 'a clip'} does not say which frames it shows` });
    const { start_time: start, duration } = range;
    // a start at another rate than the length is counted in that of the length
    const first = Math.round((start.value * duration.rate) / start.rate),
      frames = Math.round(duration.value);
    if (frames < 1) return void problems.push({ field: `${where}.source_range.duration`, reason: 'it shows no frame' });
    shots.push({ where, code: clip.name ?? '', first, last: first + frames - 1 });
  });
  if (problems.length) throw new ShotListError(file, problems);
  for (const [what, n] of left) notes.push(`Left out: ${n} ${what}.`);
  return checkedShots(file, shots, notes);
}

export function writeShotOtio({ name, shots }: Pick<Sequence, 'name' | 'shots'>, fps: number): string {
  const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: fps, value });
  const item = { metadata: {}, effects: [], markers: [], enabled: true };
  const clips = inOrder(shots).map((shot) => ({
    OTIO_SCHEMA: 'Clip.2',
    ...item,
    name: shot.code,
    metadata: { plinket: { state: shot.state, brief: shot.brief, notes: shot.notes } },
    source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(shot.first), duration: time(shotFrames(shot)) },
    media_references: {
      DEFAULT_MEDIA: { OTIO_SCHEMA: 'MissingReference.1', metadata: {}, name: '', available_range: null, available_image_bounds: null },
    },
    active_media_reference_key: 'DEFAULT_MEDIA',
  }));
  const track = { OTIO_SCHEMA: 'Track.1', ...item, name: 'light', kind: 'Video', source_range: null, children: clips };
  const tracks = { OTIO_SCHEMA: 'Stack.1', ...item, name: 'tracks', source_range: null, children: [track] };
  return `${JSON.stringify({ OTIO_SCHEMA: 'Timeline.1', metadata: {}, name, global_start_time: null, tracks }, null, 2)}\n`;
}
