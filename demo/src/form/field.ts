// Signed distance fields in millimetres, and shapes folded from them.

/** Signed distance at a point: negative inside. */
export type Field = (x: number, y: number, z: number) => number;
/** A field that a bump follows: (q − 1) · radius, with q = 0 at the core of the stroke and 1 at its edge. */
export interface Brush {
  field: Field;
  radius: number;
}
export type Point = [number, number, number];
/** A point of a swept tube: x y z and the radius there. */
export type Knot = [number, number, number, number];

type OperationKind = 'union' | 'cut' | 'keep' | 'bump';
export interface Operation {
  kind: OperationKind;
  field: Field;
  /** Width of the blend, mm. */
  blend: number;
  mirrored: boolean;
  amount: number;
  radius: number;
}

/** Quadratic smooth minimum: h = max(k − |a − b|, 0), min(a, b) − h²/4k. */
export function smoothMin(a: number, b: number, k: number): number {
  const h = k - Math.abs(a - b);
  return Math.min(a, b) - (h > 0 ? (h * h) / (4 * k) : 0);
}
export const smoothMax = (a: number, b: number, k: number): number => -smoothMin(-a, -b, k);
/** Smooth maximum of many: meets without a razor edge, which a grid would render ragged. */
export const smoothMaxOf = (k: number, ...values: number[]): number => values.reduce((a, b) => smoothMax(a, b, k));
export function smoothStep(from: number, to: number, x: number): number {
  const t = Math.min(1, Math.max(0, (x - from) / (to - from)));
  return t * t * (3 - 2 * t);
}

/**
 * An ordered list of operations folded onto one distance: unions, cuts, intersections and bumps (a sculptor's stroke:
 * the surface moves out by `amount` with a soft falloff). Mirrored operations work on both sides of x = 0.
 */
export class Shape {
  readonly operations: Operation[] = [];

  private push(kind: OperationKind, field: Field, blend: number, mirrored: boolean, amount = 0, radius = 0): this {
    this.operations.push({ kind, field, blend, mirrored, amount, radius });
    return this;
  }
  add(field: Field, blend: number): this {
    return this.push('union', field, blend, false);
  }
  addBoth(field: Field, blend: number): this {
    return this.push('union', field, blend, true);
  }
  cut(field: Field, blend: number): this {
    return this.push('cut', field, blend, false);
  }
  cutBoth(field: Field, blend: number): this {
    return this.push('cut', field, blend, true);
  }
  keep(field: Field, blend: number): this {
    return this.push('keep', field, blend, false);
  }
  bump(brush: Brush, amount: number): this {
    return this.push('bump', brush.field, 0, false, amount, brush.radius);
  }
  bumpBoth(brush: Brush, amount: number): this {
    return this.push('bump', brush.field, 0, true, amount, brush.radius);
  }
  at(x: number, y: number, z: number): number {
    return fold(this.operations, x, y, z);
  }

  /** The surface in front at (x, y), marched from +Z. */
  front(x: number, y: number, from = 170): number {
    let z = from;
    for (let i = 0; i < 300; i++) {
      const d = this.at(x, y, z);
      if (d < 0.02) break;
      z -= Math.max(0.02, d * 0.6);
    }
    return z;
  }

  /** The first point of the surface along a direction. */
  march(from: Point, direction: Point): Point {
    let t = 0;
    const at = (): Point => [from[0] + direction[0] * t, from[1] + direction[1] * t, from[2] + direction[2] * t];
    for (let i = 0; i < 400; i++) {
      const d = this.at(...at());
      if (d < 0.02) break;
      t += Math.max(0.02, d * 0.7);
    }
    return at();
  }
}

/** |x| softened, so that a mirrored form has no crease in the middle. */
const mirror = (x: number): number => Math.sqrt(x * x + 0.6);

function step(o: Operation, d: number, p: number): number {
  if (o.kind === 'union') return smoothMin(d, p, o.blend);
  if (o.kind === 'bump') {
    if (p >= 0) return d;
    const q = 1 + p / o.radius,
      w = 1 - q * q;
    return d - o.amount * w * w;
  }
  return smoothMax(d, o.kind === 'cut' ? -p : p, o.blend);
}

/** The distance that a list of operations folds to. */
export function fold(operations: Operation[], x: number, y: number, z: number): number {
  const m = mirror(x);
  let d = 1e6;
  for (let i = 0; i < operations.length; i++) {
    const o = operations[i]!;
    d = step(o, d, o.field(o.mirrored ? m : x, y, z));
  }
  return d;
}

/** The operations that can matter within `reach` of a point, and the distance there. */
export function prune(
  operations: Operation[],
  x: number,
  y: number,
  z: number,
  reach: number,
): { operations: Operation[]; distance: number } {
  const m = mirror(x),
    slack = 2.4 * reach;
  const out: Operation[] = [];
  let d = 1e6;
  for (const o of operations) {
    const p = o.field(o.mirrored ? m : x, y, z);
    if (o.kind === 'union') {
      if (p - d > o.blend + slack) continue;
      if (d - p > o.blend + slack && out.every((q) => q.kind !== 'bump')) out.length = 0;
    } else if (o.kind === 'bump') {
      if (p > 1.2 * reach) continue;
    } else if (d - (o.kind === 'cut' ? -p : p) > o.blend + slack) continue;
    d = step(o, d, p);
    out.push(o);
  }
  return { operations: out, distance: d };
}
