// Who there is: the old keeper of a lighthouse on stilts, the young signaller, the horned tide-goat.
import type { Build } from '../form/coat.ts';
import { goatForms } from '../form/goat.ts';
import { goatOutfit, keeperOutfit, signallerOutfit, type Outfit } from './outfits.ts';
import { GOAT, KEEPER, SIGNALLER, type Proportions } from '../form/proportions.ts';
import type { Motion } from '../form/skeleton.ts';
import type { SkinStyle } from '../maps/skin.ts';
import type { Point, Shape } from '../form/field.ts';
import { goatBeard, goatFur, goatHair } from '../strands/goat.ts';
import { keeperBeard, keeperHair } from '../strands/keeper.ts';
import { signallerHair, signallerKnot, KNOT } from '../strands/signaller.ts';
import type { BrowStyle } from '../strands/brows.ts';
import type { Growth } from '../strands/growth.ts';

export type Cut = 'bust' | 'figure';

/** Strands that are one part of the file. */
export interface HairPart {
  name: string;
  growths: Growth[];
  /** A ball that they grow on instead of the head. */
  ball?: { at: Point; radius: number };
  /** Bends with the neck. */
  neck?: boolean;
}

export interface Actor {
  id: string;
  name: string;
  proportions: Proportions;
  build: Omit<Build, 'full'>;
  /** Against a figure of 1.75 m. */
  scale: number;
  skin: Omit<SkinStyle, 'hair'>;
  iris: Point;
  brows: BrowStyle;
  lashes: number;
  /** Hair by part: what grows on the head, or on a ball. */
  hair: (p: Proportions) => HairPart[];
  forms?: (s: Shape, p: Proportions) => void;
  outfit: Outfit;
  motion: Record<Cut, Motion>;
}

/** Head and neck share a turn; the neck takes two fifths. */
function look(keys: [number, number, number, number][]): Motion['turns'] {
  const part = (k: number) => keys.map(([t, x, y, z]): [number, number, number, number] => [t, x * k, y * k, z * k]);
  return [
    { joint: 'neck', keys: part(0.4) },
    { joint: 'head', keys: part(0.6) },
  ];
}

const keeperLook = look([
  [0, 6, 0, 0],
  [1.4, 4, 6, 0],
  [2.6, -9, 24, -3],
  [3.6, -9, 24, -3],
  [5, 6, 0, 0],
]);

const listen = look([
  [0, 3, -8, 2],
  [0.8, 4, -10, 3],
  [1.6, -3, 34, -9],
  [3.4, -4, 38, -10],
  [4.4, 3, -8, 2],
]);

const shake: Motion['turns'] = [
  ...look([
    [0, 0, 0, 0],
    [0.35, 8, -10, 4],
    [0.6, 6, 30, -14],
    [0.85, 6, -28, 13],
    [1.1, 6, 24, -11],
    [1.35, 5, -18, 8],
    [1.65, 3, 9, -4],
    [2.4, 0, 0, 0],
  ]),
];

/** Arms at rest stand away from the body; this lowers them. */
const hanging = (joint: string, z: number, keys: number[]): Motion['turns'][number] => ({
  joint,
  keys: keys.map((t): [number, number, number, number] => [t, 0, 0, z]),
});

