import type { Plate } from '../setup/index.ts';

/** A picture behind everything: linear r g b in rows from the top. */
export interface PlatePicture {
  width: number;
  height: number;
  rgb: Float32Array;
}

/** Colour of a plate at a place of the frame, 0…1 from its left and top, in display units; left in `out`. */
export function plateAt(plate: Plate, aspect: number, x: number, y: number, out: Float64Array, picture?: PlatePicture): void {
  if (plate.kind === 'picture' && picture) {
    // it covers the frame, cut where its shape is another
    const own = picture.width / picture.height,
      u = own > aspect ? (x - 0.5) * (aspect / own) + 0.5 : x,
      v = own > aspect ? y : (y - 0.5) * (own / aspect) + 0.5;
    const i = Math.min(picture.width - 1, Math.max(0, Math.floor(u * picture.width))),
      j = Math.min(picture.height - 1, Math.max(0, Math.floor(v * picture.height)));
    for (let c = 0; c < 3; c++) out[c] = picture.rgb[(j * picture.width + i) * 3 + c]!;
    return;
  }
  const t = plate.kind === 'radial' ? Math.hypot((x - plate.centre[0]) * aspect, y - plate.centre[1]) / plate.reach : y;
  const k = t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t);
  for (let c = 0; c < 3; c++) out[c] = plate.kind === 'none' ? 0 : plate.from[c]! + (plate.to[c]! - plate.from[c]!) * k;
}

/** Lays a plate behind a balanced picture, where `covered` (0…1 by pixel) leaves room. */
export function layPlate(
  linear: Float32Array,
  width: number,
  height: number,
  covered: (pixel: number) => number,
  plate: Plate,
  picture?: PlatePicture,
): void {
  if (plate.kind === 'none') return;
  const out = new Float64Array(3);
  for (let y = 0, p = 0; y < height; y++)
    for (let x = 0; x < width; x++, p++) {
      const open = 1 - covered(p);
      if (!(open > 0)) continue;
      plateAt(plate, width / height, (x + 0.5) / width, (y + 0.5) / height, out, picture);
      for (let c = 0; c < 3; c++) linear[p * 3 + c] = linear[p * 3 + c]! + open * out[c]!;
    }
}
