import { encodeSrgb, decodeSrgb, lightColour, type Light, type Vec3 } from '@plinket/core';

/** A linear colour as CSS, its brightest channel full. */
export function cssColour(rgb: Vec3): string {
  const top = Math.max(...rgb, 1e-6);
  return `rgb(${rgb.map((v) => Math.round(encodeSrgb(Math.max(0, v) / top) * 255)).join(' ')})`;
}

/** A light's colour as a swatch, gel and all. */
export const swatch = (light: Light): string => cssColour(lightColour(light));

const byte = (v: number): string =>
  Math.round(encodeSrgb(Math.min(1, Math.max(0, v))) * 255)
    .toString(16)
    .padStart(2, '0');
/** A linear colour as the #rrggbb that colour fields know, and back. */
export const toHex = (rgb: Vec3): string => `#${rgb.map(byte).join('')}`;
export const fromHex = (hex: string): Vec3 =>
  [1, 3, 5].map((i) => Number(decodeSrgb(parseInt(hex.slice(i, i + 2), 16) / 255).toFixed(5))) as Vec3;
