// Transformations as prims have them: operations in an order, rows times matrix.
import { cross, DEGREE, normalize, type Vec3 } from '../../math/index.ts';
import { UsdError, type UsdPrim, type UsdValue } from './parse.ts';

/** Sixteen numbers, row by row; points are rows that are multiplied from the left. */
export type Matrix = number[];

export const IDENTITY: Matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

/** First one, then the other. */
export const times = (a: Matrix, b: Matrix): Matrix =>
  Array.from({ length: 16 }, (_, i) => {
    const r = (i >> 2) * 4,
      c = i & 3;
    return a[r]! * b[c]! + a[r + 1]! * b[c + 4]! + a[r + 2]! * b[c + 8]! + a[r + 3]! * b[c + 12]!;
  });

/** Numbers of a value, however they are nested. @throws UsdError naming what it was */
export function numbersOf(value: UsdValue | undefined, count: number, what: string): number[] {
  const out = [value].flat(4 as 1) as unknown[];
  if (out.length !== count || out.some((v) => typeof v !== 'number'))
    throw new UsdError(`${what} must be ${count} number${count > 1 ? 's' : ''}.`);
  return out as number[];
}

const translation = ([x, y, z]: number[]): Matrix => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x!, y!, z!, 1];
const scaling = ([x, y, z]: number[]): Matrix => [x!, 0, 0, 0, 0, y!, 0, 0, 0, 0, z!, 0, 0, 0, 0, 1];
/** A turn about an axis (0 x, 1 y, 2 z), degrees. */
function turn(axis: number, degrees: number): Matrix {
  const c = Math.cos(degrees * DEGREE),
    s = Math.sin(degrees * DEGREE);
  const out = [...IDENTITY];
  const a = (axis + 1) % 3,
    b = (axis + 2) % 3;
  out[a * 4 + a] = out[b * 4 + b] = c;
  out[a * 4 + b] = s;
  out[b * 4 + a] = -s;
  return out;
}
/** A turn by a quaternion, real part first. */
function orientation([w, x, y, z]: number[]): Matrix {
  const l = Math.hypot(w!, x!, y!, z!) || 1;
  const [a, b, c, d] = [w! / l, x! / l, y! / l, z! / l];
  return [
    ...[1 - 2 * (c * c + d * d), 2 * (b * c + d * a), 2 * (b * d - c * a), 0],
    ...[2 * (b * c - d * a), 1 - 2 * (b * b + d * d), 2 * (c * d + b * a), 0],
    ...[2 * (b * d + c * a), 2 * (c * d - b * a), 1 - 2 * (b * b + c * c), 0],
    ...[0, 0, 0, 1],
  ];
}

/** One operation, as `xformOpOrder` names it. */
function operation(prim: UsdPrim, name: string): Matrix {
  const inverse = name.startsWith('!invert!'),
    key = inverse ? name.slice(8) : name;
  const property = prim.properties[key];
  if (!property) throw new UsdError(`${prim.path}: “${key}” of its xformOpOrder is not there.`);
  const what = `${prim.path}.${key}`;
  const kind = key.split(':')[1] ?? '';
  const read = (count: number) => numbersOf(property.value, count, what);
  const sign = inverse ? -1 : 1;
  if (kind === 'translate') return translation(read(3).map((v) => v * sign));
  if (kind === 'scale') return scaling(read(3).map((v) => (inverse ? 1 / v : v)));
  const one = /^rotate([XYZ])$/.exec(kind);
  if (one) return turn('XYZ'.indexOf(one[1]!), read(1)[0]! * sign);
  if (inverse) throw new UsdError(`${what}: the inverse of “${kind}” cannot be read.`);
  if (kind === 'transform') return read(16);
  if (kind === 'orient') return orientation(read(4));
  const three = /^rotate([XYZ]{3})$/.exec(kind);
  if (!three) throw new UsdError(`${what}: “${kind}” is no operation that can be read.`);
  const angles = read(3);
  return [...three[1]!].map((axis) => turn('XYZ'.indexOf(axis), angles['XYZ'.indexOf(axis)]!)).reduce(times);
}

/** A prim's own transformation, and whether it forgets those above it. @throws UsdError */
export function transformOf(prim: UsdPrim): { matrix: Matrix; alone: boolean } {
  const order = prim.properties['xformOpOrder']?.value;
  if (order === undefined || order === null) return { matrix: IDENTITY, alone: false };
  if (!Array.isArray(order) || order.some((o) => typeof o !== 'string'))
    throw new UsdError(`${prim.path}.xformOpOrder must be a list of names.`);
  const names = order as string[];
  const matrix = names
    .filter((n) => n !== '!resetXformStack!')
    .map((n) => operation(prim, n))
    // the last one is nearest to the points
    .reverse()
    .reduce(times, IDENTITY);
  return { matrix, alone: names.includes('!resetXformStack!') };
}

/** A frame of metres, Y up. */
export interface WorldFrame {
  x: Vec3;
  y: Vec3;
  z: Vec3;
  at: Vec3;
  /** Lengths of its axes before they were made units, metres. */
  scale: Vec3;
}

/** A matrix of a file's own units and up axis in metres, Y up; its axes made a right-handed frame. */
export function worldFrame(m: Matrix, metres: number, zUp: boolean, path: string): WorldFrame {
  if (!m.every((v) => Number.isFinite(v * metres))) throw new UsdError(`${path}: where it stands is not finite.`);
  const turned = (i: number): Vec3 => (zUp ? [m[i]!, m[i + 2]!, -m[i + 1]!] : [m[i]!, m[i + 1]!, m[i + 2]!]);
  const rows = [turned(0), turned(4), turned(8)] as const;
  const scale = rows.map((r) => Math.hypot(...r) * metres) as Vec3;
  const z = normalize(rows[2], [0, 0, 1]),
    x = normalize(rows[0], [1, 0, 0]);
  const y = normalize(cross(z, x), [0, 1, 0]);
  return { x: cross(y, z), y, z, at: turned(12).map((v) => v * metres) as Vec3, scale };
}
