// The shelf of kits that ships: what each rig is, said as an intention says it. `npm run demo:kits` begins each on the keeper's face and measures it on all
// three heads. Which pattern suits what is common practice of the trade, no source; names are ours.
import { readFileSync } from 'node:fs';
import {
  beyond,
  exposureFactor,
  rectangle,
  sky,
  sun,
  TURNTABLE_DEFAULTS,
  type Beginning,
  type Kit,
  type Light,
  type Turntable,
} from '@plinket/core';

/** A rig to be begun, and what it is called. */
export interface RigPlan {
  name: string;
  brief: string;
  tags: string[];
  light: Beginning;
}

type Source = Pick<Beginning['key'], 'width' | 'height' | 'kelvin' | 'share'>;
const fill = (share: number, kelvin = 5600, more: { elevation?: number } = {}) => ({ width: 1.4, height: 1.4, kelvin, share, ...more });
const kick = (share: number, kelvin = 5600) => ({ width: 0.15, height: 0.9, kelvin, share, azimuth: 140, elevation: 12, distance: 1.5 });

interface PatternPlan {
  pattern: Beginning['key']['pattern'];
  source: Source;
  distance: number;
  ratio?: number;
  fill: number;
  /** One light alone, with a fill, with an edge as well: name and line. */
  one: [string, string];
  two: [string, string];
  three: [string, string];
}
const PATTERN_PLANS: PatternPlan[] = [
  {
    pattern: 'loop',
    source: { width: 0.6, height: 0.8, kelvin: 5400, share: 1 },
    distance: 1.5,
    ratio: 3,
    fill: 0.4,
    one: ['First lamp', 'one light a little above and aside: where to begin with nearly every face'],
    two: ['First lamp and wall', 'the same with a bright wall across: kind, and still round'],
    three: ['First lamp, lifted', 'and an edge from behind that takes the head off the ground'],
  },
  {
    pattern: 'closed triangle',
    source: { width: 0.5, height: 0.65, kelvin: 5000, share: 0.95 },
    distance: 1.6,
    ratio: 5,
    fill: 0.22,
    one: ['Attic window', 'one light high and far round: a face with something to tell'],
    two: ['Attic window, pale room', 'the room gives back enough to see both eyes'],
    three: ['Attic window, last light', 'and a cool edge that parts hair from wall'],
  },
  {
    pattern: 'split',
    source: { width: 0.35, height: 0.8, kelvin: 5200, share: 0.8 },
    distance: 1.6,
    ratio: 8,
    fill: 0.1,
    one: ['Door ajar', 'half of the face, and no more'],
    two: ['Door ajar, embers', 'what is kept back just shows'],
    three: ['Door ajar, moon', 'and a thin edge says where the dark half ends'],
  },
  {
    pattern: 'butterfly',
    source: { width: 0.6, height: 0.6, kelvin: 5600, share: 1 },
    distance: 1.2,
    fill: 0.25,
    one: ['High noon balcony', 'from above the camera: cheekbones first'],
    two: ['High noon, white table', 'the table under the chin opens the eyes'],
    three: ['High noon, halo', 'and light in the hair from behind'],
  },
  {
    pattern: 'under',
    source: { width: 0.35, height: 0.3, kelvin: 3200, share: 0.8 },
    distance: 1.2,
    fill: 0.15,
    one: ['Campfire', 'from below and in front: shadows climb'],
    two: ['Campfire, night sky', 'the sky keeps the shadows blue and open'],
    three: ['Campfire, someone behind', 'and a cold edge from over the shoulder'],
  },
  {
    pattern: 'rim',
    source: { width: 0.4, height: 1.1, kelvin: 6200, share: 1.5 },
    distance: 1.7,
    fill: 0.2,
    one: ['Against the gate', 'from behind alone: an outline that might be anyone'],
    two: ['Against the gate, snow', 'the ground gives the face back, softly'],
    three: ['Against the gate, two lamps', 'an edge on either side'],
  },
  {
    pattern: 'flat',
    source: { width: 1.4, height: 1.2, kelvin: 5600, share: 1 },
    distance: 1.8,
    fill: 0.4,
    one: ['Grey morning', 'large, in front: shows shapes and colours, hides nothing'],
    two: ['Grey morning, all round', 'nearly without a shadow: for judging surfaces'],
    three: ['Grey morning, drawn', 'and an edge, so that the outline stays'],
  },
];

