// Where paths begin.
import { CELL, DENSITY, DEPTH, LABEL, PIXEL, TB, TG, TR, TRAVELLED, at, shifted } from './fields';

/** Mixes two integers into one: murmur3's finaliser over a combination, as core/src/math has it. */
function mix(a: i32, b: i32): i32 {
  let h: u32 = <u32>(a ^ <i32>0x9e3779b9) * 0x85ebca6b ^ <u32>(b + 0x7f4a7c15) * 0xc2b2ae35;
  h ^= h >> 16;
  h *= 0x85ebca6b;
  h ^= h >> 13;
  h *= 0xc2b2ae35;
  return <i32>(h ^ (h >> 16));
}

/**
 * Starts one path for each pixel of a tile, through a pinhole. `camera`: origin, forward, right, up (12 floats), half width and
 * half height at distance 1, width and height of the picture.
 */
export function cameraRays(
  batch: usize,
  stride: usize,
  rays: usize,
  camera: usize,
  mask: usize,
  dim: usize,
  left: i32,
  top: i32,
  columns: i32,
  rows: i32,
  seed: i32,
): void {
  const fx = load<f32>(camera, 12),
    fy = load<f32>(camera, 16),
    fz = load<f32>(camera, 20);
  const kx = (<f32>2 * load<f32>(camera, 48)) / load<f32>(camera, 56),
    ky = (<f32>2 * load<f32>(camera, 52)) / load<f32>(camera, 60);
  let n = 0;
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      const x = left + i,
        y = top + j;
      const h = mix(((y >> 6) << 16) | (x >> 6), seed);
      const cell = (((y + <i32>(<u32>h >> 6)) & 63) << 6) | ((x + h) & 63);
      const sx = (<f32>x + shifted(mask, load<u32>(dim), cell, load<i32>(dim, 8), load<i32>(dim, 12))) * kx - load<f32>(camera, 48),
        sy = load<f32>(camera, 52) - (<f32>y + shifted(mask, load<u32>(dim, 4), cell, load<i32>(dim, 16), load<i32>(dim, 20))) * ky;
      const dx = fx + load<f32>(camera, 24) * sx + load<f32>(camera, 36) * sy,
        dy = fy + load<f32>(camera, 28) * sx + load<f32>(camera, 40) * sy,
        dz = fz + load<f32>(camera, 32) * sx + load<f32>(camera, 44) * sy;
      const l = <f32>1 / sqrt(dx * dx + dy * dy + dz * dz);
      const r = rays + (<usize>n << 5),
        e = <usize>n << 2;
      store<f32>(r, load<f32>(camera));
      store<f32>(r, load<f32>(camera, 4), 4);
      store<f32>(r, load<f32>(camera, 8), 8);
      store<f32>(r, 0, 12);
      store<f32>(r, dx * l, 16);
      store<f32>(r, dy * l, 20);
      store<f32>(r, dz * l, 24);
      store<f32>(r, 1e30, 28);
      store<i32>(at(batch, stride, PIXEL) + e, n);
      store<i32>(at(batch, stride, CELL) + e, cell);
      store<i32>(at(batch, stride, LABEL) + e, 2);
      store<i32>(at(batch, stride, DEPTH) + e, 0);
      store<f32>(at(batch, stride, TR) + e, 1);
      store<f32>(at(batch, stride, TG) + e, 1);
      store<f32>(at(batch, stride, TB) + e, 1);
      store<f32>(at(batch, stride, DENSITY) + e, 0);
      store<f32>(at(batch, stride, TRAVELLED) + e, 0);
      n++;
    }
}
