import { FILM_CHANNELS, type Tile, type TraceResult } from '../trace/index.ts';

/**
 * One light's own film: sums of its diffuse and specular layers, and how many samples each pixel has had.
 * Linear, for luminance 1; balance gives it level and colour.
 */
export class Film {
  readonly width: number;
  readonly height: number;
  /** pixels × 6 sums. */
  readonly sums: Float32Array;
  /** Samples of each pixel. */
  readonly counts: Uint16Array;

  constructor(width: number, height: number) {
    this.width = width;
    this.height = height;
    this.sums = new Float32Array(width * height * FILM_CHANNELS);
    this.counts = new Uint16Array(width * height);
  }

  clear(): void {
    this.sums.fill(0);
    this.counts.fill(0);
  }

  /** Adds a tile's sums over `samples` samples. */
  add(tile: Tile, sums: Float32Array, samples: number): void {
    const row = tile.width * FILM_CHANNELS;
    for (let j = 0; j < tile.height; j++) {
      const at = (tile.y + j) * this.width + tile.x;
      const to = at * FILM_CHANNELS,
        from = j * row;
      for (let k = 0; k < row; k++) this.sums[to + k] = this.sums[to + k]! + sums[from + k]!;
      for (let i = 0; i < tile.width; i++) this.counts[at + i] = this.counts[at + i]! + samples;
    }
  }
}

/** The part of a result that belongs to light number `index`. */
export function resultFilm(result: TraceResult, index: number, pixels: number): Float32Array {
  return result.films.subarray(index * pixels * FILM_CHANNELS, (index + 1) * pixels * FILM_CHANNELS);
}

/** Cuts a picture into tiles, the middle first: that is where the face is. */
export function tilesOf(width: number, height: number, size = 64): Tile[] {
  const tiles: Tile[] = [];
  for (let y = 0; y < height; y += size)
    for (let x = 0; x < width; x += size) tiles.push({ x, y, width: Math.min(size, width - x), height: Math.min(size, height - y) });
  const off = (t: Tile) => Math.hypot(t.x + t.width / 2 - width / 2, t.y + t.height / 2 - height * 0.45);
  return tiles.sort((a, b) => off(a) - off(b));
}
