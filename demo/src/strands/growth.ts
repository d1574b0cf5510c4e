// Hair as strands: roots on the skin, grown along a field of directions, gathered in clumps. Millimetres, the frame of proportions.ts.
import { randomLcg, randomNormal } from 'd3-random';
import type { Point, Shape } from '../form/field.ts';
import type { Surface } from '../form/nets.ts';

/** Where a strand begins: on the skin, with the skin's direction outwards. */
export interface Root {
  at: Point;
  normal: Point;
}

/** How one kind of hair grows. `t` runs from 0 at the root to 1 at the tip. */
export interface Growth {
  /** How many strands there are. */
  count: number;
  /** Pieces of each strand. */
  steps: number;
  /** Share of the strands that grow at a place of the skin, 0…1; nothing where roots are given. */
  density?: (at: Point, normal: Point) => number;
  /** Roots that do not lie by chance, as of lashes. */
  roots?: Root[];
  /** The way that a strand wants to go; it need not be of length 1. */
  flow: (at: Point, normal: Point, t: number) => Point;
  length: (root: Point) => number;
  /** Distance from the skin that it keeps. */
  stand: (t: number, root: Point) => number;
  /** Further out, by chance, so that strands lie in layers. */
  layer?: number;
  /** How far it is drawn back where it stands off further than it should, 0…1. */
  hug?: number;
  /** How slowly it turns into the flow, 0…1. */
  stiff: number;
  /** Strands that share a tip: how wide a clump is at the roots, and how far it draws together, 0…1. */
  clump?: { size: number; pull: number };
  /** Waves across the strand: their width at the tip and how many there are. */
  wave?: { width: number; turns: number };
  /** Disorder of the way, 0…1. */
  frizz: number;
  width: number;
  /** Width at the tip, of the width. */
  tip: number;
  /** Linear colours of root and tip. */
  colour: [root: Point, tip: Point];
  /** How unlike the strands' brightness is, 0…1. */
  uneven: number;
}

/** A strand: points and the skin's direction outwards there, one after the other. */
export interface Strand {
  points: Point[];
  outwards: Point[];
  /** Brightness against the others. */
  tone: number;
}

const STEP = 0.6;
/** The direction in which a field rises, by four differences. */
export function uphill(shape: Shape, [x, y, z]: Point): Point {
  const e = STEP;
  const a = shape.at(x + e, y - e, z - e),
    b = shape.at(x - e, y - e, z + e),
    c = shape.at(x - e, y + e, z - e),
    d = shape.at(x + e, y + e, z + e);
  return unit([a - b - c + d, -a - b + c + d, -a + b - c + d]);
}
export function unit([x, y, z]: Point): Point {
  const l = Math.hypot(x, y, z) || 1;
  return [x / l, y / l, z / l];
}
export const dot = (a: Point, b: Point): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const plus = (a: Point, b: Point, k = 1): Point => [a[0] + b[0] * k, a[1] + b[1] * k, a[2] + b[2] * k];
export const blend = (a: Point, b: Point, t: number): Point => [
  a[0] + (b[0] - a[0]) * t,
  a[1] + (b[1] - a[1]) * t,
  a[2] + (b[2] - a[2]) * t,
];
export const across = (a: Point, b: Point): Point => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];

/** Roots scattered over a mesh of the skin by area and density, laid on to the skin itself. */
function scatter(growth: Growth, skin: Shape, mesh: Surface, random: () => number): Root[] {
  const { positions, indices } = mesh;
  const corner = (i: number): Point => [positions[i * 3]!, positions[i * 3 + 1]!, positions[i * 3 + 2]!];
  const triangles: number[] = [],
    sums: number[] = [];
  let sum = 0;
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [corner(indices[i]!), corner(indices[i + 1]!), corner(indices[i + 2]!)];
    const normal = across(plus(b, a, -1), plus(c, a, -1)),
      size = Math.hypot(...normal);
    if (size === 0) continue;
    const middle: Point = [(a[0] + b[0] + c[0]) / 3, (a[1] + b[1] + c[1]) / 3, (a[2] + b[2] + c[2]) / 3];
    const share = growth.density!(middle, [normal[0] / size, normal[1] / size, normal[2] / size]);
    if (share <= 0) continue;
    sum += size * share;
    triangles.push(i);
    sums.push(sum);
  }
  if (!triangles.length) throw new RangeError('No place on the skin grows this hair.');
  return Array.from({ length: growth.count }, () => {
    const wanted = random() * sum;
    let low = 0,
      high = sums.length - 1;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (sums[middle]! < wanted) low = middle + 1;
      else high = middle;
    }
    const i = triangles[low]!;
    let u = random(),
      v = random();
    if (u + v > 1) [u, v] = [1 - u, 1 - v];
    const [a, b, c] = [corner(indices[i]!), corner(indices[i + 1]!), corner(indices[i + 2]!)];
    const p: Point = [0, 1, 2].map((k) => a[k]! + (b[k]! - a[k]!) * u + (c[k]! - a[k]!) * v) as Point;
    const normal = uphill(skin, p);
    return { at: plus(p, normal, -skin.at(...p)), normal };
  });
}

