/** Which layer a path's light belongs to: that of the lobe at its first vertex. */
export const DIFFUSE = 0;
export const SPECULAR = 1;
/** Not scattered yet: the camera ray, or a camera ray that went through clear surfaces only. */
export const UNSCATTERED = 2;

/** Floats of a film for each pixel: diffuse r g b and specular r g b, in two planes. */
export const FILM_CHANNELS = 6;

/** What a path does at its surface point. */
export const OPAQUE = 0;
/** A clear surface met from outside: reflects, or lets pass. */
export const CLEAR = 1;
/** A hole, the inside of a clear surface, the back of a one-sided one: the path goes straight on. */
export const THROUGH = 2;

/**
 * The paths that are on their way together, and the surface points they stand on, as parallel arrays: no path is an
 * object and nothing is allocated while tracing.
 */
export class Batch {
  readonly capacity: number;
  /** Pixel of the tile. */
  readonly pixel: Int32Array;
  /** Cell of the blue-noise mask. */
  readonly cell: Int32Array;
  readonly label: Uint8Array;
  /** Bounces so far. */
  readonly depth: Uint8Array;
  /** Throughput. */
  readonly tr: Float32Array;
  readonly tg: Float32Array;
  readonly tb: Float32Array;
  /** Density (lobe choice included) with which the ray's direction was drawn; 0: the camera ray. */
  readonly density: Float32Array;
  /** Metres from the camera to where the ray starts. */
  readonly travelled: Float32Array;

  // the surface point: position, geometric and shading normal, direction back along the ray
  readonly px: Float32Array;
  readonly py: Float32Array;
  readonly pz: Float32Array;
  readonly gx: Float32Array;
  readonly gy: Float32Array;
  readonly gz: Float32Array;
  readonly nx: Float32Array;
  readonly ny: Float32Array;
  readonly nz: Float32Array;
  readonly vx: Float32Array;
  readonly vy: Float32Array;
  readonly vz: Float32Array;
  /** Where shadow rays start: off the facets, on the curved surface that they stand for. */
  readonly ox: Float32Array;
  readonly oy: Float32Array;
  readonly oz: Float32Array;
  /** Distance by which new rays start off the surface, metres. */
  readonly gap: Float32Array;
  readonly triangle: Int32Array;
  readonly material: Uint16Array;

  // the surface: diffuse albedo with what the layers above leave of it for this view
  readonly dr: Float32Array;
  readonly dg: Float32Array;
  readonly db: Float32Array;
  /** Specular reflectance at normal incidence, and at grazing incidence. */
  readonly fr: Float32Array;
  readonly fg: Float32Array;
  readonly fb: Float32Array;
  readonly f90: Float32Array;
  /** 1/E − 1: what single scattering loses of a white metal here. */
  readonly lost: Float32Array;
  readonly alpha: Float32Array;
  /** Offset of the albedo tables' row. */
  readonly row: Uint16Array;
  /** Chance that the walk takes the sharp lobes (specular, coat) here. */
  readonly chance: Float32Array;
  /** OPAQUE, CLEAR or THROUGH. */
  readonly pass: Uint8Array;
  /** 1: coat, sheen or fibres are there; the arrays below count only then. */
  readonly extra: Uint8Array;
  readonly coat: Float32Array;
  readonly coatAlpha: Float32Array;
  readonly coatRow: Uint16Array;
  /** Share of the sharp lobes' chance that goes to the coat. */
  readonly coatChance: Float32Array;
  /** What the coat leaves of the layers below for this view, over its mean. */
  readonly under: Float32Array;
  readonly sheenR: Float32Array;
  readonly sheenG: Float32Array;
  readonly sheenB: Float32Array;
  readonly sheenAlpha: Float32Array;
  /** Share of the diffuse light that passes through, and the strands' direction. */
  readonly thin: Float32Array;
  readonly sx: Float32Array;
  readonly sy: Float32Array;
  readonly sz: Float32Array;

  // one light sample for each vertex: direction, distance, 1 / density by solid angle (0: none), radiance
  readonly lx: Float32Array;
  readonly ly: Float32Array;
  readonly lz: Float32Array;
  readonly ld: Float32Array;
  readonly lw: Float32Array;
  readonly lr: Float32Array;
  readonly lg: Float32Array;
  readonly lb: Float32Array;

  /** Contributions that wait for their shadow ray. */
  readonly waiting: Float32Array;
  readonly waitingPixel: Int32Array;

  constructor(capacity: number) {
    this.capacity = capacity;
    const f = () => new Float32Array(capacity);
    this.pixel = new Int32Array(capacity);
    this.cell = new Int32Array(capacity);
    this.label = new Uint8Array(capacity);
    this.depth = new Uint8Array(capacity);
    [this.tr, this.tg, this.tb, this.density, this.travelled] = [f(), f(), f(), f(), f()];
    [this.px, this.py, this.pz, this.gx, this.gy, this.gz] = [f(), f(), f(), f(), f(), f()];
    [this.nx, this.ny, this.nz, this.vx, this.vy, this.vz] = [f(), f(), f(), f(), f(), f()];
    [this.ox, this.oy, this.oz, this.gap] = [f(), f(), f(), f()];
    this.triangle = new Int32Array(capacity);
    this.material = new Uint16Array(capacity);
    [this.dr, this.dg, this.db] = [f(), f(), f()];
    [this.fr, this.fg, this.fb, this.f90, this.lost] = [f(), f(), f(), f(), f()];
    [this.alpha, this.chance] = [f(), f()];
    this.row = new Uint16Array(capacity);
    this.pass = new Uint8Array(capacity);
    this.extra = new Uint8Array(capacity);
    [this.coat, this.coatAlpha, this.coatChance, this.under] = [f(), f(), f(), f()];
    this.coatRow = new Uint16Array(capacity);
    [this.sheenR, this.sheenG, this.sheenB, this.sheenAlpha] = [f(), f(), f(), f()];
    [this.thin, this.sx, this.sy, this.sz] = [f(), f(), f(), f()];
    [this.lx, this.ly, this.lz, this.ld, this.lw, this.lr, this.lg, this.lb] = [f(), f(), f(), f(), f(), f(), f(), f()];
    this.waiting = new Float32Array(capacity * FILM_CHANNELS);
    this.waitingPixel = new Int32Array(capacity);
  }

  /** Moves what belongs to the path (not to its surface point) from one place to another. */
  movePath(from: number, to: number): void {
    if (from === to) return;
    this.pixel[to] = this.pixel[from]!;
    this.cell[to] = this.cell[from]!;
    this.label[to] = this.label[from]!;
    this.depth[to] = this.depth[from]!;
    this.tr[to] = this.tr[from]!;
    this.tg[to] = this.tg[from]!;
    this.tb[to] = this.tb[from]!;
    this.density[to] = this.density[from]!;
    this.travelled[to] = this.travelled[from]!;
  }
}
