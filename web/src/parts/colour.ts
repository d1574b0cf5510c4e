import { encodeSrgb, kelvinToLinear } from '@plinket/core';

/** A colour temperature as a swatch, its brightest channel full. */
export function swatch(kelvin: number): string {
  const rgb = kelvinToLinear(kelvin);
  const top = Math.max(...rgb);
  return `rgb(${rgb.map((v) => Math.round(encodeSrgb(v / top) * 255)).join(' ')})`;
}
