import { fold, prune, type Operation, type Shape } from './field.ts';

/** Triangles of one part, millimetres, with normals from the field. */
export interface Surface {
  name: string;
  positions: Float32Array;
  normals: Float32Array;
  indices: Uint32Array;
  colours?: Float32Array;
  /** Coordinates for pictures; of hair, V runs along the strands. */
  uvs?: Float32Array;
  tangents?: Float32Array;
}

/** Coordinates along one axis; the step at each place is given by `size`. */
export function axis(low: number, high: number, size: (v: number) => number): Float64Array {
  const out = [low];
  for (let v = low; v < high;) {
    const h = size(v);
    v += Math.min(h, size(v + h));
    out.push(v);
  }
  return Float64Array.from(out);
}
/** Fine inside [a, b], growing outside, never above coarse. */
export const zone =
  (a: number, b: number, fine: number, coarse: number, growth = 0.12) =>
  (v: number): number =>
    Math.min(coarse, fine + growth * Math.max(0, a - v, v - b));
export const finest =
  (...zones: ((v: number) => number)[]) =>
  (v: number): number =>
    Math.min(...zones.map((z) => z(v)));
export const even = (low: number, high: number, size: number): Float64Array => axis(low, high, () => size);

export interface Grid {
  xs: Float64Array;
  ys: Float64Array;
  zs: Float64Array;
  /** Half width of the difference that makes normals, mm. */
  epsilon?: number;
}

interface Block {
  i0: number;
  j0: number;
  k0: number;
  i1: number;
  j1: number;
  k1: number;
  operations: Operation[];
}
const BLOCK = 8;

/**
 * Surface nets (Gibson 1998) on a graded rectilinear grid: one vertex for each cell that the surface crosses, at the mean
 * of its edge crossings, moved once along the gradient on to the surface. Blocks far from it are skipped and the
 * operations pruned for each block. Without cracks, whatever the spacing.
 */
