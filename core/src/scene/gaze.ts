import { add, cross, DEGREE, dot, length, normalize, scale, sub, turnY, type Vec3 } from '../math/index.ts';
import { axesOf, type Subject } from '../setup/index.ts';
import type { Part } from './asset.ts';

/** Common practice, no source: beyond about 35° off straight ahead people turn the head, not the eyes. */
export const MOST_TURN = 35;

const EYE = /(^|[^a-z])(eyes?|eyeballs?|iris(es)?|pupils?|corneas?|scleras?)([^a-z]|$)/i,
  NOT_EYE = /brow|lash|lid|socket|shadow|glass|patch|light/i;

/** The names among a character's parts that are eyes, as far as names tell. */
export const eyeParts = (names: readonly string[]): string[] => [...new Set(names)].filter((n) => EYE.test(n) && !NOT_EYE.test(n));

/** Vertices of one part that belong to one eye. */
interface Share {
  part: Part;
  vertices: number[];
  middle: Vec3;
  /** Half of its largest extent. */
  radius: number;
}

/** An eye: its ball turns about the centre and looks where the iris is. */
export interface Eye {
  centre: Vec3;
  looks: Vec3;
  shares: Share[];
}

function shareOf(part: Part, vertices: number[]): Share {
  const low: Vec3 = [Infinity, Infinity, Infinity],
    high: Vec3 = [-Infinity, -Infinity, -Infinity];
  for (const v of vertices)
    for (let k = 0; k < 3; k++) {
      const c = part.positions[v * 3 + k]!;
      low[k] = Math.min(low[k]!, c);
      high[k] = Math.max(high[k]!, c);
    }
  return { part, vertices, middle: scale(add(low, high), 0.5), radius: Math.max(...sub(high, low)) / 2 };
}

/** The centre of the ball that comes nearest to a part's vertices: |p|² = 2 c·p + k solved by least squares. */
function ballCentre({ part, vertices, middle }: Share): Vec3 {
  // sums of a symmetric 4 × 4 system, from the middle for precision
  const a = Array.from({ length: 4 }, () => [0, 0, 0, 0, 0]);
  for (const v of vertices) {
    const p = sub([part.positions[v * 3]!, part.positions[v * 3 + 1]!, part.positions[v * 3 + 2]!], middle);
    const row = [2 * p[0], 2 * p[1], 2 * p[2], 1, dot(p, p)];
    for (let i = 0; i < 4; i++) for (let j = 0; j < 5; j++) a[i]![j]! += row[i]! * row[j]!;
  }
  for (let i = 0; i < 4; i++) {
    const pivot = a[i]![i]!;
    // flat, or a point: no ball
    if (Math.abs(pivot) < 1e-18) return middle;
    for (let r = 0; r < 4; r++) {
      if (r === i) continue;
      const f = a[r]![i]! / pivot;
      for (let j = i; j < 5; j++) a[r]![j]! -= f * a[i]![j]!;
    }
  }
  return add(middle, [0, 1, 2].map((i) => a[i]![4]! / a[i]![i]!) as Vec3);
}

/** How much wider than tall a part is that holds both eyes. */
const BOTH = 1.6;

/**
 * The eyes that named parts are: what lies within each other's balls is one eye, and a part that holds both is parted at the head's middle. It turns about the middle of its largest part's ball; it looks at the middle of its foremost other part, or ahead.
 * @param x,ahead where the head's left is and where its nose points, in the parts' space
 */
export function eyesOf(parts: readonly Part[], middle: Vec3, x: Vec3, ahead: Vec3): Eye[] {
  const shares = parts.flatMap((part) => {
    const all = Array.from({ length: part.positions.length / 3 }, (_, v) => v);
    const aside = (v: number): number =>
      dot(sub([part.positions[v * 3]!, part.positions[v * 3 + 1]!, part.positions[v * 3 + 2]!], middle), x);
    const sides = [all.filter((v) => aside(v) > 0), all.filter((v) => aside(v) <= 0)].filter((s) => s.length > 0);
    if (sides.length < 2) return [shareOf(part, all)];
    const halves = sides.map((s) => shareOf(part, s));
    const whole = shareOf(part, all);
    return whole.radius > BOTH * Math.max(...halves.map((h) => h.radius)) ? halves : [whole];
  });
  const eyes: Share[][] = [];
  for (const share of [...shares].sort((a, b) => b.radius - a.radius)) {
    const eye = eyes.find(([ball]) => length(sub(ball!.middle, share.middle)) < ball!.radius * 1.2);
    if (eye) eye.push(share);
    else eyes.push([share]);
  }
  return eyes.map((eye) => {
    const ball = eye[0]!,
      { radius } = ball,
      fitted = ballCentre(ball);
    // a fit that leaves the part is none
    const centre = length(sub(fitted, ball.middle)) < radius ? fitted : ball.middle;
    const out = eye.slice(1).map((s) => sub(s.middle, centre));
    const front = out.sort((a, b) => length(b) - length(a))[0];
    return { centre, looks: front && length(front) > 0.3 * radius ? normalize(front) : ahead, shares: eye };
  });
}

/** Turns v about a unit axis (O. Rodrigues' formula, 1840). */
function turned(v: Vec3, axis: Vec3, angle: number): Vec3 {
  const c = Math.cos(angle),
    s = Math.sin(angle);
  return add(add(scale(v, c), scale(cross(axis, v), s)), scale(axis, dot(axis, v) * (1 - c)));
}

/** Parts of a subject as they stand at its pose, with the eyes that it names turned to look at its gaze's target. Others are as they were. */
export function withGaze(parts: Part[], subject: Pick<Subject, 'gaze' | 'head' | 'pose' | 'position' | 'turn' | 'scale'>): Part[] {
  const { gaze } = subject;
  if (!gaze) return parts;
  const named = new Set(gaze.parts);
  const head = subject.pose?.head ?? subject.head;
  const [x, , ahead] = axesOf(head);
  const target = scale(turnY(sub(gaze.target, subject.position), -subject.turn * DEGREE), 1 / subject.scale);
  // what is turned is not the asset's own
  const out = parts.map((p) => (named.has(p.name) ? { ...p, positions: p.positions.slice(), normals: p.normals.slice() } : p));
  for (const eye of eyesOf(
    out.filter((p) => named.has(p.name)),
    head.origin,
    x,
    ahead,
  )) {
    const wanted = normalize(sub(target, eye.centre));
    const axis = cross(eye.looks, wanted);
    if (length(axis) < 1e-9) continue;
    const angle = Math.min(Math.acos(Math.max(-1, Math.min(1, dot(eye.looks, wanted)))), MOST_TURN * DEGREE);
    const about = normalize(axis);
    for (const { part, vertices } of eye.shares)
      for (const v of vertices)
        for (const [array, from] of [
          [part.positions, eye.centre],
          [part.normals, [0, 0, 0]],
        ] as [Float32Array, Vec3][])
          array.set(add(turned(sub([array[v * 3]!, array[v * 3 + 1]!, array[v * 3 + 2]!], from), about, angle), from), v * 3);
  }
  return out;
}