const ofPattern = ({ pattern, source, distance, ratio, fill: share, one, two, three }: PatternPlan): RigPlan[] => {
  const key = { ...source, pattern, distance };
  const filled: Beginning = {
    key,
    ...(ratio === undefined ? {} : { ratio }),
    fill: fill(share, pattern === 'under' ? 9000 : 6000, pattern === 'butterfly' ? { elevation: -30 } : {}),
  };
  return [
    { name: one[0], brief: one[1], tags: [pattern, 'one light'], light: { key } },
    { name: two[0], brief: two[1], tags: [pattern, 'two lights'], light: filled },
    {
      name: three[0],
      brief: three[1],
      tags: [pattern, 'three lights'],
      light: { ...filled, rim: beyond(pattern === 'flat' ? 0.8 : 1.2, 6500) },
    },
  ];
};

export const RIG_PLANS: RigPlan[] = [
  ...PATTERN_PLANS.flatMap(ofPattern),
  {
    name: 'One big cloud',
    brief: 'one very large source overhead, its edge soft as weather: for anything that is shown standing',
    tags: ['overhead', 'one light'],
    light: { key: { width: 2.4, height: 2, kelvin: 5800, share: 1, pattern: 'butterfly', distance: 2 } },
  },
  {
    name: 'Silhouette with a glint',
    brief: 'the figure against what is behind it, and a spark in the eyes that says it sees us',
    tags: ['rim', 'silhouette', 'eye light'],
    light: {
      key: { width: 0.5, height: 1.2, kelvin: 7000, share: 1.8, pattern: 'rim', distance: 1.8 },
      eye: { clock: 11, kelvin: 6000 },
      backdrop: { share: 0.7, kelvin: 7000 },
    },
  },
  {
    name: 'The whole figure',
    brief: 'four lights for someone large: key and fill from the ground up, an edge on both sides',
    tags: ['loop', 'four lights', 'figure'],
    light: {
      key: { width: 1.2, height: 1.8, kelvin: 5200, share: 1, pattern: 'loop', distance: 2.6 },
      ratio: 4,
      fill: fill(0.3, 6200),
      rim: { ...beyond(1.3, 6500), height: 2 },
      kick: { ...kick(0.8, 4800), height: 1.8 },
    },
  },
  {
    name: 'Ember and ice',
    brief: 'two colours that do not meet: warm where it looks, cold where it came from',
    tags: ['split', 'two colours'],
    light: {
      key: { width: 0.4, height: 0.8, kelvin: 2600, share: 0.85, pattern: 'split', distance: 1.5 },
      kick: { ...kick(0.3, 12000), azimuth: -75, height: 1.2, width: 0.4 },
      rim: beyond(1.2, 14000),
    },
  },
  {
    name: 'Night window',
    brief: 'a lamp inside, the blue of the pane behind: nobody else is awake',
    tags: ['closed triangle', 'night'],
    light: {
      key: { width: 0.3, height: 0.3, kelvin: 2800, share: 0.7, pattern: 'closed triangle', distance: 1.2 },
      ratio: 8,
      fill: fill(0.1, 9500),
      rim: beyond(0.7, 11000),
      backdrop: { share: 0.12, kelvin: 9500 },
    },
  },
  {
    name: 'Even, for any page',
    brief: 'the same light on every part that faces us: a figure among other content',
    tags: ['flat', 'even'],
    light: {
      key: { width: 1.8, height: 1.6, kelvin: 5600, share: 1, pattern: 'flat', distance: 2.2 },
      fill: fill(0.7, 5600),
      rim: beyond(0.5, 5600),
      kick: kick(0.5),
    },
  },
  {
    name: 'Catalogue white',
    brief: 'bright and clean, the wall as bright as paper: to show what it is, not how it feels',
    tags: ['flat', 'catalogue'],
    light: {
      key: { width: 1.6, height: 1.4, kelvin: 5600, share: 1.1, pattern: 'flat', distance: 2 },
      fill: fill(0.5),
      rim: beyond(0.8, 5600),
      backdrop: { share: 2, kelvin: 5600 },
    },
  },
];

