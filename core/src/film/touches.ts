import { mix } from '../math/index.ts';
import type { Look } from '../setup/index.ts';

/** Whether a look has any of the last touches. */
export const hasTouches = (look: Look): boolean => look.glare > 0 || look.fringe > 0 || look.vignette > 0 || look.grain > 0;

/** Last touches of a lens and of film, in place on linear r g b: glare, colour fringe, vignette, grain. All off at 0. */
export function applyTouches(linear: Float32Array, width: number, height: number, look: Look): void {
  if (look.glare > 0) glare(linear, width, height, look.glare);
  if (look.fringe > 0) fringe(linear, width, height, look.fringe);
  if (look.vignette > 0 || look.grain > 0) darkenAndGrain(linear, width, height, look);
}

/** Box blur along one axis by running sums; three of them come close to a Gaussian. */
function blur(src: Float32Array, out: Float32Array, width: number, height: number, radius: number, across: boolean): void {
  const lines = across ? height : width,
    length = across ? width : height,
    step = across ? 3 : width * 3,
    jump = across ? width * 3 : 3;
  const k = 1 / (2 * radius + 1);
  for (let line = 0; line < lines; line++)
    for (let c = 0; c < 3; c++) {
      const base = line * jump + c;
      const at = (i: number) => src[base + Math.min(length - 1, Math.max(0, i)) * step]!;
      let sum = 0;
      for (let i = -radius; i <= radius; i++) sum += at(i);
      for (let i = 0; i < length; i++) {
        out[base + i * step] = sum * k;
        sum += at(i + radius + 1) - at(i - radius);
      }
    }
}

/** Light that strays in the lens: a part of it is spread narrowly and widely; the sum stays the same. */
function glare(linear: Float32Array, width: number, height: number, amount: number): void {
  const spread = linear.slice(),
    scratch = new Float32Array(linear.length);
  const out = linear.map((v) => v * (1 - 0.12 * amount));
  for (const [share, radius] of [
    [0.07, 0.012],
    [0.05, 0.06],
  ] as const) {
    const r = Math.max(1, Math.round(radius * height));
    for (let pass = 0; pass < 2; pass++) {
      blur(spread, scratch, width, height, r, true);
      blur(scratch, spread, width, height, r, false);
    }
    for (let i = 0; i < out.length; i++) out[i] = out[i]! + spread[i]! * share * amount;
  }
  linear.set(out);
}

/** Lateral colour: red is drawn a little larger, blue a little smaller, about the middle. */
function fringe(linear: Float32Array, width: number, height: number, amount: number): void {
  const src = linear.slice();
  for (const [channel, scale] of [
    [0, 1 - 0.004 * amount],
    [2, 1 + 0.004 * amount],
  ] as const)
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const fx = Math.min(width - 1.001, Math.max(0, (x - width / 2) * scale + width / 2)),
          fy = Math.min(height - 1.001, Math.max(0, (y - height / 2) * scale + height / 2));
        const i = Math.floor(fx),
          j = Math.floor(fy),
          u = fx - i,
          v = fy - j,
          a = (j * width + i) * 3 + channel,
          down = j + 1 < height ? width * 3 : 0,
          right = i + 1 < width ? 3 : 0;
        linear[(y * width + x) * 3 + channel] =
          (src[a]! * (1 - u) + src[a + right]! * u) * (1 - v) + (src[a + down]! * (1 - u) + src[a + down + right]! * u) * v;
      }
}

/** The corners lose light as cos⁴ of a widening angle does; grain is a fixed scatter in stops, finer than the eye. */
function darkenAndGrain(linear: Float32Array, width: number, height: number, { vignette, grain }: Look): void {
  const reach = (width * width + height * height) / 4;
  for (let y = 0, o = 0; y < height; y++)
    for (let x = 0; x < width; x++, o += 3) {
      const r2 = ((x + 0.5 - width / 2) ** 2 + (y + 0.5 - height / 2) ** 2) / reach;
      let k = 1 / (1 + vignette * 0.55 * r2) ** 2;
      if (grain > 0) {
        const h = mix(x + (y << 16), 0x6a1f);
        // two uniform numbers summed: a triangle of mean 0
        k *= 2 ** (((h & 0xffff) / 65536 + (h >>> 16) / 65536 - 1) * 0.45 * grain);
      }
      linear[o] = linear[o]! * k;
      linear[o + 1] = linear[o + 1]! * k;
      linear[o + 2] = linear[o + 2]! * k;
    }
}
