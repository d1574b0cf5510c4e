import type { Knot, Point, Shape } from '../form/field.ts';
import { tube } from '../form/primitives.ts';
import { eyeCentre, lidCurves, type Proportions } from '../form/proportions.ts';
import { unit, type Growth, type Root } from './growth.ts';

/** A brow's middle line in the front view, with its half width. */
function browLine(p: Proportions, thick: number, arch: number): Knot[] {
  const y = p.browY,
    wide = p.cheekboneX / 62;
  return [
    [9.5, y - 2.6, 0, 2.9 * thick],
    [19 * wide, y + arch, 0, 4 * thick],
    [33 * wide, y + 2.5 + 2 * arch, 0, 3.1 * thick],
    [44 * wide, y + 0.5 + arch, 0, 1.9 * thick],
    [52 * wide, y - 5.5, 0, 0.7],
  ];
}

export interface BrowStyle {
  thick: number;
  arch: number;
  count: number;
  length: number;
  /** How far the hairs stand off, mm. */
  bushy: number;
  colour: Growth['colour'];
}

/** Both brows: upright at their inner end, then outwards along their line, from above and below towards it. */
export function brows(p: Proportions, style: BrowStyle): Growth {
  const line = browLine(p, style.thick, style.arch),
    region = tube(line, 6),
    front = p.browZ - 42;
  const heightAt = (x: number): number => {
    const next = line.findIndex((k) => k[0] > x);
    if (next <= 0) return line[next === 0 ? 0 : line.length - 1]![1];
    const [a, b] = [line[next - 1]!, line[next]!];
    return a[1] + ((b[1] - a[1]) * (x - a[0])) / (b[0] - a[0]);
  };
  return {
    count: style.count,
    steps: 5,
    density: ([x, y, z]) => (z < front ? 0 : Math.min(1, Math.max(0, -region(Math.abs(x), y, 0) / 1.6 + 0.15))),
    flow: ([x, y], _n, t) => {
      const out = Math.min(1, Math.max(0, (Math.abs(x) - 10) / 16)),
        to = heightAt(Math.abs(x)) - y;
      return [Math.sign(x) * (0.35 + 0.65 * out), 0.85 * (1 - out) + 0.1 * to * t - 0.12 * out, 0.1];
    },
    length: ([x]) => style.length * (Math.abs(x) > 40 ? 0.75 : 1),
    stand: (t) => 0.35 + style.bushy * t * (1.6 - t),
    layer: style.bushy * 0.6,
    stiff: 0.45,
    frizz: 0.25,
    clump: { size: 3, pull: 0.35 },
    width: 0.7,
    tip: 0.3,
    colour: style.colour,
    uneven: 0.22,
  };
}

/** Lashes of both eyes: above long and bent upwards, below short; `weight` 1 is plain, more is made up. */
export function lashes(p: Proportions, skin: Shape, weight: number): Growth[] {
  const e = eyeCentre(p),
    lids = lidCurves(p);
  const rooted = (n: number, lid: (u: number) => number, lift: number): Root[] =>
    Array.from({ length: n }, (_, i): Root[] => {
      const u = lids.inner + 4 + ((lids.outer - lids.inner - 4.6) * (i + 0.5 * ((i * 7) % 3) * 0.4)) / n;
      return [1, -1].map((side): Root => {
        // the margin of the lid: as far in front as the skin reaches at its edge
        const x = e[0] + u,
          y = e[1] + lid(u) + lift;
        const z = skin.front(x, y, e[2] + p.eyeRadius + 12);
        const at: Point = [side * x, y, z];
        return { at, normal: unit([side * u * 0.04, 0.1, 1]) };
      });
    }).flat();
  const shared = {
    count: 0,
    hug: 0,
    stand: () => 0,
    stiff: 0.35,
    frizz: 0.12,
    tip: 0.15,
    uneven: 0.1,
    colour: [
      [0.022, 0.018, 0.016],
      [0.03, 0.024, 0.02],
    ] as Growth['colour'],
  };
  const fan = ([x]: Point): number => (Math.abs(x) - e[0]) / (lids.outer + 2);
  return [
    {
      ...shared,
      steps: 6,
      roots: rooted(Math.round(34 * Math.min(1.4, weight)), lids.upper, 0.9),
      flow: (at, _n, t) => [Math.sign(at[0]) * fan(at) * 0.9, -0.35 + 1.75 * t, 1 - 0.55 * t],
      length: (at) => (5.4 + 2 * fan(at)) * Math.min(1.35, weight),
      clump: { size: 1.6, pull: 0.4 },
      width: 0.42 + 0.14 * weight,
    },
    {
      ...shared,
      steps: 4,
      roots: rooted(18, lids.lower, -0.7),
      flow: (at, _n, t) => [Math.sign(at[0]) * fan(at), -0.55 - 0.2 * t, 0.8],
      length: () => 3 * Math.min(1.2, weight),
      width: 0.34,
    },
  ];
}