/** A kit that is said light by light, at the reference head: what no intention says. */
export interface LitPlan {
  name: string;
  brief: string;
  tags: string[];
  /** Exposure, EV at ISO 100. */
  ev: number;
  lights: Record<string, Light>;
  /** The pattern that it is kept for, and the light that draws it. */
  shows?: { pattern: string; key: string };
  /** A stage that is ready to use, by its id, and how it turns. */
  stage?: string;
  turntable?: Partial<Turntable>;
}

/** A panel that gives a head so much of what exposes white paper right: its luminance by area and distance. */
function panel(
  name: string,
  role: Light['role'],
  share: number,
  ev: number,
  kelvin: number,
  [width, height]: [number, number],
  [azimuth, elevation, distance]: [number, number, number],
): Light {
  const illuminance = (share * Math.PI) / exposureFactor(ev);
  const value = Math.round((illuminance * distance ** 2) / (width * height));
  return rectangle({
    name,
    role,
    kelvin,
    width,
    height,
    place: { azimuth, elevation, distance, aim: [0, 0, 0] },
    output: { held: 'luminance', value, unit: 'cd/m²', efficacy: 15 },
  });
}

/** Exposure of a low sun and of rooms; common practice, no source. */
const DAY = 12.4,
  ROOM = 8;
const evening = (bearing: number, elevation: number): Record<string, Light> => ({
  sun: sun({ name: 'Low sun', role: 'key', bearing, elevation }),
  sky: sky({ name: 'Its sky', bearing, elevation }),
});
/** Before and after a turn it rests a moment: common practice, no source. */
const RESTS = { before: 12, after: 12 };

export const LIT_PLANS: LitPlan[] = [
  {
    name: 'Two strips, one shell',
    brief: 'a strip above and a strip below that nearly meet: skin without a line, two bars in each eye',
    tags: ['clamshell', 'two lights', 'strips'],
    ev: ROOM,
    lights: {
      above: panel('Strip above', 'key', 1.3, ROOM, 5600, [1.1, 0.22], [0, 38, 1.2]),
      below: panel('Strip below', 'fill', 0.36, ROOM, 5600, [1.1, 0.22], [0, -32, 1.1]),
    },
    // the upper one draws it by itself; the lower one is what makes a shell of it
    shows: { pattern: 'butterfly', key: 'above' },
  },
  {
    name: 'Low sun',
    brief: 'an hour before it sets, the sky opens what it does not reach',
    tags: ['sun', 'outside', 'warm'],
    ev: DAY,
    lights: evening(52, 11),
  },
  {
    name: 'Round, to judge surfaces',
    brief: 'the figure turns in large grey light: every side is seen the same way',
    tags: ['turntable', 'even'],
    ev: ROOM,
    lights: {
      left: panel('Left wall', 'key', 0.6, ROOM, 5800, [2, 2.4], [58, 18, 2.6]),
      right: panel('Right wall', 'fill', 0.5, ROOM, 5800, [2, 2.4], [-58, 18, 2.6]),
      behind: panel('Behind', 'rim', 0.9, ROOM, 6200, [0.4, 1.6], [178, 34, 2.2]),
    },
    stage: 'chalk-sweep',
    turntable: RESTS,
  },
  {
    name: 'The light goes round',
    brief: 'the figure stands, a low sun walks once about it: what surfaces do with light from every side',
    tags: ['turntable', 'sun'],
    ev: DAY + 0.7,
    lights: evening(20, 24),
    stage: 'slate-pool',
    turntable: { ...RESTS, turning: 'dome' },
  },
  {
    name: 'Itself, then its day',
    brief: 'once round for the shape, then the day goes round for the surfaces: one film for who signs it off',
    tags: ['turntable', 'sun', 'to show'],
    ev: DAY + 1.2,
    lights: { ...evening(35, 30), edge: panel('Edge', 'rim', 0.8, DAY + 1.2, 6500, [0.3, 1.4], [-150, 22, 1.8]) },
    stage: 'night-sweep',
    turntable: { ...RESTS, turning: 'figure then dome', frames: 240 },
  },
];
export const planOfTurn = ({ turntable }: LitPlan): Turntable | undefined => turntable && { ...TURNTABLE_DEFAULTS, ...turntable };

/** Where the pictures of the shelf lie, by their SHA-256. */
export const KIT_PICTURES = new URL('../assets/kits/', import.meta.url);
/** The shelf of kits as it was made. */
export const demoKits = (): Kit[] => JSON.parse(readFileSync(new URL('../assets/kits.json', import.meta.url), 'utf8')) as Kit[];
