/** Objects, and materials, of a pixel that are told apart; what else is in it goes by the board. Common practice, no source. */
export const MATTE_RANKS = 6;

/** What the samples of every pixel met first: for each, `MATTE_RANKS` times a number plus 1 (0: none) and how many samples met it. */
export interface Mattes {
  objects: Uint16Array;
  materials: Uint16Array;
}

export const emptyMattes = (pixels: number): Mattes => ({
  objects: new Uint16Array(pixels * MATTE_RANKS * 2),
  materials: new Uint16Array(pixels * MATTE_RANKS * 2),
});

/** So many samples of a pixel met `what`. */
export function addMatte(to: Uint16Array, pixel: number, what: number, samples: number): void {
  for (let at = pixel * MATTE_RANKS * 2, end = at + MATTE_RANKS * 2; at < end; at += 2) {
    if (to[at] !== 0 && to[at] !== what + 1) continue;
    to[at] = what + 1;
    to[at + 1] = to[at + 1]! + samples;
    return;
  }
}

/** Adds what stands in one pixel to another. */
export function joinMattes(to: Mattes, pixel: number, from: Mattes, other: number): void {
  for (const kind of ['objects', 'materials'] as const)
    for (let i = 0, at = other * MATTE_RANKS * 2; i < MATTE_RANKS; i++, at += 2) {
      const what = from[kind][at]!;
      if (what === 0) break;
      addMatte(to[kind], pixel, what - 1, from[kind][at + 1]!);
    }
}
