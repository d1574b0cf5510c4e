// Lights placed by what is seen of them: a shadow and what casts it, an edge that should glow, a source that stands in the picture.
import { farLight, lookUp, type FaceLight, type FaceMap } from '../face/index.ts';
import { add, cross, dot, length, normalize, scale, sub, type Vec3 } from '../math/index.ts';
import { placeOf, type Frame } from '../setup/index.ts';
import type { Direction } from './mirror.ts';

/** A place where a shadow's edge falls, and the place of the edge that casts it. */
export interface ShadowPair {
  falls: Vec3;
  casts: Vec3;
}

export interface ShadowPlaced extends Direction {
  /** Metres from the head; only where two pairs tell it. */
  distance?: number;
  /** How far the two lines pass each other, metres. */
  miss?: number;
}

/**
 * Where the light of a shadow stands: from where it falls through what casts it. One pair says a direction, for a light at `distance`; two say a
 * place, the middle of the shortest way between both lines. Nothing where a pair falls together, where the lines are parallel or meet behind what
 * casts them.
 */
export function placeShadow(head: Frame, pairs: readonly ShadowPair[], distance: number): ShadowPlaced | undefined {
  const lines = pairs.map(({ falls, casts }) => ({ from: casts, along: sub(casts, falls) }));
  if (!lines.length || lines.some(({ along }) => length(along) < 1e-4)) return undefined;
  const [a, b] = lines.map(({ from, along }) => ({ from, along: normalize(along) }));
  if (!b) {
    // far from head and shadow alike: the direction is what counts
    const { azimuth, elevation } = placeOf(head, add(head.origin, scale(a!.along, distance)));
    return { azimuth, elevation };
  }
  const n = cross(a!.along, b.along),
    nn = dot(n, n);
  if (nn < 1e-8) return undefined;
  const between = sub(b.from, a!.from);
  const s = dot(cross(between, b.along), n) / nn,
    t = dot(cross(between, a!.along), n) / nn;
  if (s <= 0 || t <= 0) return undefined;
  const p = add(a!.from, scale(a!.along, s)),
    q = add(b.from, scale(b.along, t));
  const found = placeOf(head, scale(add(p, q), 0.5));
  return { ...found, miss: length(sub(p, q)) };
}

/** Part of the face's front that a rim may light, and degrees behind the silhouette that are tried. Common practice, no source. */
const SPILL = 0.12;
const BEHIND = [20, 25, 30, 35, 40, 45, 50, 55, 60];

export interface RimPlaced extends Direction {
  /** Mean cosine of the light on the edge, and share of the face's front that it lights. */
  edge: number;
  spill: number;
}

/**
 * A light that makes an edge of the silhouette glow: from the side to which the edge's normals point in the picture, so far behind the figure that it
 * gives the edge most and the front of the face least.
 * @param normals of the surface along the edge, in the world
 */
export function placeRim(map: FaceMap, normals: readonly Vec3[], forward: Vec3): RimPlaced | undefined {
  const { frame } = map.face;
  const flat = normals.map((n) => sub(n, scale(forward, dot(n, forward)))).reduce((sum, n) => add(sum, n), [0, 0, 0] as Vec3);
  if (length(flat) < 1e-3 * Math.max(1, normals.length)) return undefined;
  const out = normalize(flat);
  let best: (RimPlaced & { worth: number }) | undefined;
  for (const behind of BEHIND) {
    const a = (behind * Math.PI) / 180;
    const along = add(scale(out, Math.cos(a)), scale(forward, Math.sin(a)));
    const edge = normals.reduce((sum, n) => sum + Math.max(0, dot(n, along)), 0) / normals.length,
      spill = spillOf(map, along);
    const worth = edge - 4 * Math.max(0, spill - SPILL) - 0.5 * spill;
    if (best && worth <= best.worth) continue;
    const { azimuth, elevation } = placeOf(frame, add(frame.origin, along));
    best = { azimuth, elevation, edge, spill, worth };
  }
  const { worth: _, ...placed } = best!;
  return placed;
}

/** Share of the front's area that a far light reaches. */
function spillOf(map: FaceMap, along: Vec3): number {
  const { lit } = lookUp(map, farLight('', along));
  let reached = 0,
    all = 0;
  for (let c = 0; c < lit.length; c++) {
    if (!map.front[c]) continue;
    all += map.area[c]!;
    if (lit[c]! > 0.1) reached += map.area[c]!;
  }
  return all > 0 ? reached / all : 0;
}

/** Irradiance at the head, lx for luminance 1, of a light on a surface that faces it. */
export function irradianceAtHead({ origin }: Frame, light: FaceLight, side = 16): number {
  let sum = 0;
  for (let k = 0; k < side * side; k++)
    if (light.sample(origin[0], origin[1], origin[2], ((k % side) + 0.5) / side, (Math.floor(k / side) + 0.5) / side))
      sum += light.ray.weight;
  return sum / (side * side);
}

/** The other light of a pair about the head: to the other side, or from below as from above. */
export const mirroredPlace = ({ azimuth, elevation }: Direction, across: 'sides' | 'heights'): Direction =>
  across === 'sides' ? { azimuth: -azimuth, elevation } : { azimuth, elevation: -elevation };
