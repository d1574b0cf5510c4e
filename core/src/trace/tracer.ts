import type { RayKernel } from '@plinket/kernel';
import { SphericalRectangle } from '../light/index.ts';
import { textKey, type Vec3 } from '../math/index.ts';
import { luminance } from '../photometry/index.ts';
import type { SceneCamera, SceneGeometry, SceneLight } from '../scene/index.ts';
import { Batch, FILM_CHANNELS } from './batch.ts';
import { cameraRays, type Tile } from './camera.ts';
import { receiverLight, receiverRays } from './receiver.ts';
import { meetDome, meetLight, sampleLight, type TraceRectangle } from './direct.ts';
import { scatter } from './scatter.ts';
import { packMaterials, standOnSurfaces } from './surface.ts';

/** One piece of work: a tile of a picture, a range of samples, the lights whose films are wanted. */
export interface TraceJob {
  camera: SceneCamera;
  width: number;
  height: number;
  tile: Tile;
  /** Samples from…to−1. */
  from: number;
  to: number;
  seed: number;
  /** Bounces after the first surface. */
  bounces: number;
  lights: SceneLight[];
}

/** Sums over the job's samples; divide by their number for the mean. */
export interface TraceResult {
  /** lights × pixels × 6: diffuse r g b, specular r g b, for luminance 1. */
  films: Float32Array;
  /** How many camera rays met something, for each pixel. */
  alpha: Float32Array;
  /** Rays of each kind that the kernel traced. */
  rays: { walk: number; shadow: number };
}

/** Clear surfaces that a path may pass on top of its bounces. */
const CLEAR_PASSES = 4;

/** Largest tile, in pixels, that fits a kernel's buffers. */
export const MAX_TILE_PIXELS = 4096;

/**
 * A wavefront path tracer over one geometry. The walk (camera, bounces) never looks at the lights; at every vertex each
 * wanted light adds to its own film. So tracing one light gives the same bytes as tracing it among others, and the same
 * seed the same bytes always.
 *
 * @example
 * const tracer = new Tracer(kernel, scene.geometry);
 * const { films } = tracer.trace({ ...frame, tile, from: 0, to: 4, seed: 1, bounces: 3, lights: scene.lights });
 */
export class Tracer {
  private readonly kernel: RayKernel;
  private readonly geometry: SceneGeometry;
  private readonly batch: Batch;
  private readonly materials: Float32Array;

  constructor(kernel: RayKernel, geometry: SceneGeometry) {
    this.kernel = kernel;
    this.geometry = geometry;
    this.batch = new Batch(Math.min(kernel.capacity, MAX_TILE_PIXELS));
    this.materials = packMaterials(geometry);
  }

  /** @throws RangeError when the tile has more pixels than `MAX_TILE_PIXELS`. */
  trace(job: TraceJob): TraceResult {
    const { tile, lights, bounces, seed } = job;
    const { kernel, batch } = this;
    const pixels = tile.width * tile.height;
    if (pixels > batch.capacity) throw new RangeError(`A tile of ${pixels} pixels is more than ${batch.capacity}.`);
    const wanted = new WantedFilms(lights, pixels, bounces);
    const alpha = new Float32Array(pixels);
    for (let sample = job.from; sample < job.to; sample++) {
      const n = cameraRays(batch, kernel.rays, job.camera, job.width, job.height, tile, sample, seed);
      this.walk(wanted, n, sample, 0, alpha);
    }
    return { films: wanted.films, alpha, rays: wanted.rays };
  }

  /**
   * Irradiance at a point, for luminance 1: by light, what comes directly and what comes in all. The mean over
   * `samples` cosine-distributed rays.
   */
  irradiance(
    at: Vec3,
    normal: Vec3,
    lights: SceneLight[],
    options: { samples: number; seed: number; bounces: number },
  ): { direct: number; total: number }[] {
    const { kernel, batch } = this;
    const { samples, seed, bounces } = options;
    const wanted = new WantedFilms(lights, 1, bounces);
    const direct = lights.map(() => 0);
    let missed = 0;
    for (let from = 0; from < samples; from += batch.capacity) {
      const n = Math.min(batch.capacity, samples - from);
      receiverRays(batch, kernel.rays, at, normal, n, from, seed);
      kernel.closest(n);
      for (let i = 0; i < n; i++) if (kernel.hitIds[i * 4 + 3]! < 0) missed++;
      this.walk(wanted, n, from, 1);
      for (const light of wanted.rectangles) direct[light.film]! += receiverLight(kernel, light, at, normal, n, from, seed);
    }
    return lights.map((light, i) => {
      const first = light.kind === 'dome' ? (Math.PI * missed) / samples : direct[i]! / samples;
      const film = wanted.film(i);
      return { direct: first, total: first + luminance(film[0]!, film[1]!, film[2]!) / samples };
    });
  }

  /** Walks the `count` paths whose rays stand in the kernel to their end. */
  private walk(wanted: WantedFilms, count: number, sample: number, firstStep: number, alpha?: Float32Array): void {
    const { kernel, batch } = this;
    const { rectangles, domes, rays, bounces } = wanted;
    // Only the dome needs the ray that leaves the last vertex; all else ends there with a light sample of full weight.
    const walkDepth = domes.length ? bounces + 1 : bounces;
    let n = count;
    for (let step = firstStep; n > 0 && step <= bounces + 1 + CLEAR_PASSES; step++) {
      kernel.closest(n);
      rays.walk += n;
      if (step === 0 && alpha) for (let i = 0; i < n; i++) if (kernel.hitIds[i * 4 + 3]! >= 0) alpha[i] = alpha[i]! + 1;
      if (step > 0) {
        for (const light of rectangles) meetLight(batch, kernel, light, wanted.film(light.film), n, bounces);
        for (const dome of domes) meetDome(batch, kernel, wanted.film(dome), n);
      }
      n = standOnSurfaces(batch, kernel, this.geometry, this.materials, n, bounces);
      for (const light of rectangles) rays.shadow += sampleLight(batch, kernel, light, wanted.film(light.film), n, sample, step, bounces);
      n = scatter(batch, kernel.rays, n, sample, step, walkDepth);
    }
  }
}

/** The films that one job fills. */
class WantedFilms {
  readonly films: Float32Array;
  readonly rectangles: TraceRectangle[] = [];
  readonly domes: number[] = [];
  readonly rays = { walk: 0, shadow: 0 };
  readonly bounces: number;
  private readonly parts: Float32Array[];

  constructor(lights: SceneLight[], pixels: number, bounces: number) {
    this.bounces = bounces;
    const size = pixels * FILM_CHANNELS;
    this.films = new Float32Array(lights.length * size);
    this.parts = lights.map((_, i) => this.films.subarray(i * size, (i + 1) * size));
    lights.forEach((light, film) => {
      if (light.kind === 'dome') this.domes.push(film);
      else this.rectangles.push({ film, key: textKey(light.id), rect: new SphericalRectangle(light.rectangle) });
    });
  }

  film(i: number): Float32Array {
    return this.parts[i]!;
  }
}
