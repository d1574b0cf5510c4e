// What a light's film is made of: one table, which films, balance, noise, noise removal, files and the tracer read. A further layer is a
// further row.

export type Rgb = [number, number, number];

export interface FilmLayer {
  name: string;
  /** The surfaces' own colour is in it: noise removal and enlarging take it out and put it back. */
  albedo: boolean;
  /** Noise is removed from it. */
  smoothed: boolean;
  /** Where it is there, if not always: in haze, where something catches shadows. */
  in?: keyof FilmKind;
}

/** What decides which layers a film has. */
export interface FilmKind {
  haze?: boolean;
  catcher?: boolean;
  /** What others throw on it, and what it mirrors of them, is wished too. */
  followed?: boolean;
}

/**
 * The layers in the order in which films, results and files have them; each is red, green, blue for each pixel. Of a catcher: what other
 * surfaces throw on it, and what it mirrors of them (in the order of the first two, so that a path fills them as it fills those), what arrives at it
 * directly, and what would arrive if nothing but stage and catchers stood there: both as irradiance.
 */
export const FILM_LAYERS = [
  { name: 'diffuse', albedo: true, smoothed: true },
  { name: 'specular', albedo: false, smoothed: true },
  { name: 'volume', albedo: false, smoothed: false, in: 'haze' },
  { name: 'bounce', albedo: true, smoothed: true, in: 'followed' },
  { name: 'mirror', albedo: false, smoothed: true, in: 'followed' },
  { name: 'arrives', albedo: false, smoothed: true, in: 'catcher' },
  { name: 'open', albedo: false, smoothed: true, in: 'catcher' },
] as const satisfies readonly FilmLayer[];

export type LayerName = (typeof FILM_LAYERS)[number]['name'];

type Layer = FilmLayer & { name: LayerName };

/** The layers that a film has, in haze or without, with a catcher or without. */
export const layersIn = (kind: FilmKind): readonly Layer[] =>
  (FILM_LAYERS as readonly Layer[]).filter((l) => l.in === undefined || kind[l.in] === true);

/** The layers that make a picture: what a catcher holds is no light that the camera sees. */
export const SEEN_LAYERS: readonly LayerName[] = (FILM_LAYERS as readonly Layer[])
  .filter((l) => l.in === undefined || l.in === 'haze')
  .map((l) => l.name);

/** What balance does to one light's film: factors on its layers, red, green, blue each. */
export type Gain = Record<LayerName, Rgb>;

/** A light's own factor on a layer: of what it throws, of what is mirrored of it, of what haze scatters of it. */
export function factorOn(light: { diffuse: number; specular: number; volume: number }, layer: LayerName): number {
  switch (layer) {
    case 'volume':
      return light.volume;
    case 'specular':
    case 'mirror':
      return light.specular;
    default:
      return light.diffuse;
  }
}

/** One and the same factor on some layers, none on the others. */
export const gainOn = (rgb: Rgb, layers: readonly LayerName[] = SEEN_LAYERS): Gain =>
  Object.fromEntries(FILM_LAYERS.map(({ name }) => [name, layers.includes(name) ? rgb : [0, 0, 0]])) as Gain;
