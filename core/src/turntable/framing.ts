// The safe frame of a turn: from how near, or by how long a lens, nothing of the figure ever leaves it.
import { distance, dot, scale, sub, type Vec3 } from '../math/index.ts';
import { LIMITS, type Patch, type Setup, type Turntable } from '../setup/index.ts';
import { compileCamera, type SceneCamera } from '../scene/index.ts';
import { dollyPatch } from '../staging/index.ts';
import { sweptCircles, type Circle } from './profile.ts';

/** What is kept within the frame, by how far it reaches. */
export interface Swept {
  /** The point that lies farthest along a direction, and how far: −∞ where there is none. */
  farthest(direction: Vec3): Reach;
}
interface Reach {
  reach: number;
  point: Vec3;
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

const NOWHERE: Reach = { reach: -Infinity, point: [0, 0, 0] };

/** Circles that points go round, about a vertical axis. */
const circling = ([ax, az]: readonly [number, number], circles: readonly Circle[]): Swept => ({
  farthest(n) {
    const across = Math.hypot(n[0], n[2]);
    const [ux, uz] = across > 1e-12 ? [n[0] / across, n[2] / across] : [1, 0];
    let found = NOWHERE;
    for (const { y, r } of circles) {
      const reach = n[0] * ax + n[2] * az + n[1] * y + across * r;
      if (reach > found.reach) found = { reach, point: [ax + ux * r, y, az + uz * r] };
    }
    return found;
  },
});

/** Points that stand still, x y z. */
const standing = (points: Float32Array): Swept => ({
  farthest(n) {
    let found = NOWHERE;
    for (let i = 0; i < points.length; i += 3) {
      const reach = n[0] * points[i]! + n[1] * points[i + 1]! + n[2] * points[i + 2]!;
      if (reach > found.reach) found = { reach, point: [points[i]!, points[i + 1]!, points[i + 2]!] };
    }
    return found;
  },
});

/** Where a point stands in the frame, 0…1 from its left and top. */
function inFrame({ origin, forward, right, up, halfHeight, aspect }: SceneCamera, p: Vec3): [number, number] {
  const v = sub(p, origin),
    z = dot(v, forward);
  return [0.5 + dot(v, right) / z / halfHeight / aspect / 2, 0.5 - dot(v, up) / z / halfHeight / 2];
}

/** How near the camera may come on its line to what it looks at, metres from that: −n·f of each plane is its slope, so the bound is exact. */
export function safeDistance(camera: SceneCamera, target: Vec3, swept: Swept, margin: number): number {
  return Math.max(...planes(camera, margin).map(({ normal, slope }) => (swept.farthest(normal).reach - dot(normal, target)) / slope));
}

/** Half the frame's height at distance 1 of the longest lens, from where the camera stands; nothing where it stands within what turns. */
export function safeHalfHeight(camera: SceneCamera, swept: Swept, margin: number): number | undefined {
  const fits = (halfHeight: number): boolean =>
    planes({ ...camera, halfHeight }, margin).every(({ normal }) => swept.farthest(normal).reach <= dot(normal, camera.origin));
  let [low, high] = [1e-4, 100];
  // neither does a lens help within what turns, nor is there one for nothing
  if (!fits(high) || fits(low)) return undefined;
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
      const { point, reach } = swept.farthest(normal);
      const depth = dot(sub(point, camera.origin), camera.forward);
      // in heights of the frame where the point is
      const out = (reach - dot(normal, camera.origin)) / Math.max(1e-6, depth) / camera.halfHeight / 2;
      return { side, point, at: inFrame(camera, point), out };
    })
    .sort((a, b) => b.out - a.out);
}

/** What a turn sweeps as the camera sees it: whole circles where figure and camera turn against each other, else what stands there. */
export const sweptBy = (points: Float32Array, axis: readonly [number, number], { turning }: Turntable): Swept =>
  turning === 'dome' ? standing(points) : circling(axis, sweptCircles(points, axis));

/** The setup with its camera on the same line, as near as the safe frame allows, or with the longest lens that does; nothing where none does. */
export function safeFramePatch(setup: Setup, swept: Swept, margin: number, by: 'distance' | 'lens'): Patch | undefined {
  const camera = compileCamera(setup),
    { position, target, sensor, focal } = setup.camera;
  if (by === 'distance') {
    const safe = safeDistance(camera, target, swept, margin);
    // rounded outwards: a tenth of a millimetre is what a document keeps
    return safe > 0 ? dollyPatch(setup, (safe + 2e-4) / distance(position, target)) : undefined;
  }
  const half = safeHalfHeight(camera, swept, margin);
  const longest = half === undefined ? 0 : Math.min(LIMITS.focal[1], Math.floor((sensor / 2 / half) * 10) / 10);
  if (longest < LIMITS.focal[0]) return undefined;
  return longest === focal ? {} : { camera: { focal: longest } };
}
