import { mix, point, sample2 } from '../math/index.ts';
import type { SceneCamera } from '../scene/index.ts';
import { UNSCATTERED, type Batch } from './batch.ts';

/** A rectangle of pixels in a picture of width × height. */
export interface Tile {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Half width and half height, at distance 1, of a picture that holds the camera's whole frame. */
export function pictureHalf(camera: Pick<SceneCamera, 'halfHeight' | 'aspect'>, width: number, height: number): [number, number] {
  const aspect = width / height;
  const h = aspect >= camera.aspect ? camera.halfHeight : (camera.halfHeight * camera.aspect) / aspect;
  return [h * aspect, h];
}

/** Starts one path for each pixel of a tile: sample number `sample`, box filter one pixel wide. Answers the count. */
export function cameraRays(
  batch: Batch,
  rays: Float32Array,
  camera: SceneCamera,
  width: number,
  height: number,
  tile: Tile,
  sample: number,
  seed: number,
): number {
  const { origin, forward, right, up } = camera;
  const [hw, hh] = pictureHalf(camera, width, height);
  let n = 0;
  for (let j = 0; j < tile.height; j++) {
    for (let i = 0; i < tile.width; i++, n++) {
      const x = tile.x + i,
        y = tile.y + j;
      const key = mix(y * 65536 + x, seed);
      sample2(sample, key);
      const sx = (((x + point[0]!) / width) * 2 - 1) * hw,
        sy = (1 - ((y + point[1]!) / height) * 2) * hh;
      const dx = forward[0] + right[0] * sx + up[0] * sy,
        dy = forward[1] + right[1] * sx + up[1] * sy,
        dz = forward[2] + right[2] * sx + up[2] * sy;
      const l = 1 / Math.sqrt(dx * dx + dy * dy + dz * dz);
      const r = n * 8;
      rays[r] = origin[0];
      rays[r + 1] = origin[1];
      rays[r + 2] = origin[2];
      rays[r + 3] = 0;
      rays[r + 4] = dx * l;
      rays[r + 5] = dy * l;
      rays[r + 6] = dz * l;
      rays[r + 7] = 1e30;
      batch.pixel[n] = n;
      batch.key[n] = key;
      batch.label[n] = UNSCATTERED;
      batch.depth[n] = 0;
      batch.tr[n] = batch.tg[n] = batch.tb[n] = 1;
      batch.density[n] = 0;
    }
  }
  return n;
}
