// How true readings and placings are, on the demo's three heads: whether rays find the wished pattern where a light was placed (straight and turned
// by 20° to either side), whether a look-up says what rays say, and whether an eye that knows nothing of the face map, looking at a rendered face,
// calls it the same.
import {
  add,
  dot,
  fromHead,
  irradianceAtHead,
  patternName,
  pictureHalf,
  placePattern,
  scale,
  sub,
  type Pattern,
  type SceneCamera,
  type Vec3,
} from '@plinket/core';
import { nameOf, type View } from './eye.ts';
import { chances, heads, type Head } from './heads.ts';
import { report } from './report.ts';

const PATTERNS = ['loop', 'closed triangle', 'split', 'butterfly', 'under', 'rim', 'flat'] as const;
const RIGS = 207;
/** The face is rendered so large, in so many samples, from so many heads away. */
const WIDTH = 96,
  HEIGHT = 120,
  SAMPLES = 24,
  AWAY = 14;
const CLAY = 0.42;

/** The face as a camera straight in front sees it by this key alone, direct light only. */
function rendered({ map, tracer, at, lightAt }: Head, azimuth: number, elevation: number): View {
  const { frame, points } = map.face,
    H = frame.headHeight;
  const centre = fromHead(frame, [0, -0.12 * H, 0]);
  const camera: SceneCamera = {
    key: 'eye',
    origin: add(centre, scale(frame.z, AWAY * H)),
    forward: scale(frame.z, -1),
    // the subject's left is on the picture's right
    right: frame.x,
    up: frame.y,
    halfHeight: 0.62 / AWAY,
    aspect: WIDTH / HEIGHT,
  };
  const light = new Float32Array(WIDTH * HEIGHT),
    skin = new Uint8Array(WIDTH * HEIGHT);
  const full = (CLAY / Math.PI) * irradianceAtHead(frame, lightAt(azimuth, elevation));
  const tile = 48;
  for (let ty = 0; ty < HEIGHT; ty += tile)
    for (let tx = 0; tx < WIDTH; tx += tile) {
      const w = Math.min(tile, WIDTH - tx),
        h = Math.min(tile, HEIGHT - ty);
      const { films, guides } = tracer.trace({
        camera,
        width: WIDTH,
        height: HEIGHT,
        tile: { x: tx, y: ty, width: w, height: h },
        from: 0,
        to: SAMPLES,
        seed: 1,
        bounces: 0,
        lights: [at(azimuth, elevation)],
        guides: true,
      });
      for (let j = 0; j < h; j++)
        for (let i = 0; i < w; i++) {
          const p = j * w + i,
            to = (ty + j) * WIDTH + tx + i;
          // the diffuse layer comes first
          light[to] = films[p * 3 + 1]! / SAMPLES / full;
          skin[to] = guides!.ids[p * 2] === map.skin ? 1 : 0;
        }
    }
  const [wide, tall] = pictureHalf(camera, WIDTH, HEIGHT);
  const pixel = (p: Vec3): [number, number] => {
    const d = sub(fromHead(frame, scale(p, H)), camera.origin),
      z = dot(d, camera.forward);
    return [(dot(d, camera.right) / z / wide + 1) * 0.5 * WIDTH, (1 - dot(d, camera.up) / z / tall) * 0.5 * HEIGHT];
  };
  const { pupilL, pupilR, noseTip, noseBase, mouthCornerL, mouthCornerR } = points;
  const of = { pupilL, pupilR, noseTip, noseBase, mouthCornerL, mouthCornerR };
  const seen = Object.fromEntries(Object.entries(of).map(([name, p]) => [name, pixel(p)])) as View['points'];
  return { width: WIDTH, height: HEIGHT, light, skin, points: seen, head: HEIGHT / (2 * 0.62) };
}

const failed: string[] = [],
  apart = new Map<string, number>();
let asked = 0,
  reached = 0,
  rigs = 0,
  same = 0,
  called = 0;
const chance = chances(1);
const say = (p: Pattern | undefined): string => (p ? patternName(p).toLowerCase() : 'none');
for await (const head of heads([-20, 0, 20])) {
  const { name, turn, map, lightAt, both } = head;
  for (const pattern of PATTERNS)
    for (const from of ['left', 'right'] as const) {
      const placed = placePattern(map, { pattern, from }, lightAt);
      const { exact } = both(placed.azimuth, placed.elevation);
      asked++;
      if (exact === pattern) reached++;
      else
        failed.push(
          `${name} ${turn}° ${say(pattern)} ${from} → ${say(exact)} at ${placed.azimuth}°, ${placed.elevation}°${placed.reached ? '' : ' (said so)'}`,
        );
    }
  for (let k = 0; k < Math.ceil(RIGS / 9); k++) {
    const azimuth = chance() * 260 - 130,
      elevation = chance() * 100 - 35;
    const { looked, exact } = both(azimuth, elevation);
    rigs++;
    if (looked === exact) same++;
    const eye = nameOf(rendered(head, azimuth, elevation));
    if (eye === exact) called++;
    else {
      const what = `${name} ${say(exact)}, by the eye ${say(eye)}`;
      apart.set(what, (apart.get(what) ?? 0) + 1);
    }
  }
}
report('accuracy', { placed: reached / asked, classified: called / rigs, drag_vs_exact: same / rigs }, [
  `${asked} wishes; not shown by rays: ${failed.length ? failed.join('; ') : 'none'}`,
  `${rigs} random keys; an eye that knows no map called ${called} the same; else: ${[...apart]
    .sort((a, b) => b[1] - a[1])
    .map(([what, n]) => `${what} ${n}`)
    .join('; ')}`,
]);
