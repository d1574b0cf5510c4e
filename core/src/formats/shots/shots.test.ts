import { describe, expect, it } from '@jest/globals';
import Timecode, { type FRAMERATE } from 'smpte-timecode';
import { collected, inOrder, sequenceSchema, TOLERANCE, type Sequence, type Shot } from '../../setup/index.ts';
import { compareShots, framesAt, readShotList, ShotListError, SHOT_LISTS, timecodeOf, writeShotList } from './index.ts';

const uuid = (n: number) => `7b1f6f0e-6d6a-4b1e-9d0a-${String(n).padStart(12, '0')}`;
const shot = (code: string, first: number, last: number, more: Partial<Shot> = {}) => ({
  code,
  first,
  last,
  state: 'to light' as const,
  brief: '',
  notes: '',
  ...more,
});
const sequenceOf = (...shots: ReturnType<typeof shot>[]): Sequence =>
  sequenceSchema.parse({
    schemaVersion: 1,
    name: 'Sea wall',
    brief: '',
    notes: '',
    rank: 'a0',
    setup: uuid(0),
    tolerance: TOLERANCE,
    shots: collected(Object.fromEntries(shots.map((s, i) => [uuid(i + 1), s]))),
  });
const sequence = sequenceOf(
  shot('SW_010', 1001, 1125, { state: 'agreed', brief: 'she waits, “still”' }),
  shot('SW_020', 1001, 1048),
  shot('SW_030', 990, 1200, { notes: 'two\nlines' }),
);
const bytes = (text: string) => new TextEncoder().encode(text);
const problems = (file: string, text: string) => {
  try {
    readShotList(bytes(text), file, 24);
  } catch (error) {
    if (error instanceof ShotListError) return error.problems.map((p) => `${p.field}: ${p.reason}`);
    throw error;
  }
  return [];
};

describe('timecode', () => {
  // SMPTE ST 12-1, from memory: numbers 00 and 01 are dropped at every minute but each tenth, so an hour has 107 892 frames
  it.each([
    ['00:00:59;29', 1799],
    ['00:01:00;02', 1800],
    ['00:10:00;00', 17_982],
    ['01:00:00;00', 107_892],
    ['23:59:59;29', 2_589_407],
  ])('with drop frame %s is frame %d', (timecode, frame) => {
    expect(framesAt(timecode, 29.97, true)).toBe(frame);
    expect(timecodeOf(frame, 29.97, true)).toBe(timecode);
  });
  it.each<[FRAMERATE, boolean]>([
    [24, false],
    [25, false],
    [29.97, false],
    [29.97, true],
    [30, false],
    [59.94, true],
    [60, false],
  ])('at %f frames a second, drop frame %s, is that of the package smpte-timecode', (fps, drop) => {
    for (let frame = 0; frame < 2_000_000; frame += 7919) {
      const theirs = new Timecode(frame, fps, drop);
      expect(timecodeOf(frame, fps, drop)).toBe(theirs.toString());
      expect(framesAt(theirs.toString(), fps, drop)).toBe(frame);
    }
  });
  it.each([
    ['25:00:00:00', 24],
    ['00:00:00:24', 24],
    ['00:01:00;00', 29.97],
    ['01.5 s', 24],
    ['', 24],
  ])('refuses “%s” at %f', (text, fps) => expect(() => framesAt(text, fps)).toThrow(RangeError));
});

