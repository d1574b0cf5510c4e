import { plainFilmMath, type FilmMath } from '@plinket/kernel';
import { GUIDE_CHANNELS, type GuideSums, type Tile, type TraceResult } from '../trace/index.ts';

const plain = plainFilmMath();

/**
 * One light's own film: means of its diffuse, specular and (in haze) volume layers, r g b each, and how many samples each
 * pixel has had. Linear, for luminance 1; balance gives it level and colour.
 */
export class Film {
  readonly width: number;
  readonly height: number;
  readonly diffuse: Float32Array;
  readonly specular: Float32Array;
  readonly volume: Float32Array | undefined;
  /** Sums of squared sample luminances: diffuse and specular of each pixel, in two planes. */
  readonly squares: Float32Array;
  /** The same of the volume layer. */
  readonly volumeSquares: Float32Array | undefined;
  /** Samples of each pixel. */
  readonly counts: Uint16Array;
  /** The layers with their noise removed, when that has been done, and how many samples they had then. */
  smooth: { diffuse: Float32Array; specular: Float32Array; samples: number } | undefined;
  /** Pixels without a sample. */
  missing: number;
  private readonly math: FilmMath;
  private released = false;

  constructor(width: number, height: number, options: { math?: FilmMath; haze?: boolean } = {}) {
    const { math = plain, haze = false } = options;
    this.width = width;
    this.height = height;
    this.math = math;
    const pixels = width * height;
    this.missing = pixels;
    this.diffuse = math.floats(pixels * 3);
    this.specular = math.floats(pixels * 3);
    this.volume = haze ? math.floats(pixels * 3) : undefined;
    this.squares = math.floats(pixels * 2);
    this.volumeSquares = haze ? math.floats(pixels) : undefined;
    this.counts = new Uint16Array(pixels);
  }

  /** Takes in part number `index` of a tile's result of `samples` samples. */
  add(tile: Tile, result: TraceResult, index: number, samples: number): void {
    if (this.released) return;
    const { width, diffuse, specular, volume, squares, counts, math } = this;
    const { films, volumes } = result;
    const n = tile.width * tile.height,
      second = width * this.height;
    const start = tile.y * width + tile.x;
    // rows that have as many samples all along are taken in together: as a rule the whole tile
    for (let from = 0, to: number; from < tile.height; from = to) {
      const had = counts[start + from * width]!;
      const even = (row: number): boolean => {
        for (let i = 0; i < tile.width; i++) if (counts[start + row * width + i] !== had) return false;
        return true;
      };
      for (to = from + 1; to < tile.height && even(to); to++);
      if (!even(from)) throw new RangeError('A tile must have as many samples in all of a row.');
      const has = had + samples,
        keep = had / has,
        rows = to - from;
      const at = start + from * width,
        p = from * tile.width,
        d = index * n * 6 + p * 3,
        q = index * n * 2 + p;
      for (let row = from; row < to; row++) counts.fill(has, start + row * width, start + row * width + tile.width);
      if (had === 0) this.missing -= rows * tile.width;
      const layer = (plane: Float32Array, source: Float32Array, first: number) =>
        math.mixBlock(plane, at * 3, width * 3, source, first, tile.width * 3, rows, keep, 1 / has);
      layer(diffuse, films, d);
      layer(specular, films, d + n * 3);
      if (volume) layer(volume, volumes, index * n * 3 + p * 3);
      if (this.volumeSquares) math.mixBlock(this.volumeSquares, at, width, result.volumeSquares, index * n + p, tile.width, rows, 1, 1);
      math.mixBlock(squares, at, width, result.squares, q, tile.width, rows, 1, 1);
      math.mixBlock(squares, second + at, width, result.squares, q + n, tile.width, rows, 1, 1);
    }
  }

