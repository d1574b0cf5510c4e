// A face of grey clay as a camera straight in front sees it, with its landmarks as points of the picture.
import { add, dot, fromHead, irradianceAtHead, pictureHalf, scale, sub, type SceneCamera, type Vec3 } from '@plinket/core';
import type { View } from './eye.ts';
import type { Head } from './heads.ts';

/** The face is rendered so large, in so many samples, from so many heads away. */
const WIDTH = 96,
  HEIGHT = 120,
  SAMPLES = 24,
  AWAY = 14;
const CLAY = 0.42;

/** The face as a camera straight in front sees it by this key alone, direct light only. */
export function rendered({ map, tracer, at, lightAt }: Head, azimuth: number, elevation: number): View {
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
    open = new Float32Array(WIDTH * HEIGHT),
    skin = new Uint8Array(WIDTH * HEIGHT);
  const key = at(azimuth, elevation),
    lights = [key, { ...key, id: 'open', bent: { cast: false, stays: [1, 1, 1] as Vec3, mirror: true } }];
  const full = (CLAY / Math.PI) * irradianceAtHead(frame, lightAt(azimuth, elevation));
  const tile = 48;
  for (let ty = 0; ty < HEIGHT; ty += tile)
    for (let tx = 0; tx < WIDTH; tx += tile) {
      const w = Math.min(tile, WIDTH - tx),
        h = Math.min(tile, HEIGHT - ty);
      const { films, guides, layers } = tracer.trace({
        camera,
        width: WIDTH,
        height: HEIGHT,
        tile: { x: tx, y: ty, width: w, height: h },
        from: 0,
        to: SAMPLES,
        seed: 1,
        bounces: 0,
        lights,
        guides: true,
      });
      for (let j = 0; j < h; j++)
        for (let i = 0; i < w; i++) {
          const p = j * w + i,
            to = (ty + j) * WIDTH + tx + i;
          // the diffuse layer comes first
          light[to] = films[p * 3 + 1]! / SAMPLES / full;
          open[to] = films[(layers.length * w * h + p) * 3 + 1]! / SAMPLES / full;
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
  return { width: WIDTH, height: HEIGHT, light, open, skin, points: seen, head: HEIGHT / (2 * 0.62) };
}
