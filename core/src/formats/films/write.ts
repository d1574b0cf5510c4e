// A finished picture as a file that can be balanced anew without a ray: every light's layers on their own, the setup as an attribute.
import { OPENNESS, type Film, type FilmSource, type Guides } from '../../film/index.ts';
import { inOrder, orderOf, SEEN_LAYERS, setupGains, type Setup } from '../../setup/index.ts';
import { asciiJson } from '../text.ts';
import type { ExrChannel } from '../exr/index.ts';
import { matteChannels, type MatteNames } from './mattes.ts';

/** What a file may hold besides the picture and its lights. */
export const PASSES = ['groups', 'shadow', 'depth', 'normal', 'albedo', 'position', 'cryptomatte'] as const;
export type Pass = (typeof PASSES)[number];

/** Attributes of the file: the setup (JSON), and what each light's layers were multiplied with (JSON, by the light's id). */
export const SETUP_ATTRIBUTE = 'plinketSetup',
  LEVELS_ATTRIBUTE = 'plinketLevels';
/** What the pseudo light of open surfaces is called in a file. */
export const OPEN_LAYER = 'openness';

const RGB = ['R', 'G', 'B'] as const;

/** Every third value, times a factor. */
const plane = (from: Float32Array, c: number, factor = 1): Float32Array => {
  const out = new Float32Array(from.length / 3);
  for (let i = 0, at = c; i < out.length; i++, at += 3) out[i] = from[at]! * factor;
  return out;
};

/** A layer as it is shown: so much of its noise removed as the look says. */
function shownPlane(film: Film, layer: number, c: number, share: number, factor: number): Float32Array {
  const smooth = film.smooth?.planes[layer];
  if (!smooth || share === 0) return plane(film.planes[layer]!, c, factor);
  const raw = film.planes[layer]!,
    out = new Float32Array(raw.length / 3);
  for (let i = 0, at = c; i < out.length; i++, at += 3) out[i] = (raw[at]! * (1 - share) + smooth[at]! * share) * factor;
  return out;
}

/**
 * What a light's layers are multiplied with in a file: the power of two nearest to what balance gives them, so that halves hold them well and the
 * division is exact. A light that is off counts as though it were on.
 */
export function fileLevel(setup: Setup, id: string): number {
  const gain = setupGains(setup, [id], SEEN_LAYERS)[id]!,
    most = Math.max(...SEEN_LAYERS.flatMap((layer) => gain[layer]));
  return most > 0 ? 2 ** Math.round(Math.log2(most)) : 1;
}

/** The name of a group in a file, different for each. */
function groupNames(setup: Setup): Map<string, string> {
  const names = new Map<string, string>(),
    taken = new Set<string>();
  for (const { group } of inOrder(setup.lights)) {
    if (group === '' || names.has(group)) continue;
    const safe = `group_${group.replace(/[^A-Za-z0-9-]+/g, '_')}`;
    let name = safe;
    for (let n = 2; taken.has(name); n++) name = `${safe}_${n}`;
    taken.add(name);
    names.set(group, name);
  }
  return names;
}

/** Light of each group, and of the lights that are in none (`rest`), as balanced: their sum is the picture's light. */
function groupChannels(setup: Setup, source: FilmSource, smooth: number): ExrChannel[] {
  const sums = new Map<string, Float32Array[]>(),
    names = groupNames(setup),
    gains = setupGains(setup);
  for (const id of orderOf(setup.lights)) {
    const film = source.shown(id)?.film,
      light = setup.lights.items[id]!;
    if (!film || !light.on) continue;
    const name = names.get(light.group) ?? 'rest';
    const sum = sums.get(name) ?? RGB.map(() => new Float32Array(source.width * source.height));
    sums.set(name, sum);
    film.layers.forEach(({ name: layer }, l) => {
      if (!SEEN_LAYERS.includes(layer)) return;
      sum.forEach((to, c) => shownPlane(film, l, c, smooth, gains[id]![layer][c]!).forEach((v, i) => (to[i] = to[i]! + v)));
    });
  }
  return [...sums].flatMap(([name, sum]) => sum.map((data, c): ExrChannel => ({ name: `${name}.${RGB[c]}`, data, type: 'half' })));
}

