// A face of grey clay as a camera straight in front sees it, with its landmarks, and what stands in the light's way of each pixel.
import { add, dot, fromHead, GUIDE_CHANNELS, normalize, scale, tilesOf, toHead, type SceneCamera, type Vec3 } from '@plinket/core';
import type { Portrait, View } from './eye.ts';
import type { Head } from './heads.ts';

/** The face is rendered so large, in so many samples, from so many heads away. */
const WIDTH = 120,
  HEIGHT = 150,
  SAMPLES = 16,
  AWAY = 14,
  HALF = 0.62;
/** What lies further away, in heights of the head, is not the face's own; rays to the light start so far off the skin, metres. */
const REACH = 2.2,
  OFF = 2e-4;

const tiles = tilesOf(WIDTH, HEIGHT);

function cameraOf({ map }: Head): SceneCamera {
  const { frame } = map.face,
    H = frame.headHeight;
  return {
    key: 'eye',
    origin: add(fromHead(frame, [0, -0.12 * H, 0]), scale(frame.z, AWAY * H)),
    forward: scale(frame.z, -1),
    // the subject's left is on the picture's right
    right: frame.x,
    up: frame.y,
    halfHeight: HALF / AWAY,
    aspect: WIDTH / HEIGHT,
  };
}

const job = (head: Head, tile: (typeof tiles)[number], lights: Head['scene']['lights']) => ({
  camera: cameraOf(head),
  width: WIDTH,
  height: HEIGHT,
  tile,
  from: 0,
  to: SAMPLES,
  seed: 1,
  bounces: 0,
  lights,
  guides: true,
});

const three = (of: ArrayLike<number>, at: number): Vec3 => [of[at]!, of[at + 1]!, of[at + 2]!];

/** What the camera sees whatever the light. */
export function portrait(head: Head): Portrait {
  const { map, tracer } = head,
    { frame, points } = map.face,
    H = frame.headHeight,
    count = WIDTH * HEIGHT;
  const out: Portrait = {
    width: WIDTH,
    height: HEIGHT,
    skin: new Uint8Array(count),
    at: new Float32Array(count * 3),
    normal: new Float32Array(count * 3),
    area: new Float32Array(count),
    points,
    metres: H,
  };
  const pixel = (2 * HALF) / HEIGHT;
  for (const tile of tiles) {
    const { guides } = tracer.trace(job(head, tile, [head.at(0, 0)]));
    for (let p = 0; p < tile.width * tile.height; p++) {
      const to = (tile.y + Math.floor(p / tile.width)) * WIDTH + tile.x + (p % tile.width),
        g = p * GUIDE_CHANNELS,
        met = guides!.sums[g]!;
      if (met === 0 || guides!.ids[p * 2] !== map.skin) continue;
      const normal = normalize(three(guides!.sums, g + 1));
      out.skin[to] = 1;
      out.at.set(scale(toHead(frame, scale(three(guides!.sums, g + 4), 1 / met)), 1 / H), to * 3);
      out.normal.set(normal, to * 3);
      // a pixel shows more skin where the skin turns away
      out.area[to] = pixel ** 2 / Math.max(0.04, dot(normal, frame.z));
    }
  }
  return out;
}

/** The face by this key alone, direct light only. */
export async function rendered(head: Head, face: Portrait, azimuth: number, elevation: number): Promise<View> {
  const { map, tracer, eyes, at, lightAt } = head,
    { frame, points } = map.face,
    H = frame.headHeight,
    count = WIDTH * HEIGHT;
  const light = new Float32Array(count),
    open = new Float32Array(count),
    way = new Float32Array(count * 3).fill(NaN);
  const key = at(azimuth, elevation),
    lights = [key, { ...key, id: 'open', bent: { cast: false, stays: [1, 1, 1] as Vec3, mirror: true } }];
  const of = lightAt(azimuth, elevation);
  for (const tile of tiles) {
    const { films, layers } = tracer.trace(job(head, tile, lights));
    const many = tile.width * tile.height;
    for (let p = 0; p < many; p++) {
      const to = (tile.y + Math.floor(p / tile.width)) * WIDTH + tile.x + (p % tile.width);
      // the diffuse layer comes first
      light[to] = films[p * 3 + 1]! / SAMPLES;
      open[to] = films[(layers.length * many + p) * 3 + 1]! / SAMPLES;
    }
  }
  // what is met first on the way to the middle of the light
  const middle = (p: Vec3): Vec3 => (of.sample(...p, 0.5, 0.5) ? normalize([of.ray.x, of.ray.y, of.ray.z]) : [0, 0, 0]);
  const dark: number[] = [],
    rays: number[] = [];
  for (let p = 0; p < count; p++) {
    if (!face.skin[p] || light[p]! > 0.7 * open[p]!) continue;
    const from = add(fromHead(frame, scale(three(face.at, p * 3), H)), scale(three(face.normal, p * 3), OFF));
    dark.push(p);
    rays.push(...from, 0, ...middle(from), REACH * H);
  }
  const hits = await eyes.cast(Float32Array.from(rays)),
    ids = new Int32Array(hits.buffer, hits.byteOffset, hits.length);
  dark.forEach((p, i) => {
    if (ids[i * 4 + 3]! < 0) return;
    const met = add(three(rays, i * 8), scale(three(rays, i * 8 + 4), hits[i * 4]!));
    way.set(scale(toHead(frame, met), 1 / H), p * 3);
  });
  const between = fromHead(frame, scale(add(points.noseBase, scale(add(points.pupilL, points.pupilR), 0.5)), 0.5 * H)),
    towards = middle(between);
  return { face, light, open, way, towards: [dot(towards, frame.x), dot(towards, frame.y), dot(towards, frame.z)] };
}
