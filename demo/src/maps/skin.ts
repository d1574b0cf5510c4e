// What skin is like close by: pores, folds, lines of the lips; where it shines; blood, freckles, stubble, scalp.
import { smoothStep, type Brush, type Point } from '../form/field.ts';
import { stroke } from '../form/primitives.ts';
import { eyeCentre, type Proportions } from '../form/proportions.ts';
import { lipAt, type SkinTone } from '../form/skin-colour.ts';
import type { Paint } from './bake.ts';
import { dots, noiseOf } from './noise.ts';

export interface SkinStyle extends SkinTone {
  /** 0 none … 1 many. */
  freckles: number;
  /** Short hair over all of it: 0 none … 1 a pelt. */
  pelt: number;
  /** Colour of the scalp under hair, of the skin's. */
  scalp: Point;
  /** Where hair grows, 0…1. */
  hair: (at: Point, normal: Point) => number;
}

/** Lines that years leave: from the corner of the eye, under it, across the neck. */
function wrinkles(p: Proportions): { brush: Brush; deep: number }[] {
  const e = eyeCentre(p),
    out: { brush: Brush; deep: number }[] = [];
  for (const [rise, long] of [
    [8, 15],
    [3.5, 20],
    [-1.5, 19],
    [-6.5, 14],
  ] as const)
    out.push({
      brush: stroke(
        [
          [e[0] + 15.5, rise * 0.35, e[2] + 1, 1.1],
          [e[0] + 15.5 + long * 0.5, rise * 0.9, e[2] - 7, 1.5],
          [e[0] + 15 + long, rise * 1.8, e[2] - 17, 0.9],
        ],
        5,
      ),
      deep: 0.32,
    });
  for (const down of [12.5, 15.5])
    out.push({
      brush: stroke(
        [
          [e[0] - 10, -down + 2.5, e[2] + 11, 0.9],
          [e[0], -down, e[2] + 13.5, 1.3],
          [e[0] + 11, -down + 3, e[2] + 9, 0.9],
        ],
        5,
      ),
      deep: 0.22,
    });
  return out;
}

const folded = (q: number): number => (q < 0 ? (1 - (1 + q) ** 2) ** 2 : 0);

/** The skin of a head as a painter knows it; places in the frame of proportions.ts. */
export function skinPaint(p: Proportions, style: SkinStyle, seed: number): Paint {
  const noise = noiseOf(seed),
    lips = lipAt(p);
  const lines = p.age > 0.5 ? wrinkles(p) : [];
  const nose = ([x, y, z]: Point) => (z > p.noseZ - 32 ? Math.exp(-((x / 17) ** 2) - ((y - p.noseBaseY - 14) / 22) ** 2) : 0);
  const cheeks = ([x, y, z]: Point) => (z > 30 ? Math.exp(-(((Math.abs(x) - 33) / 20) ** 2) - ((y + 26) / 20) ** 2) : 0);
  const forehead = ([x, y, z]: Point) => (z > 30 ? Math.exp(-((x / 42) ** 2) - ((y - 48) / 26) ** 2) : 0);
  return {
    relief: (at) => {
      const [x, y, z] = at;
      const lip = lips(x, y, z);
      let h = 0.05 * noise(at, 6) + 0.022 * noise(at, 1.5) + 0.014 * noise(at, 0.7);
      const pores = 0.3 + 1.1 * nose(at) + 0.8 * cheeks(at) + 0.35 * forehead(at);
      h -= 0.075 * (1 + 0.5 * p.age) * pores * (1 - lip) * (1 - style.pelt) * dots(at, 1.35, 0.34, 0.85, seed);
      if (lip > 0) h -= 0.13 * lip * Math.max(0, noise([x, y * 0.16, z * 0.3], 1.35));
      const ax = Math.abs(x);
      for (const { brush, deep } of lines) h -= deep * folded(brush.field(ax, y, z) / brush.radius);
      if (style.pelt > 0)
        h += style.pelt * (0.2 * noise([x, y * 0.28, z * 0.28], 1.1) + 0.1 * noise([x, y * 0.3, z * 0.3], 0.6)) * (1 - 0.9 * nose(at));
      return h;
    },
    roughness: (at, n) => {
      const lip = lips(...at),
        grows = style.hair(at, n);
      const shine = Math.max(nose(at), 0.8 * forehead(at), 0.5 * lip);
      const plain = 0.5 - 0.13 * shine + 0.05 * cheeks(at) + 0.05 * noise(at, 2.2) + 0.03 * noise(at, 9) + 0.12 * style.pelt * (1 - shine);
      return plain + (0.62 - plain) * grows;
    },
    tint: (at, n) => {
      const [x, y, z] = at;
      // uneven blood, and what lies in the skin
      const blood = 0.5 + 0.5 * noise(at, 11) * 0.6 + 0.5 * noise(at, 3.2) * 0.25;
      let r = 1 - 0.035 * blood,
        g = 1 - 0.11 * blood,
        b = 1 - 0.12 * blood;
      const spot = (k: number, dark: Point): void => {
        r *= 1 - k * (1 - dark[0]);
        g *= 1 - k * (1 - dark[1]);
        b *= 1 - k * (1 - dark[2]);
      };
      if (style.freckles > 0) {
        const where = Math.min(1, 1.2 * nose(at) + cheeks(at) * (y > -36 ? 1 : 0.4) + 0.2 * forehead(at));
        const many =
          dots(at, 4.2, 0.24, 0.75 * style.freckles * where, seed + 7) + 0.6 * dots(at, 2.6, 0.2, 0.55 * style.freckles * where, seed + 9);
        spot(Math.min(0.75, many), [0.78, 0.6, 0.46]);
      }
      if (p.age > 0.5) spot(0.5 * dots(at, 19, 0.16, 0.2 * (y > 8 ? 1 : 0.3), seed + 11), [0.72, 0.58, 0.46]);
      if (style.stubble > 0) {
        const where =
          smoothStep(p.noseBaseY - 4, p.noseBaseY - 9, y) * smoothStep(-12, 20, z) * (1 - lips(x, y, z)) * smoothStep(-170, -120, y);
        spot(0.55 * style.stubble * where * dots(at, 1.15, 0.26, 0.8, seed + 13), [0.45, 0.43, 0.42]);
      }
      if (style.pelt > 0) {
        const streak = 0.5 + 0.5 * noise([x, y * 0.26, z * 0.26], 1.3);
        spot(0.34 * style.pelt * streak * (1 - nose(at)), [0.5, 0.46, 0.42]);
      }
      // between strands the scalp is seen, darker than skin in the sun
      spot(style.hair(at, n), style.scalp);
      return [r, g, b];
    },
  };
}

/** Skin of hands: fine lines across, redder in places. */
export function handPaint(seed: number): Paint {
  const noise = noiseOf(seed);
  return {
    relief: (at) => {
      const [x, y, z] = at;
      return 0.1 * noise(at, 7) + 0.06 * noise([x, y * 2.4, z], 3.4) + 0.03 * noise(at, 1.3);
    },
    roughness: (at) => 0.52 + 0.06 * noise(at, 5),
    tint: (at) => {
      const blood = 0.5 + 0.35 * noise(at, 14) + 0.2 * noise(at, 4);
      return [1 - 0.03 * blood, 1 - 0.14 * blood, 1 - 0.15 * blood];
    },
  };
}
