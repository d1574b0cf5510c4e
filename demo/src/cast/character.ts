import type { Actor, Cut } from './cast.ts';
import { FLOOR, grip } from '../form/body.ts';
import type { Build } from '../form/coat.ts';
import { eyeParts } from '../form/eyes.ts';
import type { Point } from '../form/field.ts';
import { buildSkin } from '../form/head.ts';
import { findLandmarks } from '../form/landmarks.ts';
import { axis, even, finest, polygonise, zone, type Surface } from '../form/nets.ts';
import { asymmetry, eyeCentre, type Proportions } from '../form/proportions.ts';
import { followNeck, joints, rigid, strongest, type Follow, type Joint, type Motion } from '../form/skeleton.ts';
import { skinColour } from '../form/skin-colour.ts';
import { Shape } from '../form/field.ts';
import { sphere } from '../form/primitives.ts';
import { buildWetLine } from './trim.ts';
import type { Paint } from '../maps/bake.ts';
import { handPaint, skinPaint } from '../maps/skin.ts';
import { brows, lashes } from '../strands/brows.ts';
import { growHair, type Growth } from '../strands/growth.ts';
import { ribbons } from '../strands/ribbons.ts';

/** A surface that hangs on a skeleton: four joints and weights for each vertex. */
export interface Skinned extends Surface {
  joints: Uint8Array;
  weights: Float32Array;
  /** Pictures that are painted for it. */
  maps?: { paint: Paint; size: number };
}

/** A generated character: surfaces, joints and landmarks in metres, Y up, facing +Z. */
export interface Character {
  name: string;
  surfaces: Skinned[];
  landmarks: Record<string, Point>;
  joints: Joint[];
  motion: Motion;
  /** From millimetres in the frame of proportions.ts to metres here: factor, and height of the origin. */
  scale: number;
  up: number;
}

/** Side of a head's pictures, pixels. */
const SKIN_MAP = 2048;
/** A figure is seen from further off than a bust: so many times fewer strands, which are wider. */
const THINNED = 1.7;
/** A bust stands with the pupils at this height, metres: those of a man on a low stool. */
export const BUST_PUPILS = 1.35;

function headGrid(p: Proportions, q: number) {
  const ears =
    p.ear > 0
      ? finest(zone(60, 92, 1.8 * q, 7), zone(-92, -60, 1.8 * q, 7))
      : finest(zone(56, 150, 2.2 * q, 7), zone(-150, -56, 2.2 * q, 7));
  return {
    xs: axis(-205, 205, finest(zone(-47, 47, 1.2 * q, 7), ears)),
    ys: axis(
      -262,
      p.crown + 12,
      finest(
        zone(-8, 13, 0.85 * q, 6, 0.06),
        zone(p.mouthY - 12, p.mouthY + 10, 0.85 * q, 6, 0.06),
        zone(p.chinY - 4, 35, 1.6 * q, 6, 0.04),
      ),
    ),
    zs: axis(-130, Math.max(134, p.noseZ + 8), finest(zone(64, p.noseZ + 4, 1.2 * q, 6, 0.05), zone(-38, 6, 2 * q, 6, 0.05))),
  };
}

/** What grows on the head, each part with how it follows the neck. */
function hairOf(actor: Actor, skin: Shape, mesh: Surface, thinned: number): { surface: Surface; follow: Follow }[] {
  const { proportions: p } = actor;
  const fewer = (g: Growth): Growth => ({ ...g, count: Math.ceil(g.count / thinned), width: g.width * Math.sqrt(thinned) });
  const part = (name: string, growths: Growth[], on: Shape, seed: number): Surface =>
    ribbons(
      name,
      growths.map(fewer).map((growth, i) => ({ growth, strands: growHair(growth, on, mesh, seed + i) })),
      seed,
    );
  return [
    { surface: part('brows', [brows(p, actor.brows)], skin, 11), follow: rigid('head') },
    { surface: part('lashes', lashes(p, skin, actor.lashes), skin, 21), follow: rigid('head') },
    ...actor.hair(p).map(({ name, growths, ball, neck }, i) => ({
      surface: part(name, growths, ball ? new Shape().add(sphere(ball.at, ball.radius), 1) : skin, 31 + 10 * i),
      follow: neck ? followNeck : rigid('head'),
    })),
  ];
}

