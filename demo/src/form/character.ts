import type { Actor, Cut } from './cast.ts';
import { FLOOR, grip } from './body.ts';
import type { Build } from './coat.ts';
import { eyeParts } from './eyes.ts';
import type { Point } from './field.ts';
import { buildBrows, buildLashes } from './hair.ts';
import { buildSkin } from './head.ts';
import { findLandmarks } from './landmarks.ts';
import { axis, even, finest, polygonise, zone, type Surface } from './nets.ts';
import type { Part } from './outfits.ts';
import { asymmetry, eyeCentre, type Proportions } from './proportions.ts';
import { followNeck, joints, rigid, strongest, type Follow, type Joint, type Motion } from './skeleton.ts';
import { skinColour } from './skin-colour.ts';

/** A surface that hangs on a skeleton: four joints and weights for each vertex. */
export interface Skinned extends Surface {
  joints: Uint8Array;
  weights: Float32Array;
}

/** A generated character: surfaces, joints and landmarks in metres, Y up, facing +Z. */
export interface Character {
  name: string;
  surfaces: Skinned[];
  landmarks: Record<string, Point>;
  joints: Joint[];
  motion: Motion;
}

/** A bust stands with the pupils at this height, metres: those of a man on a low stool. */
const BUST_PUPILS = 1.35;

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

/** Skin, brows, lashes, hair; everything else is worn. */
function headParts({ proportions: p, ...actor }: Actor, q: number): { parts: Part[]; landmarks: Record<string, Point> } {
  const e = eyeCentre(p),
    skin = buildSkin(p, actor.forms);
  const parts: Part[] = [
    { name: 'skin', shape: skin, grid: headGrid(p, q), follow: followNeck, colour: skinColour(p, actor.skin) },
    {
      name: 'brows',
      shape: buildBrows(p, skin, ...actor.brows),
      grid: {
        xs: even(-62, 62, 0.9 * q),
        ys: even(p.browY - 12, p.browY + 14, 0.8 * q),
        zs: even(p.browZ - 34, p.browZ + 8, 0.9 * q),
        epsilon: 0.3,
      },
      follow: rigid('head'),
    },
    {
      name: 'lashes',
      shape: buildLashes(p, actor.lashes),
      grid: { xs: even(-58, 58, 0.5 * q), ys: even(-6, 12, 0.45 * q), zs: even(e[2], e[2] + 20, 0.5 * q), epsilon: 0.2 },
      follow: rigid('head'),
    },
  ];
  const fine = (actor.hairFine ?? 1.5) * q;
  if (actor.hair)
    parts.push({
      name: 'hair',
      shape: actor.hair(p, skin),
      grid: { xs: even(-100, 100, fine), ys: even(-115, p.crown + 45, fine), zs: even(p.backZ - 45, 100, fine), epsilon: 0.8 },
      follow: rigid('head'),
    });
  return { parts: parts.map((part) => ({ ...part, face: true })), landmarks: findLandmarks(p, skin) };
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
  const { parts, landmarks } = headParts(actor, coarseness);
  const surfaces: Skinned[] = [];
  const keep = (s: Surface, follow: Follow, face: boolean) => {
    const out = skinned(s, follow, number);
    if (face) for (let i = 0; i < out.positions.length; i += 3) asymmetry(p, out.positions, i);
    surfaces.push(out);
  };
  for (const part of [...parts, ...actor.outfit(p, build, coarseness)])
    keep(polygonise(part.shape, part.name, part.grid, part.colour), part.follow, part.face ?? false);
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
  return { name: actor.name, surfaces, landmarks, joints: bones, motion: actor.motion[cut] };
}
