// The shelf of kits that ships: what each rig is, said as an intention says it. `npm run demo:kits` begins each on the keeper's face and measures it on all
// three heads. Which pattern suits what is common practice of the trade, no source; names are ours.
import { readFileSync } from 'node:fs';
import { beyond, type Beginning, type Kit } from '@plinket/core';

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

/** The shelf of kits as it was made. */
export const demoKits = (): Kit[] => JSON.parse(readFileSync(new URL('../assets/kits.json', import.meta.url), 'utf8')) as Kit[];
