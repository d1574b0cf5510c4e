// What a light's film is made of: one table, which films, balance, noise, noise removal, files and the tracer read. A further layer is a
// further row.

export type Rgb = [number, number, number];

export interface FilmLayer {
  name: string;
  /** The surfaces' own colour is in it: noise removal and enlarging take it out and put it back. */
  albedo: boolean;
  /** Noise is removed from it. */
  smoothed: boolean;
  /** It is there in haze only. */
  haze: boolean;
}

/** The layers in the order in which films, results and files have them; each is red, green, blue for each pixel. */
export const FILM_LAYERS = [
  { name: 'diffuse', albedo: true, smoothed: true, haze: false },
  { name: 'specular', albedo: false, smoothed: true, haze: false },
  { name: 'volume', albedo: false, smoothed: false, haze: true },
] as const satisfies readonly FilmLayer[];

export type LayerName = (typeof FILM_LAYERS)[number]['name'];

/** The layers that a film has, with haze or without. */
export const layersIn = (haze: boolean): readonly (FilmLayer & { name: LayerName })[] => FILM_LAYERS.filter((l) => haze || !l.haze);

/** What balance does to one light's film: factors on its layers, red, green, blue each. */
export type Gain = Record<LayerName, Rgb>;

/** One and the same factor on some layers, none on the others. */
export const gainOn = (rgb: Rgb, layers: readonly LayerName[] = FILM_LAYERS.map((l) => l.name)): Gain =>
  Object.fromEntries(FILM_LAYERS.map(({ name }) => [name, layers.includes(name) ? rgb : [0, 0, 0]])) as Gain;