export const CAST: readonly Actor[] = [
  {
    id: 'keeper',
    name: 'The old keeper',
    proportions: KEEPER,
    build: { shoulder: 1.05, chest: 1.03, waist: 1.12, hip: 1 },
    scale: 1,
    skin: { base: [0.66, 0.44, 0.335], stubble: 1, flush: 1, freckles: 0, pelt: 0, scalp: [0.62, 0.6, 0.6] },
    iris: [0.16, 0.2, 0.24],
    brows: {
      thick: 1.35,
      arch: 0.1,
      count: 460,
      length: 12,
      bushy: 3,
      colour: [
        [0.16, 0.145, 0.13],
        [0.52, 0.49, 0.45],
      ],
    },
    lashes: 0.75,
    hair: (p) => [
      { name: 'hair', growths: keeperHair(p) },
      { name: 'beard', growths: keeperBeard(p) },
    ],
    outfit: keeperOutfit,
    motion: {
      bust: { name: 'looks up', turns: keeperLook },
      figure: {
        name: 'lifts the lantern',
        turns: [
          ...keeperLook,
          {
            joint: 'upper arm L',
            keys: [
              [0, -4, 0, -9],
              [1, -6, 0, -9],
              [2.6, -42, 0, -2],
              [3.6, -42, 0, -2],
              [5, -4, 0, -9],
            ],
          },
          {
            joint: 'forearm L',
            keys: [
              [0, -10, 0, -6],
              [1, -14, 0, -6],
              [2.6, -74, 0, -4],
              [3.6, -74, 0, -4],
              [5, -10, 0, -6],
            ],
          },
          {
            joint: 'hand L',
            keys: [
              [0, 0, 0, 0],
              [1, 0, 0, 0],
              [2.6, 12, 0, 0],
              [3.6, 12, 0, 0],
              [5, 0, 0, 0],
            ],
          },
          // what is held keeps hanging down
          {
            joint: 'held',
            keys: [
              [0, 14, 0, 15],
              [1, 20, 0, 15],
              [2.6, 104, 0, 6],
              [3.6, 104, 0, 6],
              [5, 14, 0, 15],
            ],
          },
          hanging('upper arm R', 9, [0, 5]),
          {
            joint: 'forearm R',
            keys: [
              [0, -16, 0, 6],
              [5, -16, 0, 6],
            ],
          },
          {
            joint: 'spine',
            keys: [
              [0, 1, 0, 0],
              [2.6, -2, 5, 0],
              [3.6, -2, 5, 0],
              [5, 1, 0, 0],
            ],
          },
        ],
      },
    },
  },
  {
    id: 'signaller',
    name: 'The young signaller',
    proportions: SIGNALLER,
    build: { shoulder: 0.88, chest: 0.9, waist: 0.8, hip: 0.94 },
    scale: 0.955,
    skin: { base: [0.71, 0.475, 0.37], stubble: 0, flush: 0.9, freckles: 0.8, pelt: 0, scalp: [0.16, 0.1, 0.08] },
    iris: [0.1, 0.17, 0.1],
    brows: {
      thick: 0.78,
      arch: 1.8,
      count: 330,
      length: 8,
      bushy: 0.5,
      colour: [
        [0.03, 0.016, 0.01],
        [0.075, 0.04, 0.024],
      ],
    },
    lashes: 1.3,
    hair: (p) => [
      { name: 'hair', growths: signallerHair(p) },
      { name: 'knot', growths: [signallerKnot()], ball: KNOT },
    ],
    outfit: signallerOutfit,
    motion: {
      bust: { name: 'turns to listen', turns: listen },
      figure: {
        name: 'turns to listen',
        turns: [
          ...listen,
          {
            joint: 'spine',
            keys: [
              [0, 0, -3, 0],
              [0.8, 0, -4, 0],
              [1.8, 2, 9, 0],
              [3.4, 2, 10, 0],
              [4.4, 0, -3, 0],
            ],
          },
          hanging('upper arm L', -10, [0, 4.4]),
          hanging('upper arm R', 10, [0, 4.4]),
          {
            joint: 'forearm L',
            keys: [
              [0, -14, 0, -4],
              [1.8, -30, 0, -4],
              [3.4, -30, 0, -4],
              [4.4, -14, 0, -4],
            ],
          },
          {
            joint: 'forearm R',
            keys: [
              [0, -12, 0, 4],
              [4.4, -12, 0, 4],
            ],
          },
        ],
      },
    },
  },
  {
    id: 'goat',
    name: 'The tide-goat',
    proportions: GOAT,
    build: { shoulder: 0.98, chest: 1, waist: 1, hip: 1 },
    scale: 1.04,
    skin: { base: [0.5, 0.46, 0.4], stubble: 0, flush: 0.5, freckles: 0, pelt: 1, scalp: [0.6, 0.56, 0.5] },
    iris: [0.45, 0.28, 0.05],
    brows: {
      thick: 1.1,
      arch: 1.5,
      count: 360,
      length: 10,
      bushy: 1.4,
      colour: [
        [0.08, 0.065, 0.05],
        [0.26, 0.23, 0.19],
      ],
    },
    lashes: 1,
    hair: (p) => [
      { name: 'hair', growths: goatHair(p) },
      { name: 'fur', growths: goatFur(p), neck: true },
      { name: 'beard', growths: goatBeard(p) },
    ],
    forms: goatForms,
    outfit: goatOutfit,
    motion: { bust: { name: 'shakes its head', turns: shake }, figure: { name: 'shakes its head', turns: shake } },
  },
];

export function actorOf(id: string): Actor {
  const actor = CAST.find((a) => a.id === id);
  if (!actor) throw new RangeError(`Nobody of the cast is called ${id}: ${CAST.map((a) => a.id).join(', ')}.`);
  return actor;
}
