// What is traced next: a function of what has been done, and of nothing else.

/** What has been done to one light's films, tile by tile. */
export interface Done {
  done: Uint16Array;
  busy: Uint8Array;
  /** Nothing where there is no coarse film. */
  coarse: unknown;
  coarseDone: Uint8Array;
  coarseBusy: Uint8Array;
}

/** Everything that is to be decided upon. */
export interface Work {
  readonly films: ReadonlyMap<string, Done>;
  readonly tiles: { length: number };
  readonly coarseTiles: { length: number };
  /** Tiles whose noise is low enough. */
  readonly resting: Uint8Array;
  /** Samples of each tile for which the first surfaces were written down, or are being. */
  readonly guided: Uint16Array;
  /** They are for all samples, not only for the first ones. */
  readonly allGuided?: boolean;
}

/** One piece of work: samples from … to − 1 of a tile, for lights that have as many. */
export interface Step {
  kind: 'coarse' | 'fine';
  tile: number;
  lights: string[];
  from: number;
  to: number;
  /** Also write down what the first surfaces are. */
  guides: boolean;
}

/** Samples for which the first surfaces are written down. */
const GUIDE_SAMPLES = 16;
/** Samples of the longest pass: nobody should wait for one. */
const LONGEST = 8;
/** 1, 1, 2, 4, 8, 8 …: short at first, so that every light is heard soon. */
const passLength = (done: number): number => (done === 0 ? 1 : Math.min(LONGEST, done));

/** The next tile of the coarse picture, for all lights that lack it. */
export function nextCoarse({ films, coarseTiles }: Work, samples: number): Step | undefined {
  for (let tile = 0; tile < coarseTiles.length; tile++) {
    const lights = [...films].filter(([, f]) => f.coarse && !f.coarseDone[tile] && !f.coarseBusy[tile]).map(([id]) => id);
    if (lights.length) return { kind: 'coarse', tile, lights, from: 0, to: samples, guides: false };
  }
  return undefined;
}

/**
 * The tile that has fewest samples, the first (the middle) among equals, for all lights that have as few. Passes of one tile follow each
 * other: a tile on its way is not handed out again.
 * @param watched somebody looks on: passes are short at first
 */
export function nextFine({ films, tiles, resting, guided, allGuided }: Work, samples: number, watched: boolean): Step | undefined {
  let tile = -1,
    from = samples;
  for (let t = 0; t < tiles.length; t++) {
    if (resting[t]) continue;
    for (const f of films.values())
      if (!f.busy[t] && f.done[t]! < from) {
        from = f.done[t]!;
        tile = t;
      }
  }
  if (tile < 0) return undefined;
  const lights = [...films].filter(([, f]) => !f.busy[tile] && f.done[tile] === from).map(([id]) => id);
  const to = Math.min(samples, from + (watched ? passLength(from) : LONGEST));
  // the surfaces are written down with passes in their order, whoever's they are
  return { kind: 'fine', tile, lights, from, to, guides: guided[tile] === from && (allGuided || from < GUIDE_SAMPLES) };
}
