import { Developer, type Film, type Gain, type Look } from '@plinket/core';
import type { FilmMath } from '@plinket/engine';
import type { Thumb } from './messages.ts';

/** Points of a film that one pixel of a small picture looks at, in each direction. */
const POINTS = 2;

/** Small pictures of single films, taken from the band that holds the head. */
export class ThumbMaker {
  private readonly math: FilmMath;
  private readonly developer: Developer;
  private linear: Float32Array | undefined;
  private rgba: Uint8ClampedArray<ArrayBufferLike> | undefined;

  constructor(math: FilmMath) {
    this.math = math;
    this.developer = new Developer(math);
  }

  make(id: string, films: { film: Film; coarse?: Film }, gain: Gain, look: Look, [w, h]: [number, number]): Thumb {
    if (this.linear?.length !== w * h * 3) {
      if (this.linear) this.math.free(this.linear);
      if (this.rgba) this.math.free(this.rgba);
      this.linear = this.math.floats(w * h * 3);
      this.rgba = this.math.bytes(w * h * 4);
    }
    const out = this.linear;
    const film = films.coarse && films.film.missing > 0 ? films.coarse : films.film;
    const { width, height } = film,
      diffuse = film.smooth?.diffuse ?? film.diffuse,
      specular = film.smooth?.specular ?? film.specular;
    // the band in the card's shape, where the face is
    const band = Math.min(height, (width * h) / w),
      top = (height - band) * 0.38;
    for (let y = 0, o = 0; y < h; y++)
      for (let x = 0; x < w; x++, o += 3) {
        out[o] = out[o + 1] = out[o + 2] = 0;
        for (let k = 0; k < POINTS * POINTS; k++) {
          const i = Math.min(width - 1, Math.floor(((x + ((k % POINTS) + 0.5) / POINTS) / w) * width)),
            j = Math.min(height - 1, Math.floor(top + ((y + (Math.floor(k / POINTS) + 0.5) / POINTS) / h) * band));
          const p = (j * width + i) * 3;
          for (let c = 0; c < 3; c++)
            out[o + c] = out[o + c]! + (diffuse[p + c]! * gain.diffuse[c]! + specular[p + c]! * gain.specular[c]!) / (POINTS * POINTS);
        }
      }
    this.developer.develop(out, w, { ...look, view: look.view === 'lut' ? 'plain' : look.view }, this.rgba!);
    return { id, width: w, height: h, rgba: new Uint8Array(this.rgba!).buffer as ArrayBuffer };
  }
}