/** What the first surfaces are, by name: `depth`, `normal`, `albedo`, `position`. */
export function surfaceChannels(guides: Guides, pass: Pass | string): ExrChannel[] {
  const pixels = guides.width * guides.height;
  const mean = (channel: number): Float32Array => {
    const out = new Float32Array(pixels);
    for (let i = 0; i < pixels; i++) out[i] = guides.mean(i, channel);
    return out;
  };
  const vector = (name: string, first: number, axes: readonly string[], type: 'half' | 'float') =>
    axes.map((axis, k): ExrChannel => ({ name: `${name}.${axis}`, data: mean(first + k), type }));
  switch (pass) {
    case 'normal':
      return vector(pass, 1, ['X', 'Y', 'Z'], 'half');
    case 'position':
      return vector(pass, 4, ['X', 'Y', 'Z'], 'float');
    case 'albedo':
      return vector(pass, 7, RGB, 'half');
    case 'depth':
      return [{ name: 'depth.Z', data: mean(10), type: 'float' }];
    default:
      return [];
  }
}

/** How much of a light arrives at a catcher, of what would arrive if nothing cast a shadow there. */
export function shadowChannels(id: string, film: Film): ExrChannel[] {
  const arrives = film.plane('arrives'),
    open = film.plane('open');
  if (!arrives || !open) return [];
  return RGB.map((name, c) => {
    const data = new Float32Array(arrives.length / 3);
    for (let i = 0, at = c; i < data.length; i++, at += 3) data[i] = open[at]! > 0 ? arrives[at]! / open[at]! : 1;
    return { name: `shadow.${id}.${name}`, data, type: 'half' };
  });
}

export interface FilmsFileWish {
  /** The picture's linear light, r g b, and how much of each pixel is covered. */
  linear: Float32Array;
  alpha: Float32Array;
  passes: readonly Pass[];
  /** What the pass `cryptomatte` tells apart. */
  names?: MatteNames;
}

/**
 * Channels and attributes of a file: the picture (`R`, `G`, `B`, `A`), every light's layers (`ID.LAYER.R`…) at the level that stands in the attribute
 * `plinketLevels`, whether the light is on or off, and the passes. Σ layers · gain ÷ level is the picture.
 */
export function filmsFile(
  source: FilmSource,
  setup: Setup,
  { linear, alpha, passes, names }: FilmsFileWish,
): { channels: ExrChannel[]; text: Record<string, string> } {
  const channels: ExrChannel[] = RGB.map((name, c) => ({ name, data: plane(linear, c), type: 'half' }));
  channels.push({ name: 'A', data: alpha, type: 'half' });
  const levels: Record<string, number> = {},
    { smooth } = setup.look;
  for (const id of orderOf(setup.lights)) {
    const film = source.shown(id)?.film;
    if (!film) continue;
    const level = (levels[id] = fileLevel(setup, id));
    film.layers.forEach(({ name: layer }, l) =>
      RGB.forEach((name, c) =>
        channels.push({ name: `${id}.${layer}.${name}`, data: shownPlane(film, l, c, smooth, level), type: 'half' }),
      ),
    );
    if (passes.includes('shadow')) channels.push(...shadowChannels(id, film));
  }
  const open = source.shown(OPENNESS.id)?.film;
  open?.layers.forEach(({ name: layer }, l) =>
    channels.push({ name: `${OPEN_LAYER}.${layer}.Y`, data: plane(open.planes[l]!, 0), type: 'half' }),
  );
  const { guides } = source;
  if (guides.caught.some((v) => v > 0))
    channels.push({ name: 'caught.A', data: Float32Array.from(alpha, (_, i) => guides.caughtAt(i)), type: 'half' });
  channels.push({ name: 'covered.A', data: Float32Array.from(alpha, (_, i) => guides.alphaAt(i)), type: 'half' });
  if (passes.includes('groups')) channels.push(...groupChannels(setup, source, smooth));
  for (const pass of passes) channels.push(...surfaceChannels(guides, pass));
  const mattes = passes.includes('cryptomatte') && names ? matteChannels(guides, names) : { channels: [], text: {} };
  channels.push(...mattes.channels);
  return { channels, text: { ...mattes.text, [SETUP_ATTRIBUTE]: asciiJson(setup), [LEVELS_ATTRIBUTE]: asciiJson(levels) } };
}
