// Pictures that a light shines through. The built-in ones are drawn here, by formula.
import { mix, sharedFloats } from '../math/index.ts';

/** What passes, as linear r g b in rows from the top. */
export interface GoboPattern {
  width: number;
  height: number;
  rgb: Float32Array;
}

export const GOBOS = ['window', 'blinds', 'leaves'] as const;
export type GoboName = (typeof GOBOS)[number];

const SIZE = 256;
const clamp = (v: number): number => (v < 0 ? 0 : v > 1 ? 1 : v);
const noise = (a: number, b: number): number => (mix(a, b) >>> 0) / 4294967296;

/** How far x is inside of the span from a to b, in pixels, cut to 0…1. */
const span = (x: number, a: number, b: number): number => clamp(Math.min(x - a, b - x) * SIZE);

/** Two by three panes between bars. */
function windowAt(x: number, y: number): number {
  let open = 0;
  for (let i = 0; i < 2; i++)
    for (let j = 0; j < 3; j++)
      open = Math.max(open, Math.min(span(x, 0.06 + i * 0.46, 0.48 + i * 0.46), span(y, 0.04 + j * 0.32, 0.32 + j * 0.32)));
  return open;
}

/** Slats, half open. */
function blindsAt(x: number, y: number): number {
  const row = (y * 11) % 1;
  const cords = Math.min(1 - span(x, 0.245, 0.255), 1 - span(x, 0.745, 0.755));
  return Math.min(span(x, 0.03, 0.97), clamp((Math.min(row - 0.42, 0.94 - row) * SIZE) / 11), cords);
}

/** Leaves of a tree: ellipses, scattered and turned, that stop the light. */
function leaves(): Float32Array {
  const out = new Float32Array(SIZE * SIZE).fill(1);
  for (let leaf = 0; leaf < 150; leaf++) {
    const cx = noise(leaf, 1) * 1.1 - 0.05,
      cy = noise(leaf, 2) * 1.1 - 0.05,
      long = 0.035 + 0.05 * noise(leaf, 3),
      thin = long * (0.28 + 0.2 * noise(leaf, 4)),
      turn = noise(leaf, 5) * Math.PI;
    const c = Math.cos(turn),
      s = Math.sin(turn);
    const from = (v: number) => Math.max(0, Math.floor((v - long) * SIZE)),
      to = (v: number) => Math.min(SIZE - 1, Math.ceil((v + long) * SIZE));
    for (let j = from(cy); j <= to(cy); j++)
      for (let i = from(cx); i <= to(cx); i++) {
        const x = (i + 0.5) / SIZE - cx,
          y = (j + 0.5) / SIZE - cy;
        const p = (x * c + y * s) / long,
          q = (-x * s + y * c) / thin;
        // two arcs that meet in points
        const inside = 1 - p * p - Math.abs(q);
        out[j * SIZE + i] = Math.min(out[j * SIZE + i]!, 1 - clamp(inside * thin * SIZE));
      }
  }
  return out;
}

const drawn = new Map<GoboName, GoboPattern>();

/** A built-in pattern; drawn once. */
export function goboPattern(name: GoboName): GoboPattern {
  let pattern = drawn.get(name);
  if (!pattern) {
    const rgb = sharedFloats(SIZE * SIZE * 3);
    const tree = name === 'leaves' ? leaves() : undefined;
    for (let j = 0; j < SIZE; j++)
      for (let i = 0; i < SIZE; i++) {
        const x = (i + 0.5) / SIZE,
          y = (j + 0.5) / SIZE;
        const v = tree ? tree[j * SIZE + i]! : name === 'window' ? windowAt(x, y) : blindsAt(x, y);
        rgb.fill(v, (j * SIZE + i) * 3, (j * SIZE + i) * 3 + 3);
      }
    pattern = { width: SIZE, height: SIZE, rgb };
    drawn.set(name, pattern);
  }
  return pattern;
}

/** Looks a pattern up bilinearly at x y, 0…1 from the left and the top; beside it nothing passes. */
export function goboAt({ width, height, rgb }: GoboPattern, x: number, y: number, out: Float64Array): void {
  if (!(x >= 0 && x <= 1 && y >= 0 && y <= 1)) {
    out.fill(0);
    return;
  }
  const fx = Math.min(width - 1, Math.max(0, x * width - 0.5)),
    fy = Math.min(height - 1, Math.max(0, y * height - 0.5));
  const x0 = Math.floor(fx),
    y0 = Math.floor(fy),
    x1 = Math.min(width - 1, x0 + 1),
    y1 = Math.min(height - 1, y0 + 1),
    u = fx - x0,
    v = fy - y0;
  for (let c = 0; c < 3; c++) {
    const a = rgb[(y0 * width + x0) * 3 + c]!,
      b = rgb[(y0 * width + x1) * 3 + c]!,
      d = rgb[(y1 * width + x0) * 3 + c]!,
      e = rgb[(y1 * width + x1) * 3 + c]!;
    out[c] = (a * (1 - u) + b * u) * (1 - v) + (d * (1 - u) + e * u) * v;
  }
}