describe('a shot list goes out and comes in again', () => {
  it.each(SHOT_LISTS.flatMap((kind) => [24, 25, 29.97].map((fps) => [kind, fps] as const)))('as %s at %f frames a second', (kind, fps) => {
    const { shots, notes } = readShotList(bytes(writeShotList(kind, sequence, fps)), `cut.${kind}`, fps);
    expect(shots.map(({ code, first, last }) => [code, first, last])).toEqual(
      inOrder(sequence.shots).map(({ code, first, last }) => [code, first, last]),
    );
    expect(notes).toEqual([]);
    const report = compareShots(sequence, shots);
    expect([report.added.length, report.changed.length, report.missing.length, report.same]).toEqual([0, 0, 0, 3]);
  });
  it('an EDL’s events touch, and its source times are frames as timecode', () => {
    const events = writeShotList('edl', sequence, 24)
      .split('\r\n')
      .filter((l) => /^\d/.test(l));
    expect(events[0]).toBe('001  AX       V     C        00:00:41:17 00:00:46:22 01:00:00:00 01:00:05:05');
    const times = events.map((l) => l.trim().split(/\s+/).slice(-2));
    expect(times[1]![0]).toBe(times[0]![1]);
    expect(times[2]![0]).toBe(times[1]![1]);
  });
  it('a table’s cells are no formulas', () => {
    expect(writeShotList('csv', sequenceOf(shot('=1+1', 1, 2)), 24)).toContain(`'=1+1`);
  });
});

