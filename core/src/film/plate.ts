import type { FilmMath } from '@plinket/kernel';
import type { Plate } from '../setup/index.ts';

/** A picture behind everything: linear r g b in rows from the top. */
export interface PlatePicture {
  width: number;
  height: number;
  rgb: Float32Array;
}

/** Squares of a checker in the frame's height. */
const CHECKS = 20;

/** Colour of a plate at a place of the frame, 0…1 from its left and top, in display units without its stops; left in `out`. */
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
  if (plate.kind === 'checker') {
    const dark = (Math.floor(x * aspect * CHECKS) + Math.floor(y * CHECKS)) % 2 === 1,
      colour = dark ? plate.to : plate.from;
    out[0] = colour[0];
    out[1] = colour[1];
    out[2] = colour[2];
    return;
  }
  const t = plate.kind === 'radial' ? Math.hypot((x - plate.centre[0]) * aspect, y - plate.centre[1]) / plate.reach : y;
  const k = t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t);
  for (let c = 0; c < 3; c++) out[c] = plate.kind === 'none' ? 0 : plate.from[c]! + (plate.to[c]! - plate.from[c]!) * k;
}

/** A plate as a picture of a size, kept until another is asked for. */
export class PlatePlane {
  private key = '';
  private rgb: Float32Array;
  private readonly math: FilmMath;

  constructor(math: FilmMath) {
    this.math = math;
    this.rgb = math.floats(0);
  }

  /** Linear r g b by pixel, stops included. */
  of(plate: Plate, width: number, height: number, picture?: PlatePicture): Float32Array {
    const key = JSON.stringify([plate, width, height, picture ? 1 : 0]);
    if (key === this.key) return this.rgb;
    this.key = key;
    const level = 2 ** (plate.stops ?? 0),
      out = new Float64Array(3);
    if (this.rgb.length !== width * height * 3) {
      this.math.free(this.rgb);
      this.rgb = this.math.floats(width * height * 3);
    }
    for (let y = 0, i = 0; y < height; y++)
      for (let x = 0; x < width; x++, i += 3) {
        plateAt(plate, width / height, (x + 0.5) / width, (y + 0.5) / height, out, picture);
        for (let c = 0; c < 3; c++) this.rgb[i + c] = out[c]! * level;
      }
    return this.rgb;
  }
}
