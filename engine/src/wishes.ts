import type { Scene, Tile } from '@plinket/core';
import type { FilmSet } from './film-set.ts';

/** How a picture is to be traced. */
export interface RenderOptions {
  width: number;
  height: number;
  /** Samples a pixel at which a film is finished. */
  samples: number;
  seed: number;
  bounces: number;
  /** Trace a small picture first, to have something at once. */
  coarse: boolean;
  /** Most luminance of one indirect contribution; default: no limit. */
  clamp?: number;
  /** Light does not go into skin: quicker, for who looks from afar. Default: it does, but in a coarse picture. */
  shallow?: boolean;
  /** Also write down which objects and materials the samples of each pixel met. */
  mattes?: boolean;
  /**
   * A tile may rest before it has all samples once `noise` of it is below `enough` (steps of 8 bit, see `noiseOf` in core).
   */
  adaptive?: { enough: number; least: number; noise: (tile: Tile) => number };
}

/** What is to be seen. Whoever wishes numbers their wishes; pictures say the number of the wish that they answer. */
export interface Wish {
  number: number;
  scene: Scene;
  options: RenderOptions;
}

/**
 * Which wish counts. While a coarse picture is on its way it is finished first, and of all wishes that come meanwhile the newest is taken
 * then: else a hand that never rests would never see anything.
 */
export class Wishes {
  /** What is traced. */
  current: Wish | undefined;
  /** The newest wish, while the one before it has nothing to show yet. */
  private coming: Wish | undefined;

  /** The wish to take up now: this one, or none while it must wait. */
  offer(wish: Wish, films: FilmSet): Wish | undefined {
    this.coming = wish;
    return this.due(films);
  }

  /** Takes a wish up whatever is on its way. */
  force(wish: Wish): Wish {
    this.coming = undefined;
    return wish;
  }

  /** The wish that waited and need not wait any more. */
  due(films: FilmSet): Wish | undefined {
    const next = this.coming;
    if (!next || (this.current && wouldLose(this.current, next, films))) return undefined;
    this.coming = undefined;
    return next;
  }

  forget(): void {
    this.current = this.coming = undefined;
  }
}

const sameFrame = (a: RenderOptions, b: RenderOptions): boolean => a.width === b.width && a.height === b.height;

/** Whether no film of one wish can stay for another. */
export function startsAgain(last: Wish | undefined, { scene, options }: Wish): boolean {
  if (!last) return true;
  const was = last.options;
  return (
    last.scene.geometry !== scene.geometry ||
    !sameFrame(was, options) ||
    last.scene.camera.key !== scene.camera.key ||
    JSON.stringify([last.scene.haze, last.scene.catchers]) !== JSON.stringify([scene.haze, scene.catchers]) ||
    was.seed !== options.seed ||
    was.bounces !== options.bounces ||
    was.clamp !== options.clamp ||
    was.shallow !== options.shallow ||
    was.mattes !== options.mattes
  );
}

/** Whether every film of one wish can stay for another: nothing is to be traced again. */
export const keepsFilms = (last: Wish, next: Wish): boolean =>
  !startsAgain(last, next) &&
  last.scene.lights.length === next.scene.lights.length &&
  next.scene.lights.every(({ id, key }) => last.scene.lights.some((l) => l.id === id && l.key === key));

/** Whether films would be thrown away that are on their way to their first picture. */
function wouldLose(last: Wish, next: Wish, films: FilmSet): boolean {
  if (!next.options.coarse || !sameFrame(last.options, next.options)) return false;
  const all = startsAgain(last, next);
  return next.scene.lights.some(({ id, key }) => {
    const f = films.films.get(id);
    return f !== undefined && (all || f.key !== key) && !films.isPresentable(id);
  });
}