describe('lists of others', () => {
  it('a cut with black, sound, a dissolve and a speed change', () => {
    const text = [
      'TITLE: REEL 1',
      'FCM: DROP FRAME',
      '001  BL       V     C        00:00:00:00 00:00:02:00 01:00:00;00 01:00:02;00',
      '002  A012     V     C        10:22:13;05 10:22:15;05 01:00:02;00 01:00:04;00',
      '* FROM CLIP NAME: sw_010',
      '003  A012     A     C        10:22:13;05 10:22:15;05 01:00:02;00 01:00:04;00',
      '004  A013     V     D    012 10:30:00;00 10:30:01;00 01:00:03;20 01:00:05;00',
      'M2   A013       048.0                10:30:00;00',
      '* from clip name: SW_040',
    ].join('\n');
    const { shots, notes } = readShotList(bytes(text), 'reel.edl', 29.97);
    expect(shots).toEqual([
      { code: 'sw_010', frames: 60 },
      { code: 'SW_040', frames: 40 },
    ]);
    expect(notes).toEqual([
      'Events 002 and 004 lie over each other by 10 frames.',
      'Black is no shot: 1 events were left out.',
      'Tracks of sound were left out: 1 events.',
      'Changes of speed were left out: 1.',
    ]);
    const report = compareShots(sequence, shots);
    expect(report.changed).toEqual([
      { id: uuid(1), code: 'SW_010', words: ['frames 1001–1125 become 1001–1060'], to: { first: 1001, last: 1060 } },
    ]);
    expect(report.added).toEqual([{ code: 'SW_040', first: 1001, last: 1040, brief: '', notes: '', state: 'to light', at: 1 }]);
    expect(report.missing.map((m) => m.code)).toEqual(['SW_020', 'SW_030']);
    expect(report.order).toEqual([{ id: uuid(1) }, { id: uuid(2) }, { id: uuid(3) }, { code: 'SW_040' }]);
  });
  it('a cut whose events are not in the order of their times', () => {
    const event = (n: number, from: string, to: string) => `00${n}  R${n} V C 00:00:00:00 00:00:01:00 01:00:${from}:00 01:00:${to}:00`;
    expect(readShotList(bytes([event(1, '04', '05'), event(2, '00', '04')].join('\n')), 'a.edl', 24).shots.map((s) => s.code)).toEqual([
      'R2',
      'R1',
    ]);
  });
  it('a table with semicolons, other names of columns, and a quotation mark', () => {
    const { shots, notes } = readShotList(
      bytes('\uFEFFName;Start;End;Description;Cost\r\nSW_050;1001;1010;"a ""lamp""";5\r\n\r\n'),
      'list.csv',
      24,
    );
    expect(shots).toEqual([{ code: 'SW_050', first: 1001, last: 1010, brief: 'a "lamp"' }]);
    expect(notes).toEqual(['Columns that say nothing here: Cost.']);
  });
  it('a timeline with a gap, a transition, a second track, a media range and another rate', () => {
    const time = (value: number, rate = 24) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate });
    const range = (start: object, duration: object) => ({ OTIO_SCHEMA: 'TimeRange.1', start_time: start, duration });
    const children = [
      { OTIO_SCHEMA: 'Clip.1', name: 'a', source_range: range(time(1001), time(20)) },
      { OTIO_SCHEMA: 'Gap.1', name: '', source_range: range(time(0), time(5)) },
      { OTIO_SCHEMA: 'Transition.1', name: 'x', in_offset: time(2), out_offset: time(2) },
      {
        OTIO_SCHEMA: 'Clip.2',
        name: 'b',
        source_range: null,
        media_references: { M: { OTIO_SCHEMA: 'ExternalReference.1', available_range: range(time(2000, 48), time(10)) } },
        active_media_reference_key: 'M',
      },
    ];
    const text = JSON.stringify({
      OTIO_SCHEMA: 'Timeline.1',
      name: 'cut',
      tracks: {
        OTIO_SCHEMA: 'Stack.1',
        children: [
          { OTIO_SCHEMA: 'Track.1', kind: 'Audio', children: [] },
          { OTIO_SCHEMA: 'Track.1', kind: 'Video', children },
        ],
      },
    });
    const { shots, notes } = readShotList(bytes(text), 'cut.otio', 24);
    expect(shots).toEqual([
      { code: 'a', first: 1001, last: 1020 },
      { code: 'b', first: 1000, last: 1009 },
    ]);
    expect(notes).toEqual([
      'Only the first track of pictures was read; 1 more was left out.',
      'Left out: 1 gaps.',
      'Left out: 1 transitions.',
    ]);
  });
  it.each<[string, string, string, string[]]>([
    ['no ending', 'cut', 'x', [': a shot list ends in .csv, .edl or .otio']],
    ['no column of shots', 'a.csv', 'first,last\n1,2', ['line 1: no column is called shot, code or name']],
    ['reversed frames', 'a.csv', 'shot,first,last\nA,20,10', ['line 2: A ends at 10, before it begins at 20']],
    ['a shot twice', 'a.csv', 'shot\nA\na', ['line 3: a is there twice, first in line 2']],
    ['no number', 'a.csv', 'shot,first\nA,1e9', ['line 2, first: “1e9” is no number of a frame']],
    ['a state of others', 'a.csv', 'shot,state\nA,done', ['line 2, state: “done” is none of to light, in work, to show, agreed']],
    ['an empty table', 'a.csv', 'shot,first\n', [': it has no shots']],
    ['an EDL of nothing', 'a.edl', 'hello', [': it has no event of a picture']],
    [
      'an event that ends before it begins',
      'a.edl',
      '001  AX V C 00:00:00:00 00:00:01:00 01:00:01:00 01:00:00:00',
      ['line 1: event 001 ends no later than it begins'],
    ],
    [
      'a time that is none',
      'a.edl',
      '001  AX V C 00:00:00:00 00:00:01:00 01:00:99:00 01:00:00:00',
      ['line 1: “01:00:99:00” is no time at 24 frames a second'],
    ],
    [
      'a file that is no timeline',
      'a.otio',
      '{"OTIO_SCHEMA":"Clip.1"}',
      ['OTIO_SCHEMA: no timeline', 'tracks: Invalid input: expected object, received undefined'],
    ],
    [
      'a timeline of sound',
      'a.otio',
      '{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[]}}',
      ['tracks.children: there is no track of pictures'],
    ],
  ])('%s is refused by name', (_name, file, text, said) => expect(problems(file, text)).toEqual(said));
  it('broken JSON, and 1 001 shots', () => {
    expect(problems('a.otio', '{')[0]).toMatch(/JSON/);
    const rows = Array.from({ length: 1001 }, (_, i) => `S${i}`).join('\n');
    expect(problems('a.csv', `shot\n${rows}`)).toEqual([': it has 1001 shots; 1000 are the most']);
  });
});
