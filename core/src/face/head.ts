import { add, cross, dot, length, normalize, scale, sub, type Vec3 } from '../math/index.ts';
import { proposeFace } from './profile.ts';
import { sureOfHead } from './sure.ts';
import type { Part } from '../scene/index.ts';
import type { HeadFrame } from '../setup/index.ts';

/** Landmarks that a file may carry in its scene's extras: `{ "landmarks": { "pupilL": [x, y, z], … } }`, metres. */
export function landmarksOf(extras: Record<string, unknown>): Record<string, Vec3> {
  const out: Record<string, Vec3> = {};
  const given = extras['landmarks'];
  if (typeof given !== 'object' || given === null) return out;
  for (const [name, p] of Object.entries(given)) {
    if (Array.isArray(p) && p.length === 3 && p.every((v) => typeof v === 'number' && Number.isFinite(v))) out[name] = [p[0], p[1], p[2]];
  }
  return out;
}

/** The head frame from pupils, crown and chin; nothing when one of them is not given or they fall together. */
export function headFromLandmarks(landmarks: Record<string, Vec3>): HeadFrame | undefined {
  const { pupilL, pupilR, crown, chinBottom } = landmarks;
  if (!pupilL || !pupilR || !crown || !chinBottom) return undefined;
  const left = sub(pupilL, pupilR),
    rise = sub(crown, chinBottom);
  if (length(left) < 1e-4 || length(rise) < 1e-4) return undefined;
  const x = normalize(left);
  // chin and crown are not above each other, so the head's up is what is square to the line of the eyes and, where it is given,
  // along the line from the nose's base to its root, taken as upright, or to between the brows
  const { sellion, browCentre, noseBase } = landmarks;
  const along = !noseBase ? rise : sellion ? sub([0, sellion[1], 0], [0, noseBase[1], 0]) : browCentre ? sub(browCentre, noseBase) : rise;
  const up = normalize(sub(along, scale(x, dot(along, x))));
  return { origin: scale(add(pupilL, pupilR), 0.5), forward: cross(x, up), up, height: Math.abs(dot(rise, up)), source: 'file' };
}

/** Common practice, no source: a standing figure is about seven and a half heads tall, a head about 23 cm. */
const HEADS_TALL = 7.5;
const HEAD_HEIGHT = 0.24;

const isUsable = ({ origin, height }: HeadFrame): boolean => origin.every(Number.isFinite) && Number.isFinite(height) && height > 0;

/**
 * A head for a file without landmarks, to be corrected by hand: from the shape of its face, or else (`found` is false then) no more than
 * where the bounding box would have one. Finite for every mesh whose coordinates are.
 */
export function findHead(parts: Part[], bounds: { min: Vec3; max: Vec3 }): { head: HeadFrame; found: boolean; sure: number } {
  const rough = headOfBox(parts, bounds),
    tall = bounds.max[1] - bounds.min[1];
  let best: { head: HeadFrame; found: boolean; sure: number } | undefined;
  // as tall as it usually is, else as if the file held little more than a head, or more below it than was thought
  for (const height of [rough.height, ...SHARES.map((share) => share * tall)]) {
    const face = proposeFace(parts, { ...rough, height }, bounds.max[1]);
    if (!face || !isUsable(face)) continue;
    const sure = sureOfHead(parts, face);
    if (!best || sure > best.sure) best = { head: face, found: true, sure };
    if (best.sure >= SURE) break;
  }
  return best ?? { head: rough, found: false, sure: sureOfHead(parts, rough) };
}
/** A face of which one is so sure is not sought any further. */
const SURE = 0.6;
/** Heights of a head in heights of what the file holds: alone, with a neck, a bust, a figure. */
const SHARES = [0.95, 0.75, 0.45, 0.25, 0.13];

export const proposeHead = (parts: Part[], bounds: { min: Vec3; max: Vec3 }): HeadFrame => findHead(parts, bounds).head;

/** A head at the top of the bounding box, facing +Z as glTF asks. */
function headOfBox(parts: Part[], bounds: { min: Vec3; max: Vec3 }): HeadFrame {
  const tall = bounds.max[1] - bounds.min[1];
  const wide = Math.max(bounds.max[0] - bounds.min[0], 1e-6);
  const standing = tall / wide > 1.9;
  const height = Math.max(1e-3, standing ? tall / HEADS_TALL : Math.min(tall, Math.max(HEAD_HEIGHT, tall * 0.35)));
  const from = bounds.max[1] - height;
  let x = 0,
    front = -Infinity,
    count = 0;
  for (const part of parts)
    for (let i = 0; i < part.positions.length; i += 3) {
      if (part.positions[i + 1]! < from) continue;
      x += part.positions[i]!;
      front = Math.max(front, part.positions[i + 2]!);
      count++;
    }
  const z = Number.isFinite(front) ? front - height * 0.15 : bounds.max[2];
  return {
    origin: [count ? x / count : 0, bounds.max[1] - height * 0.5, z],
    forward: [0, 0, 1],
    up: [0, 1, 0],
    height,
    source: 'proposed',
  };
}
