import type { Film, Guides } from './film.ts';

/** The films that stand for a light: its own, and a coarse one for where that has no samples yet. */
export interface Shown {
  film: Film;
  coarse?: Film;
}

/** Films of one view, whoever traces them. */
export interface FilmSource {
  readonly width: number;
  readonly height: number;
  readonly guides: Guides;
  shown(light: string): Shown | undefined;
}
