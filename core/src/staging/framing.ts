// Where the camera stands for a frame, and whether the stage fills it.
import { add, clamp, round, DEGREE, distance, normalize, scale, sub, type Vec3 } from '../math/index.ts';
import { LIMITS, setupHead, type Camera, type Patch, type Setup } from '../setup/index.ts';
import { compileCamera } from '../scene/index.ts';

/** Shot sizes by what they show, in heights of the head: from above the crown down. Common practice, no source. */
export const SHOTS: [string, number][] = [
  ['Close-up', 1.75],
  ['Medium close-up', 2.7],
  ['Half figure', 4.3],
  ['Three-quarter', 6.3],
  ['Full', 8.6],
];
/** Room above the crown, in heights of the head. */
const ABOVE = 0.3;

/** What is sharp stays sharp when the camera moves to or from what it looks at: the focus goes along. */
function focusAlong({ lens, position, target }: Camera, away: number): Patch {
  if (lens.fNumber === 0) return {};
  const focus = lens.focus + away - distance(position, target);
  return { lens: { focus: round(clamp(focus, LIMITS.focus), 3) } };
}

const rounded = (p: Vec3): Vec3 => p.map((v) => round(v, 4)) as Vec3;
const halfHeight = ({ sensor, focal }: Camera): number => sensor / 2 / focal;

/** Frames the head and as much below it as a shot shows, from the side where the camera stands. */
export function shotPatch(setup: Setup, heads: number): Patch {
  const head = setupHead(setup),
    { camera } = setup;
  const tall = heads * head.headHeight;
  // the crown lies half a head above the eyes, nearly
  const top = head.origin[1] + (0.5 + ABOVE) * head.headHeight;
  const target: Vec3 = [head.origin[0], top - tall / 2, head.origin[2]];
  const level = normalize([camera.position[0] - head.origin[0], 0, camera.position[2] - head.origin[2]], head.z);
  const away = tall / 2 / halfHeight(camera);
  const position = rounded(add([target[0], target[1], target[2]], scale(level, away)));
  return { camera: { position, target: rounded(target), ...focusAlong(camera, away) } };
}

/** Another focal length; with `keep` the camera moves so that what it looks at stays as large. */
export function lensPatch(setup: Setup, focal: number, keep: boolean): Patch {
  const { camera } = setup;
  if (!keep) return { camera: { focal } };
  return { camera: { focal, ...nearer(camera, focal / camera.focal) } };
}

/** Swings the camera round what it looks at, degrees to the right and up. */
export function orbitPatch({ camera }: Setup, round_: number, up: number): Patch {
  const d = sub(camera.position, camera.target),
    r = Math.hypot(...d);
  const azimuth = Math.atan2(d[0], d[2]) + round_ * DEGREE,
    elevation = Math.min(1.5, Math.max(-1.5, Math.asin(Math.min(1, Math.max(-1, d[1] / r))) + up * DEGREE));
  const to: Vec3 = [Math.sin(azimuth) * Math.cos(elevation), Math.sin(elevation), Math.cos(azimuth) * Math.cos(elevation)];
  return { camera: { position: rounded(add(camera.target, scale(to, r))) } };
}

/** Moves camera and target aside, in heights of the frame. */
export function panPatch(setup: Setup, right: number, up: number): Patch {
  const { camera } = setup;
  const { right: x, up: y } = compileCamera(setup);
  const k = 2 * halfHeight(camera) * distance(camera.position, camera.target);
  const by = add(scale(x, right * k), scale(y, up * k));
  return { camera: { position: rounded(add(camera.position, by)), target: rounded(add(camera.target, by)) } };
}

/** Brings the camera nearer (below 1) or further. */
export const dollyPatch = ({ camera }: Setup, factor: number): Patch => ({ camera: nearer(camera, factor) });

/** The camera on its line to what it looks at, so many times as far away. */
const nearer = (camera: Camera, factor: number): Patch => ({
  position: rounded(add(camera.target, scale(sub(camera.position, camera.target), factor))),
  ...focusAlong(camera, distance(camera.position, camera.target) * factor),
});

/** Directions through the corners and the middles of the frame's sides. */
function edgeRays(setup: Setup): { origin: Vec3; rays: Vec3[] } {
  const { origin, forward, right, up, halfHeight: h, aspect } = compileCamera(setup);
  const rays = [-1, 0, 1].flatMap((i) =>
    [-1, 0, 1].map((j) => normalize(add(add(forward, scale(right, i * h * aspect)), scale(up, j * h)))),
  );
  return { origin, rays };
}

/** Room beyond the frame, as a share. */
const MARGIN = 1.12;

/**
 * What the stage must measure so that the frame sees nothing past it: width, height and floor in front; undefined when it is large
 * enough, or of a kind without edges to mend.
 */
export function coverPatch(setup: Setup): Patch | undefined {
  const { stage } = setup;
  if (stage.kind === 'none' || stage.kind === 'room') return undefined;
  const { origin, rays } = edgeRays(setup);
  let { width, height, front } = stage;
  for (const d of rays) {
    // where the ray meets the wall's plane, or the floor before it
    const toWall = d[2] < -1e-6 ? (-stage.back - origin[2]) / d[2] : Infinity,
      toFloor = d[1] < -1e-6 ? (stage.floor - origin[1]) / d[1] : Infinity;
    const t = Math.min(toWall, stage.kind === 'flat' ? Infinity : toFloor);
    if (!Number.isFinite(t) || t <= 0) continue;
    const x = Math.abs(origin[0] + d[0] * t),
      y = origin[1] + d[1] * t,
      z = origin[2] + d[2] * t;
    width = Math.max(width, 2 * x);
    if (t === toWall) height = Math.max(height, y - stage.floor);
    else front = Math.max(front, z);
  }
  const out: Patch = {};
  if (width > stage.width) out['width'] = round(Math.min(LIMITS.stageWidth[1], width * MARGIN), 2);
  if (height > stage.height && stage.kind !== 'floor') out['height'] = round(Math.min(LIMITS.stageHeight[1], height * MARGIN), 2);
  if (front > stage.front && stage.kind !== 'flat') out['front'] = round(Math.min(LIMITS.stageFront[1], front * MARGIN), 2);
  return Object.keys(out).length ? { stage: out } : undefined;
}
