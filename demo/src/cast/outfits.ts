// What each of the cast wears and carries, as parts: a shape, the grid it is meshed on, what it is made of, what it follows.
import { buildBoots, buildHands, buildTrousers, FLOOR, grip } from '../form/body.ts';
import { buildCoat, COAT_HEM, type Build } from '../form/coat.ts';
import { buildGoatLegs, buildHooves, buildHorns, buildPoncho, buildRope } from '../form/goat.ts';
import { buildJacket, buildScarf, FLAP, jacketButtons, JACKET_HEM } from '../form/jacket.ts';
import { buildFlame, buildLantern } from '../form/lantern.ts';
import { axis, even, finest, zone, type Grid } from '../form/nets.ts';
import type { Proportions } from '../form/proportions.ts';
import { followHands, followLegs, followTrunk, rigid, type Follow } from '../form/skeleton.ts';
import type { Point, Shape } from '../form/field.ts';
import { buildButtons, stitches } from './trim.ts';
import type { Growth } from '../strands/growth.ts';

/** A worn thing of cloth or matter, or of threads that lie on one. */
export type Part = Solid | Threads;
interface Threads {
  name: string;
  threads: { growth: Growth; on: Shape };
  follow: Follow;
  face?: false;
}
interface Solid {
  name: string;
  shape: Shape;
  grid: Grid;
  follow: Follow;
  colour?: (x: number, y: number, z: number) => Point;
  /** Parts of the head follow the slight asymmetry of the face; clothes do not. */
  face?: boolean;
}
export type Outfit = (p: Proportions, b: Build, q: number) => Part[];

const hands = (b: Build, q: number): Part => ({
  name: 'hands',
  shape: buildHands(b),
  grid: {
    xs: axis(-380, 380, finest(zone(-340, -225, 2.4 * q, 14), zone(225, 340, 2.4 * q, 14))),
    ys: even(-930, -715, 2.4 * q),
    zs: even(-60, 80, 2.4 * q),
    epsilon: 0.8,
  },
  follow: followHands,
});

const trousers = (b: Build, q: number, flare: number): Part => ({
  name: 'trousers',
  shape: buildTrousers(b, flare),
  grid: { xs: even(-215, 215, 5 * q), ys: even(FLOOR, -600, 7 * q), zs: even(-175, 100, 5 * q), epsilon: 2 },
  follow: followLegs,
});
const boots = (q: number): Part => ({
  name: 'boots',
  shape: buildBoots(),
  grid: { xs: even(-175, 175, 4 * q), ys: even(FLOOR - 6, -1410, 4 * q), zs: even(-125, 165, 4 * q), epsilon: 1.5 },
  follow: followLegs,
});

/** A fine grid about buttons in front: at so many x, from y to y. */
const buttonGrid = (at: number[], [low, high]: [number, number], pad: number, q: number): Grid => ({
  xs: even(Math.min(...at) - pad - 2, Math.max(...at) + pad + 2, 0.8 * q),
  ys: even(low, high, 0.8 * q),
  zs: even(10, 170, 0.8 * q),
  epsilon: 0.3,
});

/** Along the lapel's outer edge, a little inside it. */
const LAPEL_SEAM = [
  [62, -184],
  [91.5, -251],
  [79, -261],
  [86, -279],
  [38, -365],
] as const;

export const keeperOutfit: Outfit = (p, b, q) => {
  const { coat, shirt } = buildCoat(b, p.neckRadius),
    g = (b.full ? 4.6 : 3.2) * q;
  const parts: Part[] = [
    {
      name: 'coat',
      shape: coat,
      grid: b.full
        ? {
            xs: axis(-375, 375, zone(-118, 118, 2 * q, g)),
            ys: axis(COAT_HEM - 20, -110, zone(-420, -100, 2 * q, g)),
            zs: even(-230, 170, 2.6 * q),
            epsilon: 1,
          }
        : {
            xs: axis(-330, 330, zone(-125, 125, 1.6 * q, g)),
            ys: even(-420, -110, 1.7 * q),
            zs: axis(-230, 170, zone(-110, 125, 1.8 * q, g)),
            epsilon: 0.8,
          },
      follow: followTrunk(b),
    },
    {
      name: 'shirt',
      shape: shirt,
      grid: { xs: even(-90, 90, 1.5 * q), ys: even(-400, -110, 1.5 * q), zs: even(-115, 115, 1.5 * q), epsilon: 0.7 },
      follow: rigid('chest'),
    },
    {
      name: 'shirt buttons',
      shape: buildButtons(
        shirt,
        [-262, -310, -358].map((y) => [0, y] as const),
        6.5,
        false,
      ),
      grid: buttonGrid([0], [-370, -250], 7, q * 0.6),
      follow: rigid('chest'),
    },
    { name: 'stitches', threads: { growth: stitches(coat, LAPEL_SEAM, [0.075, 0.09, 0.12]), on: coat }, follow: followTrunk(b) },
  ];
  if (!b.full) return parts;
  const at = grip(b),
    { frame, glass } = buildLantern(at);
  const around = (pad: number, fine: number): Grid => ({
    xs: even(at[0] - pad, at[0] + pad, fine * q),
    ys: even(at[1] - 320, at[1] + 16, fine * q),
    zs: even(at[2] - pad, at[2] + pad, fine * q),
    epsilon: 0.5,
  });
  return [
    ...parts,
    {
      name: 'coat buttons',
      shape: buildButtons(
        coat,
        [-425, -530, -640].map((y) => [13, y] as const),
        11,
        true,
      ),
      grid: buttonGrid([13], [-655, -410], 12, q),
      follow: followTrunk(b),
    },
    trousers(b, q, 0),
    boots(q),
    hands(b, q),
    { name: 'lantern', shape: frame, grid: around(86, 1.6), follow: rigid('held') },
    { name: 'lantern glass', shape: glass, grid: around(56, 2.6), follow: rigid('held') },
    { name: 'flame', shape: buildFlame(at), grid: around(22, 2), follow: rigid('held') },
  ];
};

