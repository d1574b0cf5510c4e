// Measures in a picture what it shows of a face: its skin, the silhouette, the parts that can be aimed at.
import { CELLS, LIT, regionOfCell, type FaceMap, type Features, type Given, type Seen } from '../face/index.ts';
import { dot, length, scale, sub, type Vec3 } from '../math/index.ts';
import { atOneLevel, colourDifference, luminance } from '../photometry/index.ts';
import type { Scene } from '../scene/index.ts';
import { setupGains, TARGETS, toHead, type Gain, type Setup, type Target } from '../setup/index.ts';
import { pictureHalf } from '../trace/index.ts';
import { toneOf } from './histogram.ts';
import type { Film } from './film.ts';
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

/** The middle of some values, which are sorted. */
const median = (values: Float32Array): number => (values.length ? values.sort()[values.length >> 1]! : NaN);

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

type Parts = Record<Target, number[]>;

/** Pixels of the cheeks: lit on the light's side, in shadow on the other. */
function cheeksOf(map: FaceMap, features: Features | undefined, pixels: Int32Array): Pick<Parts, 'lit cheek' | 'shadow cheek'> {
  const out: Pick<Parts, 'lit cheek' | 'shadow cheek'> = { 'lit cheek': [], 'shadow cheek': [] };
  if (!features) return out;
  const near = features.side === 'left' ? 'cheekR' : 'cheekL';
  for (let c = 0; c < CELLS; c++) {
    const p = pixels[c]!;
    if (p < 0 || !map.front[c]) continue;
    const region = regionOfCell(map, c);
    if (region === near && features.shades[c] === LIT) out['lit cheek'].push(p);
    else if ((region === 'cheekL' || region === 'cheekR') && region !== near && features.shades[c] !== LIT) out['shadow cheek'].push(p);
  }
  return out;
}

/** Pixels of hair and of what is no figure, a third of them. */
function othersOf(map: FaceMap, { guides }: FilmSource, scene: Scene, ids: Int16Array): Pick<Parts, 'hair' | 'background'> {
  const { objects } = scene.geometry,
    figure = `subjects/${map.face.subject}/`,
    { frame } = map.face;
  const out: Pick<Parts, 'hair' | 'background'> = { hair: [], background: [] };
  // what grows on the head above the nose's base and is not its skin; whatever its file calls it
  const isHair = (object: string, p: number): boolean => {
    const local = scale(toHead(frame, [guides.mean(p, 4), guides.mean(p, 5), guides.mean(p, 6)]), 1 / frame.headHeight);
    return length(local) < 1.1 && local[1] > map.face.points.noseBase[1] && !NO_HAIR.test(object);
  };
  for (let p = 0; p < ids.length; p += 3) {
    const id = ids[p]!,
      object = id >= 0 ? objects[id]! : '';
    if (!object.startsWith('subjects/')) out.background.push(p);
    else if (id !== map.skin && object.startsWith(figure) && isHair(object, p)) out.hair.push(p);
  }
  return out;
}

/**
 * What a picture shows of a face. `linear` is its light before look and plate, r g b by pixel, which may be written over after the first step: it is done
 * in steps, between which whoever waits can do something else.
 */
