// The safe frame of a turn: from how near, or by how long a lens, nothing of the figure ever leaves it.
import { distance, dot, scale, sub, type Vec3 } from '../math/index.ts';
import { LIMITS, type Patch, type Setup, type Turntable } from '../setup/index.ts';
import { compileCamera, type SceneCamera } from '../scene/index.ts';
import { dollyPatch } from '../staging/index.ts';
import { sweptCircles, type Circle } from './profile.ts';

/** What is kept within the frame: circles that points go round, about an axis; of what stands still, points. */
export interface Swept {
  axis: readonly [number, number];
  circles: readonly Circle[];
}

export type FrameSide = 'left' | 'right' | 'top' | 'bottom';

/** A point that touches a side of the safe frame: where in the picture, 0…1 from its left and top, and in the world at some angle of the turn. */
export interface Touch {
  side: FrameSide;
  at: [number, number];
  point: Vec3;
}

/** Half the width and height of what may be filled, at distance 1. */
const room = ({ halfHeight, aspect }: SceneCamera, margin: number): [number, number] => [
  (1 - 2 * margin) * halfHeight * aspect,
  (1 - 2 * margin) * halfHeight,
];

/** Outward normals of the planes through the camera that bound the safe frame: a point p is within when n·(p − c) ≤ 0. */
function planes(camera: SceneCamera, margin: number): { side: FrameSide; normal: Vec3; slope: number }[] {
  const [w, h] = room(camera, margin);
  const { forward: f, right, up } = camera;
  const of = (side: FrameSide, across: Vec3, slope: number) => ({ side, normal: sub(across, scale(f, slope)), slope });
  return [of('left', scale(right, -1), w), of('right', right, w), of('top', up, h), of('bottom', scale(up, -1), h)];
}

/** The point of all circles that lies farthest along a direction, and how far. */
function farthest({ axis: [ax, az], circles }: Swept, n: Vec3): { reach: number; point: Vec3 } {
  const across = Math.hypot(n[0], n[2]);
  const [ux, uz] = across > 1e-12 ? [n[0] / across, n[2] / across] : [1, 0];
  let reach = -Infinity,
    point: Vec3 = [ax, 0, az];
  for (const { y, r } of circles) {
    const far = n[0] * ax + n[2] * az + n[1] * y + across * r;
    if (far <= reach) continue;
    reach = far;
    point = [ax + ux * r, y, az + uz * r];
  }
  return { reach, point };
}

/** Where a point stands in the frame, 0…1 from its left and top. */
function inFrame({ origin, forward, right, up, halfHeight, aspect }: SceneCamera, p: Vec3): [number, number] {
  const v = sub(p, origin),
    z = dot(v, forward);
  return [0.5 + dot(v, right) / z / halfHeight / aspect / 2, 0.5 - dot(v, up) / z / halfHeight / 2];
}

/** How near the camera may come on its line to what it looks at, metres from that: −n·f of each plane is its slope, so the bound is exact. */
export function safeDistance(camera: SceneCamera, target: Vec3, swept: Swept, margin: number): number {
  return Math.max(...planes(camera, margin).map(({ normal, slope }) => (farthest(swept, normal).reach - dot(normal, target)) / slope));
}

/** Half the frame's height at distance 1 of the longest lens, from where the camera stands; nothing where it stands within what turns. */
export function safeHalfHeight(camera: SceneCamera, swept: Swept, margin: number): number | undefined {
  const fits = (halfHeight: number): boolean =>
    planes({ ...camera, halfHeight }, margin).every(({ normal }) => farthest(swept, normal).reach <= dot(normal, camera.origin));
  let [low, high] = [1e-4, 100];
  if (!fits(high)) return undefined;
  for (let i = 0; i < 60; i++) {
    const middle = Math.sqrt(low * high);
    if (fits(middle)) high = middle;
    else low = middle;
  }
  return high;
}

/** What touches the sides of the safe frame, or is nearest to them: the farthest point of each side, the one that reaches out most first. */
export function touchesOf(camera: SceneCamera, swept: Swept, margin: number): (Touch & { out: number })[] {
  return planes(camera, margin)
    .map(({ side, normal }) => {
      const { point, reach } = farthest(swept, normal);
      const depth = dot(sub(point, camera.origin), camera.forward);
      // in heights of the frame where the point is
      const out = (reach - dot(normal, camera.origin)) / Math.max(1e-6, depth) / camera.halfHeight / 2;
      return { side, point, at: inFrame(camera, point), out };
    })
    .sort((a, b) => b.out - a.out);
}

/** What a turn sweeps as the camera sees it: circles where figure and camera turn against each other, else points, as circles of no radius. */
export function sweptBy(points: Float32Array, axis: readonly [number, number], { turning }: Turntable): Swept[] {
  if (turning !== 'dome') return [{ axis, circles: sweptCircles(points, axis) }];
  const still: Swept[] = [];
  for (let i = 0; i < points.length; i += 3) still.push({ axis: [points[i]!, points[i + 2]!], circles: [{ y: points[i + 1]!, r: 0 }] });
  return still;
}

/** Of what may be as many as a figure has points. */
const largest = (values: readonly number[]): number => values.reduce((most, v) => Math.max(most, v), -Infinity);

/** The setup with its camera on the same line, as near as the safe frame allows, or with the longest lens that does; nothing where none does. */
export function safeFramePatch(setup: Setup, swept: readonly Swept[], margin: number, by: 'distance' | 'lens'): Patch | undefined {
  const camera = compileCamera(setup),
    { position, target, sensor, focal } = setup.camera;
  if (!swept.length || swept.every((s) => !s.circles.length)) return undefined;
  if (by === 'distance') {
    const safe = largest(swept.map((s) => safeDistance(camera, target, s, margin)));
    // rounded outwards: a tenth of a millimetre is what a document keeps
    return safe > 0 ? dollyPatch(setup, (safe + 2e-4) / distance(position, target)) : undefined;
  }
  const halves = swept.map((s) => safeHalfHeight(camera, s, margin));
  if (halves.some((h) => h === undefined)) return undefined;
  const longest = sensor / 2 / largest(halves as number[]);
  const rounded = Math.floor(longest * 10) / 10;
  if (rounded < LIMITS.focal[0]) return undefined;
  return rounded === focal ? {} : { camera: { focal: Math.min(LIMITS.focal[1], rounded) } };
}
