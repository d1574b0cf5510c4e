/** Which layer a path's light belongs to: that of the lobe at its first vertex. */
export const DIFFUSE = 0;
export const SPECULAR = 1;
/** Not scattered yet: the camera ray, or a camera ray that went through clear surfaces only. */
export const UNSCATTERED = 2;

/** Floats of a film for each pixel: diffuse r g b, specular r g b. */
export const FILM_CHANNELS = 6;

/**
 * The paths that are on their way together, and the surface points they stand on, as parallel arrays: no path is an
 * object and nothing is allocated while tracing.
 */
export class Batch {
  readonly capacity: number;
  /** Pixel of the tile. */
  readonly pixel: Int32Array;
  readonly key: Int32Array;
  readonly label: Uint8Array;
  /** Bounces so far. */
  readonly depth: Uint8Array;
  /** Throughput. */
  readonly tr: Float32Array;
  readonly tg: Float32Array;
  readonly tb: Float32Array;
  /** Density (lobe choice included) with which the ray's direction was drawn; 0: the camera ray. */
  readonly density: Float32Array;

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
  /** Diffuse albedo. */
  readonly dr: Float32Array;
  readonly dg: Float32Array;
  readonly db: Float32Array;
  /** Specular reflectance at normal incidence. */
  readonly fr: Float32Array;
  readonly fg: Float32Array;
  readonly fb: Float32Array;
  readonly alpha: Float32Array;
  /** Chance that the walk takes the specular lobe here. */
  readonly chance: Float32Array;
  /** 1: a clear surface met from outside, 2: from inside. */
  readonly clear: Uint8Array;

  /** Contributions that wait for their shadow ray. */
  readonly waiting: Float32Array;
  readonly waitingPixel: Int32Array;

  constructor(capacity: number) {
    this.capacity = capacity;
    const f = () => new Float32Array(capacity);
    this.pixel = new Int32Array(capacity);
    this.key = new Int32Array(capacity);
    this.label = new Uint8Array(capacity);
    this.depth = new Uint8Array(capacity);
    [this.tr, this.tg, this.tb, this.density] = [f(), f(), f(), f()];
    [this.px, this.py, this.pz, this.gx, this.gy, this.gz] = [f(), f(), f(), f(), f(), f()];
    [this.nx, this.ny, this.nz, this.vx, this.vy, this.vz] = [f(), f(), f(), f(), f(), f()];
    [this.dr, this.dg, this.db, this.fr, this.fg, this.fb] = [f(), f(), f(), f(), f(), f()];
    [this.alpha, this.chance] = [f(), f()];
    this.clear = new Uint8Array(capacity);
    this.waiting = new Float32Array(capacity * FILM_CHANNELS);
    this.waitingPixel = new Int32Array(capacity);
  }
}
