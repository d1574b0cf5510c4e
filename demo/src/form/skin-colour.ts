import { smoothStep, type Point } from './field.ts';
import type { Proportions } from './proportions.ts';

/** Colour of a skin, linear, and how much of a beard shows through it. */
export interface SkinTone {
  base: Point;
  /** 0 none … 1 unshaven. */
  stubble: number;
  /** 0 no difference … 1 the keeper's cheeks, nose and lips. */
  flush: number;
}

/** 1 on the lips, 0 off them, with a soft border. */
export function lipAt(p: Proportions): (x: number, y: number, z: number) => number {
  return (x, y, z) => {
    if (z <= p.mouthZ - 22) return 0;
    const ax = Math.abs(x),
      t = Math.min(1, ax / p.mouthWidth);
    const top = p.mouthY + 8.6 * p.upperLip * (1 - t ** 1.6) - Math.max(0, 1.6 - ax * 0.35),
      bottom = p.mouthY - 11.2 * p.lowerLip * (1 - t ** 2.2);
    return smoothStep(-1, 1.6, Math.min(top - y, y - bottom, (p.mouthWidth - ax) * 0.7));
  };
}

/** Skin colour by place: lips darker and redder, cheeks, nose and ears warmer, stubble on the jaw cooler. */
export function skinColour(p: Proportions, { base, stubble, flush }: SkinTone): (x: number, y: number, z: number) => Point {
  const lips = lipAt(p);
  return (x, y, z) => {
    const ax = Math.abs(x),
      lip = lips(x, y, z) * flush;
    const cheek = z > 40 ? Math.exp(-(((ax - 38) / 20) ** 2 + ((y + 32) / 18) ** 2)) * 0.55 : 0;
    const nose = z > 95 ? Math.exp(-((ax / 15) ** 2 + ((y - p.noseBaseY - 8) / 12) ** 2)) * 0.6 : 0;
    const ear = smoothStep(p.cheekboneX + 8, p.cheekboneX + 16, ax) * (y > -45 && y < 30 ? 0.5 : 0);
    const warm = Math.max(cheek, nose, ear) * flush;
    const beard = smoothStep(-48, -62, y) * smoothStep(-160, -120, y) * (1 - lip) * smoothStep(-10, 20, z) * 0.22 * stubble;
    return [
      base[0] * (1 - 0.22 * lip - 0.28 * beard),
      base[1] * (1 - 0.48 * lip - 0.18 * warm - 0.2 * beard),
      base[2] * (1 - 0.4 * lip - 0.2 * warm - 0.08 * beard),
    ];
  };
}
