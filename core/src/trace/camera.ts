import type { Shader } from '@plinket/kernel';
import { cosTurn, dimension, maskCell, maskWords, mix, openDimension, shiftedA, shiftedB, sinTurn } from '../math/index.ts';
import type { SceneCamera } from '../scene/index.ts';
import { UNSCATTERED, type Batch } from './batch.ts';
import { CAMERA, LENS } from './dimensions.ts';

/** A rectangle of pixels in a picture of width × height. */
export interface Tile {
  x: number;
  y: number;
  width: number;
  height: number;
}

const film = dimension(),
  lens = dimension();

/** Half width and half height, at distance 1, of a picture that holds the camera's whole frame. */
export function pictureHalf(camera: Pick<SceneCamera, 'halfHeight' | 'aspect'>, width: number, height: number): [number, number] {
  const aspect = width / height;
  const h = aspect >= camera.aspect ? camera.halfHeight : (camera.halfHeight * camera.aspect) / aspect;
  return [h * aspect, h];
}

/**
 * Starts one path for each pixel of a tile: sample number `sample`, box filter one pixel wide, through a thin lens where
 * the camera has one. Answers the count. The kernel's shader does it for a pinhole.
 */
export function cameraRays(
  batch: Batch,
  rays: Float32Array,
  camera: SceneCamera,
  width: number,
  height: number,
  tile: Tile,
  sample: number,
  seed: number,
  shader?: Shader,
): number {
  const { origin, forward, right, up } = camera;
  const [hw, hh] = pictureHalf(camera, width, height);
  openDimension(film, sample, mix(CAMERA, seed));
  if (shader && !camera.lens) return shader.cameraRays([...origin, ...forward, ...right, ...up, hw, hh, width, height], tile, film, seed);
  const mask = maskWords();
  if (camera.lens) openDimension(lens, sample, mix(LENS, seed));
  let n = 0;
  for (let j = 0; j < tile.height; j++) {
    for (let i = 0; i < tile.width; i++, n++) {
      const x = tile.x + i,
        y = tile.y + j;
      const cell = maskCell(x, y, seed);
      const sx = (((x + shiftedA(film, mask, cell)) / width) * 2 - 1) * hw,
        sy = (1 - ((y + shiftedB(film, mask, cell)) / height) * 2) * hh;
      let dx = forward[0] + right[0] * sx + up[0] * sy,
        dy = forward[1] + right[1] * sx + up[1] * sy,
        dz = forward[2] + right[2] * sx + up[2] * sy;
      let ox = origin[0],
        oy = origin[1],
        oz = origin[2];
      if (camera.lens) {
        // from a point of the lens to where the centre's ray meets the plane in focus
        const r = camera.lens.radius * Math.sqrt(shiftedA(lens, mask, cell)),
          turn = shiftedB(lens, mask, cell),
          a = r * cosTurn(turn),
          b = r * sinTurn(turn),
          f = camera.lens.focus;
        const lx = right[0] * a + up[0] * b,
          ly = right[1] * a + up[1] * b,
          lz = right[2] * a + up[2] * b;
        ox += lx;
        oy += ly;
        oz += lz;
        dx = dx * f - lx;
        dy = dy * f - ly;
        dz = dz * f - lz;
      }
      const l = 1 / Math.sqrt(dx * dx + dy * dy + dz * dz);
      const r = n * 8;
      rays[r] = ox;
      rays[r + 1] = oy;
      rays[r + 2] = oz;
      rays[r + 3] = 0;
      rays[r + 4] = dx * l;
      rays[r + 5] = dy * l;
      rays[r + 6] = dz * l;
      rays[r + 7] = 1e30;
      batch.fields.pixel[n] = n;
      batch.fields.cell[n] = cell;
      batch.fields.label[n] = UNSCATTERED;
      batch.fields.depth[n] = 0;
      batch.fields.tr[n] = batch.fields.tg[n] = batch.fields.tb[n] = 1;
      batch.fields.density[n] = 0;
      batch.fields.travelled[n] = 0;
    }
  }
  return n;
}