export function polygonise(
  shape: Shape,
  name: string,
  grid: Grid,
  colour?: (x: number, y: number, z: number) => [number, number, number],
): Surface {
  const { xs, ys, zs, epsilon = 0.5 } = grid;
  const nx = xs.length,
    ny = ys.length,
    nz = zs.length,
    sy = nx,
    sz = nx * ny;
  const values = new Float32Array(nx * ny * nz).fill(NaN),
    vertexOf = new Int32Array(nx * ny * nz).fill(-1);
  const blocks: Block[] = [];
  for (let k0 = 0; k0 < nz - 1; k0 += BLOCK)
    for (let j0 = 0; j0 < ny - 1; j0 += BLOCK)
      for (let i0 = 0; i0 < nx - 1; i0 += BLOCK) {
        const i1 = Math.min(i0 + BLOCK, nx - 1),
          j1 = Math.min(j0 + BLOCK, ny - 1),
          k1 = Math.min(k0 + BLOCK, nz - 1);
        const reach = Math.hypot(xs[i1]! - xs[i0]!, ys[j1]! - ys[j0]!, zs[k1]! - zs[k0]!) / 2;
        const { operations, distance } = prune(
          shape.operations,
          (xs[i0]! + xs[i1]!) / 2,
          (ys[j0]! + ys[j1]!) / 2,
          (zs[k0]! + zs[k1]!) / 2,
          reach,
        );
        if (Math.abs(distance) > 1.5 * reach + 3) continue;
        blocks.push({ i0, j0, k0, i1, j1, k1, operations });
        for (let k = k0; k <= k1; k++)
          for (let j = j0; j <= j1; j++)
            for (let i = i0; i <= i1; i++) {
              const g = i + j * sy + k * sz;
              if (Number.isNaN(values[g]!)) values[g] = fold(operations, xs[i]!, ys[j]!, zs[k]!);
            }
      }
  const positions: number[] = [],
    normals: number[] = [],
    colours: number[] = [],
    indices: number[] = [];
  const eachCell = (visit: (b: Block, i: number, j: number, k: number, g: number) => void) => {
    for (const b of blocks)
      for (let k = b.k0; k < b.k1; k++)
        for (let j = b.j0; j < b.j1; j++) for (let i = b.i0; i < b.i1; i++) visit(b, i, j, k, i + j * sy + k * sz);
  };
  const corner = (g: number, c: number) => values[g + (c & 1) + (c & 2 ? sy : 0) + (c & 4 ? sz : 0)]!;
  eachCell((b, i, j, k, g) => {
    let mask = 0;
    for (let c = 0; c < 8; c++) if (corner(g, c) < 0) mask |= 1 << c;
    if (mask === 0 || mask === 255) return;
    const p = [0, 0, 0];
    let n = 0;
    for (let c = 0; c < 8; c++)
      for (let a = 0; a < 3; a++) {
        const d = c | (1 << a);
        if (c === d || ((mask >> c) & 1) === ((mask >> d) & 1)) continue;
        const t = corner(g, c) / (corner(g, c) - corner(g, d));
        p[0]! += xs[i + (c & 1)]! + (a === 0 ? t * (xs[i + 1]! - xs[i]!) : 0);
        p[1]! += ys[j + ((c >> 1) & 1)]! + (a === 1 ? t * (ys[j + 1]! - ys[j]!) : 0);
        p[2]! += zs[k + ((c >> 2) & 1)]! + (a === 2 ? t * (zs[k + 1]! - zs[k]!) : 0);
        n++;
      }
    let [x, y, z] = [p[0]! / n, p[1]! / n, p[2]! / n];
    const h = Math.min(xs[i + 1]! - xs[i]!, ys[j + 1]! - ys[j]!, zs[k + 1]! - zs[k]!);
    const e = Math.max(epsilon, h * 0.35);
    const f = (ax: number, ay: number, az: number) => fold(b.operations, ax, ay, az);
    const gradient = () => {
      const A = f(x + e, y - e, z - e),
        B = f(x - e, y - e, z + e),
        C = f(x - e, y + e, z - e),
        D = f(x + e, y + e, z + e);
      return [A - B - C + D, -A - B + C + D, -A + B - C + D] as const;
    };
    let [gx, gy, gz] = gradient();
    let l = Math.hypot(gx, gy, gz) || 1;
    const d = Math.max(-h * 0.6, Math.min(h * 0.6, f(x, y, z) / Math.max(l / (4 * e), 0.4)));
    x -= (gx / l) * d;
    y -= (gy / l) * d;
    z -= (gz / l) * d;
    [gx, gy, gz] = gradient();
    l = Math.hypot(gx, gy, gz) || 1;
    vertexOf[g] = positions.length / 3;
    positions.push(x, y, z);
    normals.push(gx / l, gy / l, gz / l);
    if (colour) colours.push(...colour(x, y, z));
  });
  const gap = (a: number, b: number) =>
    (positions[3 * a]! - positions[3 * b]!) ** 2 +
    (positions[3 * a + 1]! - positions[3 * b + 1]!) ** 2 +
    (positions[3 * a + 2]! - positions[3 * b + 2]!) ** 2;
  const quad = (a: number, q: number, c: number, r: number, flip: boolean) => {
    if (a < 0 || q < 0 || c < 0 || r < 0) return;
    const [b, d] = flip ? [r, q] : [q, r];
    if (gap(a, c) <= gap(b, d)) indices.push(a, b, c, a, c, d);
    else indices.push(a, b, d, b, c, d);
  };
  eachCell((_, i, j, k, g) => {
    const v = vertexOf[g]!;
    if (v < 0) return;
    const inside = values[g]! < 0;
    const at = (o: number) => vertexOf[g - o]!;
    if (j > 0 && k > 0 && values[g + 1]! < 0 !== inside) quad(v, at(sy), at(sy + sz), at(sz), !inside);
    if (i > 0 && k > 0 && values[g + sy]! < 0 !== inside) quad(v, at(sz), at(sz + 1), at(1), !inside);
    if (i > 0 && j > 0 && values[g + sz]! < 0 !== inside) quad(v, at(1), at(1 + sy), at(sy), !inside);
  });
  return {
    name,
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    indices: Uint32Array.from(indices),
    ...(colour ? { colours: Float32Array.from(colours) } : {}),
  };
}
