// Measures in a picture what it shows of a face: its skin, the silhouette, the parts that can be aimed at.
import { CELLS, LIT, regionOfCell, type FaceMap, type Features, type Given, type Seen } from '../face/index.ts';
import { dot, length, scale, sub, type Vec3 } from '../math/index.ts';
import { colourDifference, luminance } from '../photometry/index.ts';
import type { Scene } from '../scene/index.ts';
import { setupGains, TARGETS, toHead, type Setup, type Target } from '../setup/index.ts';
import { pictureHalf } from '../trace/index.ts';
import { toneOf } from './histogram.ts';
import type { FilmSource } from './source.ts';

/** Pixels that lie so far inside and outside of the silhouette are compared: what lies between is mixed. */
const BESIDE = 2;
/** Figure and ground are set apart from so many stops on. */
const APART = 0.5;
/** Skin is hot that is so many stops above the middle of all of it. */
const HOT = 2;
/** A place of the map is seen where the picture has a surface within this share of its distance. */
const SAME = 0.012;
const CRUSHED = 0.18 / 64;

const median = (values: number[]): number => (values.length ? values.sort((a, b) => a - b)[values.length >> 1]! : NaN);

/** The pixel that each place of the map is seen at; −1 where it is not. */
export function pixelsOf(map: FaceMap, scene: Scene, { guides, width, height }: FilmSource): Int32Array {
  const { camera } = scene,
    [halfWide, halfTall] = pictureHalf(camera, width, height);
  const out = new Int32Array(CELLS).fill(-1);
  for (let c = 0; c < CELLS; c++) {
    if (!map.there[c]) continue;
    const d = sub([map.points[c * 3]!, map.points[c * 3 + 1]!, map.points[c * 3 + 2]!], camera.origin),
      z = dot(d, camera.forward);
    if (z <= 0) continue;
    const x = Math.floor((dot(d, camera.right) / z / halfWide + 1) * 0.5 * width),
      y = Math.floor((1 - dot(d, camera.up) / z / halfTall) * 0.5 * height);
    if (x < 0 || y < 0 || x >= width || y >= height) continue;
    const p = y * width + x;
    if (Math.abs(guides.mean(p, 10) - z) < SAME * z) out[c] = p;
  }
  return out;
}

/** Which object each pixel shows: −1 nothing. */
const objectAt = ({ guides }: FilmSource, p: number): number => (guides.mean(p, 10) > 0 ? guides.ids[p * 2]! : -1);

/** Parts of a head that are neither skin nor hair, by what files call them. */
const NO_HAIR = /eye|iris|cornea|pupil|sclera|lash|brow|tear|tooth|teeth/i;

interface Edge {
  inside: number;
  outside: number;
  side: 'left' | 'right';
}

/** Pairs of pixels on either side of a figure's silhouette, row by row: its outermost to the left and to the right. */
function silhouette(source: FilmSource, isFigure: (p: number) => boolean): Edge[] {
  const { width, height } = source,
    edges: Edge[] = [];
  for (let y = 0; y < height; y++) {
    let first = -1,
      last = -1;
    for (let x = 0; x < width; x++)
      if (isFigure(y * width + x)) {
        if (first < 0) first = x;
        last = x;
      }
    if (first < 0 || last - first < 4 * BESIDE) continue;
    const at = y * width;
    if (first >= BESIDE) edges.push({ inside: at + first + BESIDE, outside: at + first - BESIDE, side: 'left' });
    if (last + BESIDE < width) edges.push({ inside: at + last - BESIDE, outside: at + last + BESIDE, side: 'right' });
  }
  return edges;
}

/** Pixels of the parts that can be aimed at. */
function partsOf(map: FaceMap, features: Features | undefined, pixels: Int32Array, source: FilmSource, scene: Scene, edges: Edge[]) {
  const { objects } = scene.geometry,
    figure = `subjects/${map.face.subject}/`;
  const out: Record<Target, number[]> = { 'lit cheek': [], 'shadow cheek': [], edge: [], hair: [], background: [] };
  if (features) {
    const near = features.side === 'left' ? 'cheekR' : 'cheekL';
    for (let c = 0; c < CELLS; c++) {
      const p = pixels[c]!;
      if (p < 0 || !map.front[c]) continue;
      const region = regionOfCell(map, c);
      if (region === near && features.shades[c] === LIT) out['lit cheek'].push(p);
      else if ((region === 'cheekL' || region === 'cheekR') && region !== near && features.shades[c] !== LIT) out['shadow cheek'].push(p);
    }
  }
  for (const { inside } of edges) out.edge.push(inside);
  const { width, height, guides } = source,
    { frame } = map.face;
  // what grows on the head above the nose's base and is not its skin; whatever its file calls it
  const isHair = (object: string, p: number): boolean => {
    const local = scale(toHead(frame, [guides.mean(p, 4), guides.mean(p, 5), guides.mean(p, 6)]), 1 / frame.headHeight);
    return length(local) < 1.1 && local[1] > map.face.points.noseBase[1] && !NO_HAIR.test(object);
  };
  for (let p = 0; p < width * height; p += 3) {
    const id = objectAt(source, p),
      object = id >= 0 ? objects[id]! : '';
    if (!object.startsWith('subjects/')) out.background.push(p);
    else if (id !== map.skin && object.startsWith(figure) && isHair(object, p)) out.hair.push(p);
  }
  return out;
}

/**
 * What a picture shows of a face. `linear` is its light before look and plate, r g b by pixel; `pixels` where the places of the map are seen (see
 * `pixelsOf`).
 */