/** Fine about the lower lids. */
function wetGrid(p: Proportions, q: number) {
  const [x, , z] = eyeCentre(p);
  return {
    xs: even(-x - 20, x + 20, 0.4 * q),
    ys: even(-p.lowerLid - 4, 3, 0.3 * q),
    zs: even(z, z + p.eyeRadius + 4, 0.4 * q),
    epsilon: 0.15,
  };
}

/** Where hair hides the skin, 0…1; fur is too thin to. */
function scalpOf({ proportions: p, hair }: Actor): (at: Point, normal: Point) => number {
  const growths = hair(p).flatMap(({ name, growths, ball }) => (ball || name === 'fur' ? [] : growths));
  return (at, n) => growths.reduce((most, g) => Math.max(most, Math.min(1, g.density?.(at, n) ?? 0)), 0);
}

function skinned(surface: Surface, follow: Follow, number: (joint: string) => number): Skinned {
  const n = surface.positions.length / 3;
  const out: Skinned = { ...surface, joints: new Uint8Array(n * 4), weights: new Float32Array(n * 4) };
  for (let i = 0; i < n; i++) {
    const { joints: j, weights } = strongest(
      follow(surface.positions[i * 3]!, surface.positions[i * 3 + 1]!, surface.positions[i * 3 + 2]!),
      number,
    );
    out.joints.set(j, i * 4);
    out.weights.set(weights, i * 4);
  }
  return out;
}

/**
 * One of the cast as a bust or as a standing figure. `coarseness` 1 is full detail (half a million triangles and more); larger
 * is quicker.
 */
export function generateCharacter(actor: Actor, cut: Cut, coarseness = 1): Character {
  const full = cut === 'figure',
    build: Build = { ...actor.build, full },
    p = actor.proportions;
  const bones = joints(build, full ? grip(build) : undefined);
  const number = (name: string): number => {
    const i = bones.findIndex((b) => b.name === name);
    if (i < 0) throw new RangeError(`No joint ${name}.`);
    return i;
  };
  const skin = buildSkin(p, actor.forms),
    landmarks = findLandmarks(p, skin);
  const surfaces: Skinned[] = [];
  const keep = (s: Surface, follow: Follow, face: boolean) => {
    const out = skinned(s, follow, number);
    if (face) for (let i = 0; i < out.positions.length; i += 3) asymmetry(p, out.positions, i);
    surfaces.push(out);
  };
  const head = polygonise(skin, 'skin', headGrid(p, coarseness), skinColour(p, actor.skin));
  keep(head, followNeck, true);
  surfaces[0]!.maps = { paint: skinPaint(p, { ...actor.skin, hair: scalpOf(actor) }, 5), size: SKIN_MAP };
  for (const { surface, follow } of hairOf(actor, skin, head, full ? coarseness * THINNED : coarseness)) keep(surface, follow, true);
  keep(polygonise(buildWetLine(p), 'wet line', wetGrid(p, coarseness)), rigid('head'), true);
  for (const part of actor.outfit(p, build, coarseness)) {
    if ('threads' in part) {
      const { growth, on } = part.threads;
      keep(ribbons(part.name, [{ growth, strands: growHair(growth, on, head, 3) }], 3), part.follow, false);
      continue;
    }
    keep(polygonise(part.shape, part.name, part.grid, part.colour), part.follow, part.face ?? false);
    if (part.name === 'hands') surfaces.at(-1)!.maps = { paint: handPaint(6), size: SKIN_MAP / 4 };
  }
  for (const eye of eyeParts(p, actor.iris)) keep(eye, rigid('head'), true);

  const up = full ? (-FLOOR * actor.scale) / 1000 : BUST_PUPILS,
    k = actor.scale / 1000;
  const placed = (v: { [i: number]: number }, o = 0): void => {
    for (let i = 0; i < 3; i++) v[o + i] = v[o + i]! * k + (i === 1 ? up : 0);
  };
  for (const s of surfaces) for (let i = 0; i < s.positions.length; i += 3) placed(s.positions, i);
  for (const point of Object.values(landmarks)) {
    asymmetry(p, point);
    placed(point);
    for (let i = 0; i < 3; i++) point[i] = +point[i]!.toFixed(5);
  }
  for (const b of bones) placed(b.at);
  return { name: actor.name, surfaces, landmarks, joints: bones, motion: actor.motion[cut], scale: k, up };
}
