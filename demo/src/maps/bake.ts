// Pictures of a surface: each pixel that a triangle covers is painted by its place on the surface.
import { encode as encodeJpeg } from 'jpeg-js';
import type { Point } from '../form/field.ts';
import { across, dot, plus, unit } from '../strands/growth.ts';
import type { Surface } from '../form/nets.ts';

/** What a surface is like at a place, mm. */
export interface Paint {
  /** Factors on the colour of the vertices, 0…1, linear. */
  tint: (at: Point, normal: Point) => Point;
  /** 0…1 */
  roughness: (at: Point, normal: Point) => number;
  /** Fine relief, mm outwards. */
  relief: (at: Point, normal: Point) => number;
}

/** Three pictures as JPEG: colour in sRGB, roughness in green (glTF's layout), normals of the relief. */
export interface Maps {
  base: Uint8Array;
  roughness: Uint8Array;
  normal: Uint8Array;
}

/** Over how far slopes of the relief are taken, mm. */
const REACH = 0.22;
/** Pixels by which charts are continued beyond their border, so that filtering meets no empty place. */
const MARGIN = 4;

const toSrgb = (v: number): number => Math.round(255 * (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055));
const toByte = (v: number): number => Math.round(255 * Math.min(1, Math.max(0, v)));

/**
 * Paints the maps of an unwrapped surface (positions in millimetres).
 * @param size of the normals, pixels: pores need it; colour has half of it, roughness a quarter
 */
export function bake(surface: Surface & { uvs: Float32Array }, paint: Paint, size: number, quality = { base: 84, normal: 82 }): Maps {
  const base = new Uint8Array(size * size * 4),
    rough = new Uint8Array(size * size * 4),
    normal = new Uint8Array(size * size * 4),
    done = new Uint8Array(size * size);
  forEachTexel(surface, size, (p, at, n, right) => {
    const tint = paint.tint(at, n);
    const t = unit(plus(right, n, -dot(right, n))),
      b = across(n, t);
    const here = paint.relief(at, n);
    const slope = (way: Point) => (paint.relief(plus(at, way, REACH), n) - here) / REACH;
    const relief = unit([-slope(t), -slope(b), 1]);
    for (let k = 0; k < 3; k++) {
      base[p * 4 + k] = toSrgb(Math.min(1, Math.max(0, tint[k]!)));
      normal[p * 4 + k] = toByte(relief[k]! / 2 + 0.5);
      rough[p * 4 + k] = k === 1 ? toByte(paint.roughness(at, n)) : 0;
    }
    done[p] = 1;
  });
  for (const map of [base, normal, rough]) spread(map, done, size);
  return {
    base: jpeg(halved(base, size), size / 2, quality.base),
    normal: jpeg(normal, size, quality.normal),
    roughness: jpeg(halved(halved(rough, size), size / 2), size / 4, quality.base),
  };
}

const jpeg = (data: Uint8Array, size: number, quality: number): Uint8Array =>
  Uint8Array.from(encodeJpeg({ data, width: size, height: size }, quality).data);

/** Visits every pixel whose middle a triangle covers, with its place, normal and the way that U runs on the surface. */
function forEachTexel(
  { positions, normals, uvs, indices }: Surface & { uvs: Float32Array },
  size: number,
  visit: (pixel: number, at: Point, normal: Point, right: Point) => void,
): void {
  const point = (from: Float32Array, i: number): Point => [from[i * 3]!, from[i * 3 + 1]!, from[i * 3 + 2]!];
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i]!, indices[i + 1]!, indices[i + 2]!];
    const [ax, ay, bx, by, cx, cy] = [a, b, c].flatMap((v) => [uvs[v * 2]! * size, uvs[v * 2 + 1]! * size]) as [
      number,
      number,
      number,
      number,
      number,
      number,
    ];
    const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    if (Math.abs(area) < 1e-9) continue;
    const [pa, pb, pc] = [point(positions, a), point(positions, b), point(positions, c)],
      [na, nb, nc] = [point(normals, a), point(normals, b), point(normals, c)];
    const right = unit([0, 1, 2].map((k) => ((pb[k]! - pa[k]!) * (cy - ay) - (pc[k]! - pa[k]!) * (by - ay)) / area) as Point);
    for (let y = Math.max(0, Math.floor(Math.min(ay, by, cy) - 0.5)); y <= Math.min(size - 1, Math.ceil(Math.max(ay, by, cy))); y++)
      for (let x = Math.max(0, Math.floor(Math.min(ax, bx, cx) - 0.5)); x <= Math.min(size - 1, Math.ceil(Math.max(ax, bx, cx))); x++) {
        const px = x + 0.5 - ax,
          py = y + 0.5 - ay;
        const u = (px * (cy - ay) - (cx - ax) * py) / area,
          v = ((bx - ax) * py - px * (by - ay)) / area,
          w = 1 - u - v;
        if (u < -1e-6 || v < -1e-6 || w < -1e-6) continue;
        const mix = (p: Point, q: Point, r: Point): Point => [
          p[0] * w + q[0] * u + r[0] * v,
          p[1] * w + q[1] * u + r[1] * v,
          p[2] * w + q[2] * u + r[2] * v,
        ];
        visit(y * size + x, mix(pa, pb, pc), unit(mix(na, nb, nc)), right);
      }
  }
}

/** Continues what is painted beyond its border, pixel by pixel. */
function spread(map: Uint8Array, done: Uint8Array, size: number): void {
  let known = done;
  for (let round = 0; round < MARGIN; round++) {
    const next = known.slice();
    for (let p = 0; p < known.length; p++) {
      if (known[p]) continue;
      const x = p % size;
      const from = [x > 0 ? p - 1 : -1, x < size - 1 ? p + 1 : -1, p - size, p + size].find((q) => q >= 0 && q < known.length && known[q]);
      if (from === undefined) continue;
      map.copyWithin(p * 4, from * 4, from * 4 + 4);
      next[p] = 1;
    }
    known = next;
  }
}

function halved(map: Uint8Array, size: number): Uint8Array {
  const half = size / 2,
    out = new Uint8Array(half * half * 4);
  for (let y = 0; y < half; y++)
    for (let x = 0; x < half; x++)
      for (let k = 0; k < 4; k++) {
        const p = (2 * y * size + 2 * x) * 4 + k;
        out[(y * half + x) * 4 + k] = (map[p]! + map[p + 4]! + map[p + size * 4]! + map[p + size * 4 + 4]!) / 4;
      }
  return out;
}
