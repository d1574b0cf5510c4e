// A finished picture's file back as films: balance takes it as it takes what was just traced.
import type { FilmMath } from '@plinket/kernel';
import { z } from 'zod';
import { Film, Guides, OPENNESS, type FilmSource, type Shown } from '../../film/index.ts';
import { FILM_LAYERS, layersIn, orderOf, parseSetup, type FilmKind, type Setup } from '../../setup/index.ts';
import { fillChannels, readExrHead, type ExrTarget } from '../exr/index.ts';
import { checkSize, RadianceError } from '../radiance.ts';
import { LEVELS_ATTRIBUTE, OPEN_LAYER, SETUP_ATTRIBUTE } from './write.ts';

/** Films as they were read; give their memory back with `release`. */
export interface ReadFilms extends FilmSource {
  /** As they were rendered. */
  readonly setup: Setup;
  /** What is known beside the picture, by channel: of `passes`. */
  readonly names: readonly string[];
  release(): void;
}

const levelsSchema = z.record(z.string(), z.number().positive());

/** A text that is the JSON of something. @throws RadianceError */
function jsonOf<T>(text: string | undefined, what: string, read: (value: unknown) => T): T {
  if (text === undefined)
    throw new RadianceError(`The attribute “${what}” is missing: only files that Plinket has rendered with their lights can be balanced.`);
  try {
    return read(JSON.parse(text));
  } catch (error) {
    throw new RadianceError(`The attribute “${what}” cannot be read: ${error instanceof Error ? error.message : String(error)}`);
  }
}

/**
 * Reads the films of a file that `filmsFile` wrote, into the memory of `math`.
 * @param inflate takes zlib's packing off, beside what else is done; by fflate where nothing else is said
 * @throws RadianceError where it is none of ours, is cut off, or lacks channels: which ones
 */
export async function readFilms(
  bytes: Uint8Array,
  math: FilmMath,
  inflate?: (packed: Uint8Array, size: number) => Promise<Uint8Array> | Uint8Array,
): Promise<ReadFilms> {
  const head = readExrHead(bytes);
  const setup = jsonOf(head.text[SETUP_ATTRIBUTE], SETUP_ATTRIBUTE, parseSetup),
    levels = jsonOf(head.text[LEVELS_ATTRIBUTE], LEVELS_ATTRIBUTE, (v) => levelsSchema.parse(v));
  const width = head.window.x1 - head.window.x0 + 1,
    height = head.window.y1 - head.window.y0 + 1;
  checkSize(width, height);
  const known = new Set(head.channels.map((c) => c.name)),
    names = [...known];
  const kindOf = (id: string): FilmKind => {
    const kind: FilmKind = {};
    for (const layer of FILM_LAYERS) if ('in' in layer && names.some((n) => n.startsWith(`${id}.${layer.name}.`))) kind[layer.in] = true;
    return kind;
  };
  const targets: ExrTarget[] = [],
    films = new Map<string, Film>();
  const want = (id: string, named: string, channels: readonly string[], factor: number): void => {
    const film = new Film(width, height, { math, settled: true, ...kindOf(named) });
    films.set(id, film);
    layersIn(kindOf(named)).forEach(({ name: layer }, l) =>
      channels.forEach((channel, first) =>
        targets.push({ name: `${named}.${layer}.${channel}`, out: film.planes[l]!, stride: 3, first, factor }),
      ),
    );
  };
  const lights = orderOf(setup.lights).filter((id) => levels[id] !== undefined);
  const release = () => films.forEach((film) => film.release());
  try {
    for (const id of lights) want(id, id, ['R', 'G', 'B'], 1 / levels[id]!);
    if (names.some((n) => n.startsWith(`${OPEN_LAYER}.`))) want(OPENNESS.id, OPEN_LAYER, ['Y', 'Y', 'Y'], 1);
    const guides = new Guides(width, height);
    targets.push({ name: 'covered.A', out: guides.alpha, stride: 1, first: 0 });
    if (known.has('caught.A')) targets.push({ name: 'caught.A', out: guides.caught, stride: 1, first: 0 });
    const missing = [...new Set(targets.map((t) => t.name))].filter((n) => !known.has(n));
    if (missing.length)
      throw new RadianceError(
        `Channels are missing: ${missing.slice(0, 6).join(', ')}${missing.length > 6 ? `, ${missing.length - 6} more` : ''}.`,
      );
    await fillChannels(bytes, head, targets, math.stored, inflate);
    guides.settle();
    return {
      setup,
      names,
      width,
      height,
      guides,
      shown: (id): Shown | undefined => {
        const film = films.get(id);
        return film && { film };
      },
      release,
    };
  } catch (error) {
    release();
    throw error;
  }
}