  /** Variance of the mean luminance of a pixel's layer (0 diffuse, 1 specular, 2 volume); infinite below two samples. */
  variance(pixel: number, layer: 0 | 1 | 2): number {
    const n = this.counts[pixel]!;
    if (n < 2) return Infinity;
    const plane = layer === 0 ? this.diffuse : layer === 1 ? this.specular : this.volume,
      o = pixel * 3;
    if (!plane) return 0;
    const mean = 0.2126 * plane[o]! + 0.7152 * plane[o + 1]! + 0.0722 * plane[o + 2]!;
    const sum = layer === 2 ? this.volumeSquares![pixel]! : this.squares[layer * this.counts.length + pixel]!;
    return Math.max(0, sum / n - mean * mean) / (n - 1);
  }

  /** Gives the memory back. The film must not be used any more; late results are ignored. */
  release(): void {
    if (this.released) return;
    this.released = true;
    for (const a of [
      this.diffuse,
      this.specular,
      this.volume,
      this.squares,
      this.volumeSquares,
      this.smooth?.diffuse,
      this.smooth?.specular,
    ])
      if (a) this.math.free(a);
    this.smooth = undefined;
  }
}

/** What the first surfaces are, pixel by pixel, gathered from tiles: alpha, normal, position, albedo, depth, identities. */
export class Guides {
  readonly width: number;
  readonly height: number;
  /** Sums, `GUIDE_CHANNELS` a pixel; the first is how many samples met something. */
  readonly sums: Float32Array;
  readonly ids: Int32Array;
  readonly alpha: Float32Array;
  readonly counts: Uint16Array;

  constructor(width: number, height: number) {
    this.width = width;
    this.height = height;
    this.sums = new Float32Array(width * height * GUIDE_CHANNELS);
    this.ids = new Int32Array(width * height * 2).fill(-1);
    this.alpha = new Float32Array(width * height);
    this.counts = new Uint16Array(width * height);
  }

  add(tile: Tile, guides: GuideSums, alpha: Float32Array, samples: number): void {
    for (let j = 0; j < tile.height; j++)
      for (let i = 0; i < tile.width; i++) {
        const at = (tile.y + j) * this.width + tile.x + i,
          p = j * tile.width + i;
        for (let c = 0; c < GUIDE_CHANNELS; c++)
          this.sums[at * GUIDE_CHANNELS + c] = this.sums[at * GUIDE_CHANNELS + c]! + guides.sums[p * GUIDE_CHANNELS + c]!;
        if (this.counts[at] === 0) {
          this.ids[at * 2] = guides.ids[p * 2]!;
          this.ids[at * 2 + 1] = guides.ids[p * 2 + 1]!;
        }
        this.alpha[at] = this.alpha[at]! + alpha[p]!;
        this.counts[at] = this.counts[at]! + samples;
      }
  }

  /** Least samples of any pixel. */
  get least(): number {
    let least = Infinity;
    for (let p = 0; p < this.counts.length; p++) if (this.counts[p]! < least) least = this.counts[p]!;
    return Number.isFinite(least) ? least : 0;
  }

  /** Share of a pixel that is covered, 0…1. */
  alphaAt(pixel: number): number {
    const n = this.counts[pixel]!;
    return n ? this.alpha[pixel]! / n : 0;
  }

  /** Mean of a channel of a pixel (1…3 normal, 4…6 position, 7…9 albedo, 10 depth); 0 where nothing is. */
  mean(pixel: number, channel: number): number {
    const n = this.sums[pixel * GUIDE_CHANNELS]!;
    return n ? this.sums[pixel * GUIDE_CHANNELS + channel]! / n : 0;
  }
}

/** Cuts a picture into tiles, the middle first: that is where the face is. */
export function tilesOf(width: number, height: number, size = 32): Tile[] {
  const tiles: Tile[] = [];
  for (let y = 0; y < height; y += size)
    for (let x = 0; x < width; x += size) tiles.push({ x, y, width: Math.min(size, width - x), height: Math.min(size, height - y) });
  const off = (t: Tile) => Math.hypot(t.x + t.width / 2 - width / 2, t.y + t.height / 2 - height * 0.45);
  return tiles.sort((a, b) => off(a) - off(b));
}