export function* seenSteps(
  source: FilmSource,
  linear: Float32Array,
  setup: Setup,
  scene: Scene,
  map: FaceMap,
  features: Features | undefined,
): Generator<undefined, { seen: Seen; pixels: Int32Array }> {
  const n = source.width * source.height;
  const light = new Float32Array(n),
    over = new Uint8Array(n);
  for (let p = 0; p < n; p++) {
    light[p] = luminance(linear[p * 3]!, linear[p * 3 + 1]!, linear[p * 3 + 2]!);
    if (linear[p * 3]! >= 1 || linear[p * 3 + 1]! >= 1 || linear[p * 3 + 2]! >= 1) over[p] = 1;
  }
  const pixels = pixelsOf(map, scene, source);
  const cheeks = cheeksOf(map, features, pixels);
  const face = meanColour(cheeks['lit cheek'], linear),
    shadow = meanColour(cheeks['shadow cheek'], linear);
  const colour = face && shadow && colourOf(face, shadow);
  yield;
  const figure = `subjects/${map.face.subject}/`,
    own = scene.geometry.objects.map((o) => o.startsWith(figure));
  const objects = new Int16Array(n);
  for (let p = 0; p < n; p++) objects[p] = objectAt(source, p);
  yield;
  // skin
  const skin = new Float32Array(n);
  let many = 0,
    clipped = 0,
    crushed = 0;
  for (let p = 0; p < n; p++) {
    if (objects[p] !== map.skin) continue;
    skin[many++] = light[p]!;
    if (over[p]) clipped++;
    else if (light[p]! < CRUSHED) crushed++;
  }
  const sorted = skin.subarray(0, many),
    hotFrom = median(sorted) * 2 ** HOT;
  const hot: number[] = [];
  for (let p = 0; p < n; p++) if (objects[p] === map.skin && light[p]! > hotFrom) hot.push(p);
  const cells = (is: (p: number) => boolean) => Array.from({ length: CELLS }, (_, c) => c).filter((c) => pixels[c]! >= 0 && is(pixels[c]!));
  yield;
  // silhouette
  const edges = silhouette(source, (p) => own[objects[p]!] === true);
  const stopsOf = (e: Edge): number => Math.log2(Math.max(light[e.inside]!, 1e-5) / Math.max(light[e.outside]!, 1e-5));
  const coverageOf = (side: 'left' | 'right') => {
    const of = edges.filter((e) => e.side === side);
    return of.length ? of.filter((e) => Math.abs(stopsOf(e)) >= APART).length / of.length : undefined;
  };
  const left = coverageOf('left'),
    right = coverageOf('right');
  const parts: Parts = { ...cheeks, edge: edges.map((e) => e.inside), ...othersOf(map, source, scene, objects) };
  const tones: Seen['parts'] = {};
  for (const t of TARGETS) if (parts[t].length) tones[t] = toneOf(meanOf(parts[t], (p) => light[p]!));
  yield;
  const gains = setupGains(setup);
  const lights: Given[] = [];
  let hottest = 0,
    hotLight: string | undefined;
  for (const id of Object.keys(setup.lights.items)) {
    const film = source.shown(id)?.film,
      gain = gains[id];
    if (!film || !gain || film.width !== source.width) continue;
    lights.push(givenBy(id, film, gain, parts, light));
    const own = hot.length ? meanOf(hot, luminanceOf(film, gain)) : 0;
    if (own > hottest) [hottest, hotLight] = [own, id];
    yield;
  }
  const share = (of: number) => of / Math.max(1, many);
  return {
    pixels,
    seen: {
      clipped: share(clipped),
      crushed: share(crushed),
      ...(edges.length ? { separation: median(Float32Array.from(edges, stopsOf)) } : {}),
      coverage: { ...(left === undefined ? {} : { left }), ...(right === undefined ? {} : { right }) },
      ...(colour ? { colour } : {}),
      ...(face ? { face } : {}),
      hot: {
        share: share(hot.length),
        cells: cells((p) => objects[p] === map.skin && light[p]! > hotFrom),
        stops: hot.length ? Math.log2(meanOf(hot, (p) => light[p]!) / Math.max(hotFrom / 2 ** HOT, 1e-6)) : 0,
        ...(hotLight === undefined ? {} : { light: hotLight }),
      },
      clippedCells: cells((p) => over[p] === 1),
      parts: tones,
      lights,
    },
  };
}

/** The same at one go. */
export function seenOf(...of: Parameters<typeof seenSteps>): Seen {
  const steps = seenSteps(...of);
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value.seen;
  }
}

const meanOf = (pixels: readonly number[], of: (p: number) => number): number =>
  pixels.reduce((sum, p) => sum + of(p), 0) / Math.max(1, pixels.length);

/** Every so many pixels one is asked what a light adds to it, and that of the few where it adds most counts. */
const EVERY = 5,
  MOST_OF = 0.995;

/** Luminance of a light's film at its gain, by pixel. */
export function luminanceOf(film: Film, gain: Gain): (p: number) => number {
  const layers = film.layers.map(({ name }, l) => ({
    plane: film.best(l),
    r: luminance(gain[name][0], 0, 0),
    g: luminance(0, gain[name][1], 0),
    b: luminance(0, 0, gain[name][2]),
  }));
  return (p) => {
    let sum = 0;
    for (let l = 0; l < layers.length; l++) {
      const { plane, r, g, b } = layers[l]!;
      sum += r * plane[p * 3]! + g * plane[p * 3 + 1]! + b * plane[p * 3 + 2]!;
    }
    return sum;
  };
}

/** What a light gives to the parts, and the most that it adds to any of the picture. */
function givenBy(id: string, film: Film, gain: Gain, parts: Parts, whole: Float32Array): Given {
  const own = luminanceOf(film, gain);
  const gives: Given['gives'] = {};
  for (const t of TARGETS) if (parts[t].length) gives[t] = meanOf(parts[t], own);
  const added = new Float32Array(Math.ceil(whole.length / EVERY));
  let n = 0;
  for (let p = 0; p < whole.length; p += EVERY) {
    const all = whole[p]!;
    // what is dark anyway shows nothing of it
    if (all >= 0.004) added[n++] = all / Math.max(all - own(p), all * 1e-3);
  }
  const sorted = added.subarray(0, n).sort();
  return { id, gives, most: n ? Math.log2(sorted[Math.floor(MOST_OF * (n - 1))]!) : 0 };
}

/** Pixels that a colour of skin needs at least. */
const FEW = 8;

const meanColour = (pixels: readonly number[], linear: Float32Array): Vec3 | undefined =>
  pixels.length < FEW ? undefined : ([0, 1, 2].map((k) => meanOf(pixels, (p) => linear[p * 3 + k]!)) as Vec3);

function colourOf(lit: Vec3, dark: Vec3): Seen['colour'] {
  const warm = (c: Vec3): number => Math.log2(Math.max(c[0], 1e-9) / Math.max(c[2], 1e-9));
  return { difference: colourDifference(atOneLevel(lit), atOneLevel(dark)), warmer: warm(lit) - warm(dark) };
}
