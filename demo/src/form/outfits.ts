// What each of the cast wears and carries, as parts: a shape, the grid it is meshed on, what it is made of, what it follows.
import { buildBoots, buildHands, buildTrousers, FLOOR, grip } from './body.ts';
import { buildCoat, COAT_HEM, type Build } from './coat.ts';
import { buildGoatLegs, buildHooves, buildHorns, buildPoncho, buildRope, buildTuft } from './goat.ts';
import { buildJacket, buildScarf, JACKET_HEM } from './jacket.ts';
import { buildFlame, buildLantern } from './lantern.ts';
import { axis, even, finest, zone, type Grid } from './nets.ts';
import type { Proportions } from './proportions.ts';
import { followHands, followLegs, followTrunk, rigid, type Follow } from './skeleton.ts';
import type { Point, Shape } from './field.ts';

export interface Part {
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

export const keeperOutfit: Outfit = (p, b, q) => {
  const { coat, shirt } = buildCoat(b, p.neckRadius),
    g = (b.full ? 4.6 : 3.2) * q;
  const parts: Part[] = [
    {
      name: 'coat',
      shape: coat,
      grid: b.full
        ? { xs: even(-375, 375, g), ys: even(COAT_HEM - 20, -110, g), zs: even(-230, 170, g), epsilon: 1.5 }
        : { xs: even(-330, 330, g), ys: even(-420, -110, g), zs: even(-230, 170, g), epsilon: 1.5 },
      follow: followTrunk(b),
    },
    {
      name: 'shirt',
      shape: shirt,
      grid: { xs: even(-90, 90, 2.4 * q), ys: even(-400, -110, 2.4 * q), zs: even(-115, 115, 2.4 * q), epsilon: 1 },
      follow: rigid('chest'),
    },
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
    trousers(b, q, 0),
    boots(q),
    hands(b, q),
    { name: 'lantern', shape: frame, grid: around(86, 1.6), follow: rigid('held') },
    { name: 'lantern glass', shape: glass, grid: around(56, 2.6), follow: rigid('held') },
    { name: 'flame', shape: buildFlame(at), grid: around(22, 2), follow: rigid('held') },
  ];
};

export const signallerOutfit: Outfit = (_p, b, q) => {
  const g = (b.full ? 4.2 : 3.2) * q;
  const parts: Part[] = [
    {
      name: 'jacket',
      shape: buildJacket(b),
      grid: { xs: even(-350, 350, g), ys: even(b.full ? JACKET_HEM - 110 : -420, -110, g), zs: even(-230, 170, g), epsilon: 1.4 },
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
      name: 'tuft',
      shape: buildTuft(p),
      grid: {
        xs: even(-40, 40, 1.4 * q),
        ys: even(p.chinY - 90, p.chinY + 30, 1.4 * q),
        zs: even(p.chinZ - 60, p.chinZ + 20, 1.4 * q),
        epsilon: 0.5,
      },
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
