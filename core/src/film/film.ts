import { plainFilmMath, type FilmMath } from '@plinket/kernel';
import { layersIn, type FilmKind, type FilmLayer, type LayerName } from '../setup/index.ts';
import { emptyMattes, GUIDE_CHANNELS, joinMattes, type GuideSums, type Mattes, type Tile, type TraceResult } from '../trace/index.ts';

const plain = plainFilmMath();

/**
 * One light's own film: the mean of each of its layers, r g b, and how many samples each pixel has had. Linear, for luminance 1; balance
 * gives it level and colour.
 */
export class Film {
  readonly width: number;
  readonly height: number;
  /** What it is made of, in the order of the table, and the planes of that. */
  readonly layers: readonly (FilmLayer & { name: LayerName })[];
  readonly planes: readonly Float32Array[];
  /** Sums of squared sample luminances, layer by layer; none of a film that was settled from the beginning. */
  readonly squares: readonly Float32Array[];
  /** Samples of each pixel. */
  readonly counts: Uint16Array;
  /** The layers with their noise removed, when that has been done, and how many samples they had then. */
  smooth: { planes: (Float32Array | undefined)[]; samples: number } | undefined;
  /** Pixels without a sample. */
  missing: number;
  /** Grows with everything that is taken in. */
  stamp = 0;
  private readonly math: FilmMath;
  private released = false;

  /** @param options settled: it is whole from the beginning, and holds no noise that anybody knows of; who makes it fills its planes */
  constructor(width: number, height: number, options: { math?: FilmMath; settled?: boolean } & FilmKind = {}) {
    const { math = plain, settled = false, ...kind } = options;
    this.width = width;
    this.height = height;
    this.math = math;
    const pixels = width * height;
    this.missing = settled ? 0 : pixels;
    this.layers = layersIn(kind);
    this.planes = this.layers.map(() => math.floats(pixels * 3));
    this.squares = settled ? [] : this.layers.map(() => math.floats(pixels));
    this.counts = new Uint16Array(pixels).fill(settled ? 1 : 0);
  }

  /** One layer's plane; nothing where the film has no such layer. */
  plane(name: LayerName): Float32Array | undefined {
    return this.planes[this.layers.findIndex((l) => l.name === name)];
  }

  /** A layer's plane as it is to be shown: without its noise, where that has been removed. */
  best(layer: number): Float32Array {
    return this.smooth?.planes[layer] ?? this.planes[layer]!;
  }

  /** Takes in part number `index` of a tile's result of `samples` samples. @throws RangeError when its layers are others */
  add(tile: Tile, result: TraceResult, index: number, samples: number): void {
    if (this.released) return;
    this.stamp++;
    const { width, planes, squares, counts, math } = this;
    const { films } = result;
    if (result.layers.length !== planes.length) throw new RangeError('A result must have the layers of its film.');
    const n = tile.width * tile.height;
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
        p = from * tile.width;
      for (let row = from; row < to; row++) counts.fill(has, start + row * width, start + row * width + tile.width);
      if (had === 0) this.missing -= rows * tile.width;
      for (let l = 0; l < planes.length; l++) {
        const first = (index * planes.length + l) * n + p;
        math.mixBlock(planes[l]!, at * 3, width * 3, films, first * 3, tile.width * 3, rows, keep, 1 / has);
        math.mixBlock(squares[l]!, at, width, result.squares, first, tile.width, rows, 1, 1);
      }
    }
  }

  /** Variance of the mean luminance of a pixel's layer, by its place in `layers`; infinite below two samples. */
  variance(pixel: number, layer: number): number {
    const n = this.counts[pixel]!;
    if (n < 2) return Infinity;
    const plane = this.planes[layer]!,
      o = pixel * 3;
    const mean = 0.2126 * plane[o]! + 0.7152 * plane[o + 1]! + 0.0722 * plane[o + 2]!;
    return Math.max(0, this.squares[layer]![pixel]! / n - mean * mean) / (n - 1);
  }

  /** Gives the memory back. The film must not be used any more; late results are ignored. */
  release(): void {
    if (this.released) return;
    this.released = true;
    for (const a of [...this.planes, ...this.squares, ...(this.smooth?.planes ?? [])]) if (a) this.math.free(a);
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
  /** Samples that met a catcher first. */
  readonly caught: Float32Array;
  readonly counts: Uint16Array;
  /** Objects and materials that the samples met, where it is asked for. */
  readonly mattes: Mattes | undefined;
  /** Grows with everything that is taken in. */
  stamp = 0;
  /** Pixels without a sample. */
  missing: number;

  constructor(width: number, height: number, mattes = false) {
    this.width = width;
    this.height = height;
    this.mattes = mattes ? emptyMattes(width * height) : undefined;
    this.missing = width * height;
    this.sums = new Float32Array(width * height * GUIDE_CHANNELS);
    this.ids = new Int32Array(width * height * 2).fill(-1);
    this.alpha = new Float32Array(width * height);
    this.caught = new Float32Array(width * height);
    this.counts = new Uint16Array(width * height);
  }

  add(tile: Tile, guides: GuideSums, { alpha, caught }: Pick<TraceResult, 'alpha' | 'caught'>, samples: number): void {
    this.stamp++;
    for (let j = 0; j < tile.height; j++)
      for (let i = 0; i < tile.width; i++) {
        const at = (tile.y + j) * this.width + tile.x + i,
          p = j * tile.width + i;
        for (let c = 0; c < GUIDE_CHANNELS; c++)
          this.sums[at * GUIDE_CHANNELS + c] = this.sums[at * GUIDE_CHANNELS + c]! + guides.sums[p * GUIDE_CHANNELS + c]!;
        if (this.counts[at] === 0) {
          this.missing--;
          this.ids[at * 2] = guides.ids[p * 2]!;
          this.ids[at * 2 + 1] = guides.ids[p * 2 + 1]!;
        }
        if (this.mattes && guides.mattes) joinMattes(this.mattes, at, guides.mattes, p);
        this.alpha[at] = this.alpha[at]! + alpha[p]!;
        if (caught) this.caught[at] = this.caught[at]! + caught[p]!;
        this.counts[at] = this.counts[at]! + samples;
      }
  }

  /** What stands in `alpha` and `caught` is all that there is: every pixel has its one sample. */
  settle(): void {
    this.stamp++;
    this.missing = 0;
    this.counts.fill(1);
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

  /** Share of a pixel where a catcher is seen, 0…1; what covers it besides is `alphaAt` less this. */
  caughtAt(pixel: number): number {
    const n = this.counts[pixel]!;
    return n ? this.caught[pixel]! / n : 0;
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