export function seenOf(
  source: FilmSource,
  linear: Float32Array,
  setup: Setup,
  scene: Scene,
  map: FaceMap,
  features: Features | undefined,
): Seen {
  const pixels = pixelsOf(map, scene, source);
  const { objects } = scene.geometry,
    figure = `subjects/${map.face.subject}/`;
  const own = objects.map((o) => o.startsWith(figure));
  const edges = silhouette(source, (p) => own[objectAt(source, p)] === true);
  const y = (p: number): number => luminance(linear[p * 3]!, linear[p * 3 + 1]!, linear[p * 3 + 2]!);
  const n = source.width * source.height;
  // skin
  const skin: number[] = [];
  let clipped = 0,
    crushed = 0;
  for (let p = 0; p < n; p++) {
    if (objectAt(source, p) !== map.skin) continue;
    const v = y(p);
    skin.push(v);
    if (isClipped(linear, p)) clipped++;
    else if (v < CRUSHED) crushed++;
  }
  const many = Math.max(1, skin.length),
    hotFrom = median(skin.slice()) * 2 ** HOT;
  const cells = (is: (p: number) => boolean) => Array.from({ length: CELLS }, (_, c) => c).filter((c) => pixels[c]! >= 0 && is(pixels[c]!));
  // silhouette
  const apart = edges.map(({ inside, outside, side }) => ({
    side,
    stops: Math.log2(Math.max(y(inside), 1e-5) / Math.max(y(outside), 1e-5)),
  }));
  const coverageOf = (side: 'left' | 'right') => {
    const of = apart.filter((e) => e.side === side);
    return of.length ? of.filter((e) => Math.abs(e.stops) >= APART).length / of.length : undefined;
  };
  const left = coverageOf('left'),
    right = coverageOf('right'),
    separation = median(apart.map((e) => e.stops));
  const parts = partsOf(map, features, pixels, source, scene, edges);
  const lights = givenBy(source, setup, parts, y);
  const tones: Seen['parts'] = {};
  for (const t of TARGETS) if (parts[t].length) tones[t] = toneOf(meanOf(parts[t], y));
  const colour = colourOf(parts['lit cheek'], parts['shadow cheek'], linear);
  return {
    clipped: clipped / many,
    crushed: crushed / many,
    ...(apart.length ? { separation } : {}),
    coverage: { ...(left === undefined ? {} : { left }), ...(right === undefined ? {} : { right }) },
    ...(colour ? { colour } : {}),
    hot: { share: skin.filter((v) => v > hotFrom).length / many, cells: cells((p) => objectAt(source, p) === map.skin && y(p) > hotFrom) },
    clippedCells: cells((p) => isClipped(linear, p)),
    parts: tones,
    lights,
  };
}

const isClipped = (linear: Float32Array, p: number): boolean => linear[p * 3]! >= 1 || linear[p * 3 + 1]! >= 1 || linear[p * 3 + 2]! >= 1;

const meanOf = (pixels: readonly number[], of: (p: number) => number): number =>
  pixels.reduce((sum, p) => sum + of(p), 0) / Math.max(1, pixels.length);

/** Every so many pixels one is asked what a light adds to it, and that of the few where it adds most counts. */
const EVERY = 5,
  MOST_OF = 0.995;

/** What each light gives to the parts, and the most that it adds to any of the picture. */
function givenBy(source: FilmSource, setup: Setup, parts: Record<Target, number[]>, all: (p: number) => number): Given[] {
  const gains = setupGains(setup);
  return Object.keys(setup.lights.items).flatMap((id): Given[] => {
    const films = source.shown(id),
      gain = gains[id];
    if (!films || !gain || films.film.width !== source.width) return [];
    const { film } = films;
    const own = (p: number): number =>
      film.layers.reduce((sum, { name }, l) => {
        const plane = film.best(l),
          g = gain[name];
        return sum + luminance(plane[p * 3]! * g[0], plane[p * 3 + 1]! * g[1], plane[p * 3 + 2]! * g[2]);
      }, 0);
    const gives: Given['gives'] = {};
    for (const t of TARGETS) if (parts[t].length) gives[t] = meanOf(parts[t], own);
    const added: number[] = [];
    for (let p = 0; p < source.width * source.height; p += EVERY) {
      const whole = all(p);
      // what is dark anyway shows nothing of it
      if (whole < 0.004) continue;
      added.push(Math.log2(whole / Math.max(whole - own(p), whole * 1e-3)));
    }
    added.sort((a, b) => a - b);
    return [{ id, gives, most: added.length ? added[Math.floor(MOST_OF * (added.length - 1))]! : 0 }];
  });
}

function colourOf(lit: readonly number[], dark: readonly number[], linear: Float32Array): Seen['colour'] {
  if (lit.length < 8 || dark.length < 8) return undefined;
  const mean = (pixels: readonly number[]): Vec3 => [0, 1, 2].map((k) => meanOf(pixels, (p) => linear[p * 3 + k]!)) as Vec3;
  const a = mean(lit),
    b = mean(dark);
  const level = (c: Vec3): Vec3 => c.map((v) => (v * 0.4) / Math.max(luminance(...c), 1e-9)) as Vec3;
  const warm = (c: Vec3): number => Math.log2(Math.max(c[0], 1e-9) / Math.max(c[2], 1e-9));
  return { difference: colourDifference(level(a), level(b)), warmer: warm(a) - warm(b) };
}