export const signallerOutfit: Outfit = (_p, b, q) => {
  const g = (b.full ? 4.2 : 3.2) * q,
    jacket = buildJacket(b),
    bottom = b.full ? JACKET_HEM - 110 : -420,
    // where stitches end: the hem, or before the bust does
    hem = b.full ? JACKET_HEM + 8 : -380;
  const parts: Part[] = [
    {
      name: 'jacket',
      shape: jacket,
      grid: {
        xs: axis(-350, 350, zone(-78, 60, 1.8 * q, g)),
        ys: even(bottom, -110, g * 0.8),
        zs: axis(-230, 170, zone(-60, 130, 2.2 * q, g)),
        epsilon: 1,
      },
      follow: followTrunk(b),
    },
    {
      name: 'jacket buttons',
      shape: buildButtons(jacket, jacketButtons(b), 10, false),
      grid: buttonGrid([-34, 40], b.full ? [-560, -260] : [-380, -260], 11, q),
      follow: followTrunk(b),
    },
    {
      name: 'stitches',
      threads: {
        growth: stitches(
          jacket,
          FLAP.map(([x, y]) => [x + 6, Math.max(y, hem)] as const),
          [0.7, 0.5, 0.2],
          false,
        ),
        on: jacket,
      },
      follow: followTrunk(b),
    },
    {
      name: 'scarf',
      shape: buildScarf(b.full),
      grid: { xs: even(-160, 130, 2.6 * q), ys: even(b.full ? -620 : -390, -105, 2.6 * q), zs: even(-190, 150, 2.6 * q), epsilon: 0.8 },
      follow: rigid('chest'),
    },
  ];
  return b.full ? [...parts, trousers(b, q, 1), boots(q), hands(b, q)] : parts;
};

export const goatOutfit: Outfit = (p, b, q) => {
  const parts: Part[] = [
    {
      name: 'horns',
      shape: buildHorns(),
      grid: { xs: even(-175, 175, 2.2 * q), ys: even(-30, p.crown + 130, 2.2 * q), zs: even(-170, 120, 2.2 * q), epsilon: 0.8 },
      follow: rigid('head'),
      face: true,
    },
    {
      name: 'poncho',
      shape: buildPoncho(b.full),
      grid: { xs: even(-330, 330, 3.8 * q), ys: even(b.full ? -800 : -430, -110, 3.8 * q), zs: even(-290, 250, 3.8 * q), epsilon: 1.6 },
      follow: rigid('chest'),
    },
    {
      name: 'rope',
      shape: buildRope(),
      grid: { xs: even(-170, 170, 2 * q), ys: even(-300, -185, 2 * q), zs: even(-180, 100, 2 * q), epsilon: 0.6 },
      follow: rigid('chest'),
    },
  ];
  if (!b.full) return parts;
  return [
    ...parts,
    {
      name: 'goat legs',
      shape: buildGoatLegs(),
      grid: { xs: even(-220, 220, 4 * q), ys: even(-1600, -560, 5 * q), zs: even(-180, 110, 4 * q), epsilon: 1.2 },
      follow: followLegs,
    },
    {
      name: 'hooves',
      shape: buildHooves(),
      grid: { xs: even(-175, 175, 3 * q), ys: even(FLOOR - 6, -1530, 3 * q), zs: even(-95, 85, 3 * q), epsilon: 1 },
      follow: followLegs,
    },
  ];
};
