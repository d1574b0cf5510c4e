// A finished picture's file, made here without rendering: as the Lab writes them, with two lights whose layers are even.
import { plainFilmMath } from '@plinket/kernel';
import { Film, filmsFile, Guides, orderOf, parseSetup, PictureMaker, writeExr } from '@plinket/core';

const W = 64,
  H = 48;

/** @param document of a setup */
export function finishedExr(document: unknown): Buffer {
  const setup = parseSetup(document);
  const films = new Map(
    orderOf(setup.lights).map((id, i) => {
      const film = new Film(W, H, { settled: true });
      film.planes.forEach((p) => p.fill(1e-4 * (i + 1)));
      return [id, film] as const;
    }),
  );
  const guides = new Guides(W, H);
  guides.alpha.fill(1);
  guides.settle();
  const source = {
    width: W,
    height: H,
    guides,
    shown: (id: string) => {
      const film = films.get(id);
      return film && { film };
    },
  };
  const maker = new PictureMaker(plainFilmMath(), { gobo: () => undefined, cube: () => undefined });
  const { linear } = maker.linear(source, { setup, bare: true });
  const { channels, text } = filmsFile(source, setup, { linear, alpha: guides.alpha, passes: [] });
  return Buffer.from(writeExr(W, H, channels, text));
}