/** One strand from its root. */
function grow(growth: Growth, skin: Shape, root: Root, random: () => number, normal: () => number): Strand {
  const { steps, stiff, frizz, hug = 0.5 } = growth;
  const step = (growth.length(root.at) * (1 + 0.12 * normal())) / steps,
    layer = (growth.layer ?? 0) * random();
  const points: Point[] = [root.at],
    outwards: Point[] = [root.normal];
  let way = unit(plus(growth.flow(root.at, root.normal, 0), root.normal, 0.35)),
    at = root.at,
    out = root.normal;
  for (let i = 1; i <= steps; i++) {
    const t = i / steps;
    const wish = unit(growth.flow(at, out, t));
    way = unit(plus(blend(wish, way, stiff), [normal(), normal(), normal()], frizz * 0.3));
    let next = plus(at, way, step);
    out = uphill(skin, next);
    const off = skin.at(...next),
      want = growth.stand(t, root.at) + layer * Math.min(1, 3 * t);
    next = plus(next, out, off < want ? want - off : (want - off) * hug);
    way = unit(plus(next, at, -1));
    at = next;
    points.push(at);
    outwards.push(out);
  }
  return { points, outwards, tone: Math.max(0.3, 1 + growth.uneven * normal()) };
}

/** Draws strands towards the leader of their clump, more so towards the tip. */
function gather(strands: Strand[], growth: Growth, skin: Shape, random: () => number): void {
  const { size, pull } = growth.clump!;
  const leaders: Strand[] = [];
  // the first to come leads, where no leader is near
  const cells = new Map<string, Strand[]>();
  const cell = (p: Point, o: Point = [0, 0, 0]) => p.map((v, k) => Math.floor(v / size) + o[k]!).join(' ');
  const near = (p: Point): Strand | undefined => {
    let best: Strand | undefined,
      least = Infinity;
    for (let i = 0; i < 27; i++)
      for (const l of cells.get(cell(p, [(i % 3) - 1, (((i / 3) | 0) % 3) - 1, ((i / 9) | 0) - 1])) ?? []) {
        const d = Math.hypot(...plus(l.points[0]!, p, -1));
        if (d < least) [best, least] = [l, d];
      }
    return least < size ? best : undefined;
  };
  for (const strand of strands) {
    const root = strand.points[0]!;
    const leader = near(root);
    if (!leader) {
      leaders.push(strand);
      const key = cell(root);
      cells.set(key, [...(cells.get(key) ?? []), strand]);
      continue;
    }
    const own = pull * (0.7 + 0.5 * random());
    strand.tone = strand.tone * 0.5 + leader.tone * 0.5;
    for (let i = 1; i < strand.points.length; i++) {
      const t = i / (strand.points.length - 1);
      const p = blend(strand.points[i]!, leader.points[i]!, Math.min(0.95, own * t ** 0.8));
      const off = skin.at(...p);
      strand.points[i] = off < 0.4 ? plus(p, strand.outwards[i]!, 0.4 - off) : p;
    }
  }
}

/** Bends every strand of a clump alike, in waves that grow towards the tip. */
function wave(strands: Strand[], { width, turns }: NonNullable<Growth['wave']>): void {
  for (const { points, outwards } of strands) {
    const phase = points[0]![0] * 0.11 + points[0]![1] * 0.09 + points[0]![2] * 0.07;
    for (let i = 1; i < points.length; i++) {
      const t = i / (points.length - 1),
        side = unit(across(outwards[i]!, plus(points[i]!, points[i - 1]!, -1)));
      points[i] = plus(points[i]!, side, width * t * Math.sin(phase + turns * 2 * Math.PI * t));
    }
  }
}

/**
 * Grows hair on a skin.
 * @param mesh of that skin, for scattering roots
 * @param seed of the chances; the same seed grows the same hair
 * @throws RangeError where the density is nowhere above 0
 */
export function growHair(growth: Growth, skin: Shape, mesh: Surface, seed: number): Strand[] {
  const random = randomLcg(seed),
    normal = randomNormal.source(random)(0, 1);
  const roots = growth.roots ?? scatter(growth, skin, mesh, random);
  const strands = roots.map((root) => grow(growth, skin, root, random, normal));
  if (growth.clump) gather(strands, growth, skin, random);
  if (growth.wave) wave(strands, growth.wave);
  return strands;
}
