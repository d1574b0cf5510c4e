import type { RayKernel, Shader } from '@plinket/kernel';
import { cast, sight, type SightJob } from '../face/index.ts';
import { maskWords, type Vec3 } from '../math/index.ts';
import { albedoTables } from '../surface/index.ts';
import type { Catchers, Haze, SceneCamera, SceneGeometry, SceneLight } from '../scene/index.ts';
import type { FilmKind, LayerName, ObjectRef } from '../setup/index.ts';
import { Batch } from './batch.ts';
import { cameraRays, type Tile } from './camera.ts';
import { Catching } from './catching.ts';
import { lightSurfaces } from './direct.ts';
import { emptyGuides, writeGuides, type GuideSums } from './guides.ts';
import { dimByHaze, lightHaze } from './haze.ts';
import { HitCache } from './hit-cache.ts';
import { samplerOf, type LightSampler, type SamplerJob } from './lights/index.ts';
import { HAZE_DEPTH, Limits } from './limits.ts';
import { openness } from './openness.ts';
import { Reader, type ReadJob, type ReadResult } from './read.ts';
import { Origins, takeBack } from './reach.ts';
import { receiverLight, receiverRays } from './receiver.ts';
import { scatter } from './scatter.ts';
import { Depth, roomToSplit } from './subsurface.ts';
import { packMaterials, prepareMaterials, standOnSurfaces } from './surface.ts';
import { WantedFilms } from './wanted.ts';

/** One piece of work: a tile of a picture, a range of samples, the lights whose films are wanted. */
export interface TraceJob {
  camera: SceneCamera;
  haze?: Haze;
  /** Objects that show nothing but the shadows on them. */
  catchers?: Catchers;
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
  /** Also write what the first surfaces are. */
  guides?: boolean;
  /** And what objects and materials all samples met, of which guides keep the first sample's only. */
  mattes?: boolean;
  /** Light does not go into skin and its like but leaves where it came: less noise, for a picture that is there at once. */
  shallow?: boolean;
  /**
   * Whether a path is split where light goes into skin. Default: yes, where the tile leaves room for it. Without it comes out at one
   * point by chance, or is reflected, which is noisier: to compare.
   */
  split?: boolean;
  /** Most luminance of one indirect contribution, for a light of luminance 1. Default: no limit. */
  clamp?: number;
}

/** Which layers films of a scene, or of a job over it, have. */
export const filmKind = ({ haze, catchers }: { haze?: Haze; catchers?: Catchers }): FilmKind => ({
  haze: haze !== undefined,
  catcher: catchers !== undefined,
  followed: catchers?.follow === true,
});

/** Sums over the job's samples; divide by their number for the mean. */
export interface TraceResult {
  /** The layers that follow, in the order of the table. */
  layers: LayerName[];
  /** lights × layers × pixels × 3, for luminance 1. */
  films: Float32Array;
  /** lights × layers × pixels: squares of each sample's luminance, for the noise that is left. */
  squares: Float32Array;
  /** How many camera rays met something, for each pixel. */
  alpha: Float32Array;
  /** How many of them met a catcher first; where there is one. */
  caught?: Float32Array;
  guides?: GuideSums;
  /** Luminance of indirect contributions, and what the clamp took. */
  clamped: { offered: number; removed: number };
  /** Rays of each kind that the kernel traced. */
  rays: { walk: number; shadow: number };
}

/** What one light of luminance 1 sends to a point, red, green, blue: directly, and in all. */
export interface ReceiverLight {
  direct: Vec3;
  total: Vec3;
}

/** Clear surfaces and holes that a path may pass on top of its bounces. */
const CLEAR_PASSES = 8;

/** Samplers that are kept: those of a large setup, and of where its lights have just been. */
const MOST_SAMPLERS = 256;

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
  /** Shades plain surfaces in the kernel, where that is possible. */
  private readonly shader: Shader | undefined;
  private readonly materials: ReturnType<typeof prepareMaterials>;
  /** Where light goes into something, if it does anywhere. */
  private readonly depth: Depth | undefined;
  private readonly cache: HitCache;
  private reader: Reader | undefined;
  private origins: Origins | undefined;
  /** What caught last. */
  private caughtBy: { key: string; catching: Catching } | undefined;
  /** Samplers of lights that were asked for, by their keys: some take a while to prepare. */
  private readonly samplers = new Map<string, LightSampler | undefined>();

  constructor(kernel: RayKernel, geometry: SceneGeometry) {
    this.kernel = kernel;
    this.cache = new HitCache(kernel);
    this.geometry = geometry;
    this.materials = prepareMaterials(geometry);
    const { shader } = kernel;
    const { A, B } = albedoTables();
    shader?.setTables(maskWords(), A, B);
    this.shader = shader?.setMaterials(packMaterials(this.materials)) ? shader : undefined;
    this.batch = new Batch(kernel.capacity, this.shader);
    this.depth = geometry.materials.some((m) => m.subsurface > 0) ? new Depth(this.batch, geometry) : undefined;
  }

  /** @throws RangeError when the tile has more pixels than `MAX_TILE_PIXELS`. */
  trace(job: TraceJob): TraceResult {
    const { tile, lights, seed, haze } = job;
    const { kernel, batch } = this;
    const pixels = tile.width * tile.height;
    if (pixels > MAX_TILE_PIXELS) throw new RangeError(`A tile of ${pixels} pixels is more than ${MAX_TILE_PIXELS}.`);
    // haze and clamp are the host's matter throughout
    const shader = haze || job.clamp ? undefined : this.shader;
    const kind = filmKind(job);
    const wanted = new WantedFilms(lights, this.samplerOf, pixels, kind, shader);
    const catching = job.catchers && this.catchingOf(job.catchers.objects).begin(wanted, pixels, job.catchers.follow);
    const context = this.context(wanted, job.bounces, seed, haze, job.clamp ?? 0);
    const alpha = new Float32Array(pixels);
    const guides = job.guides ? emptyGuides(pixels, job.mattes) : undefined;
    // paths that end at a catcher are others
    const ends = job.catchers && !job.catchers.follow ? job.catchers.objects.join() : '';
    this.cache.look(`${job.camera.key} ${seed} ${job.bounces} ${haze?.density ?? 0} ${ends}`);
    const depth = job.shallow ? undefined : this.depth;
    const split = job.split !== false && roomToSplit(batch.capacity, pixels);
    const place = `${job.width} ${job.height} ${tile.x} ${tile.y} ${tile.width} ${tile.height}`;
    for (let sample = job.from; sample < job.to; sample++) {
      catching?.next();
      const n = cameraRays(batch, kernel.rays, job.camera, job.width, job.height, tile, sample, seed, shader);
      const far = this.cache.begin(`${place} ${sample} ${shader ? 1 : 0} ${depth ? (split ? 2 : 1) : 0}`, sample, wanted.far);
      this.walk(context, wanted, n, sample, 0, far, { alpha, guides, haze, depth, split, catching });
      wanted.endSample();
    }
    const { offered, removed } = context.limits;
    const { layers, rays } = wanted;
    // copies of their own: the shader's room is used again by the next job
    const films = wanted.shader ? wanted.films.slice() : wanted.films,
      squares = wanted.shader ? wanted.squares.slice() : wanted.squares;
    return {
      layers,
      films,
      squares,
      alpha,
      ...(catching ? { caught: catching.caught } : {}),
      ...(guides ? { guides } : {}),
      clamped: { offered, removed },
      rays,
    };
  }

  /**
   * Irradiance at a point, for luminance 1: by light, red, green and blue of what comes directly and of what comes in all. The mean
   * over `samples` cosine-distributed rays; haze dims what comes and sends light of its own, scattered once.
   */
  irradiance(
    at: Vec3,
    normal: Vec3,
    lights: SceneLight[],
    options: { samples: number; seed: number; bounces: number; haze?: Haze },
  ): ReceiverLight[] {
    const { kernel, batch } = this;
    const { samples, seed, bounces, haze } = options;
    const wanted = new WantedFilms(lights, this.samplerOf, 1, { haze: haze !== undefined }, haze ? undefined : this.shader);
    const context = this.context(wanted, bounces, seed, haze, 0);
    const direct = lights.map((): Vec3 => [0, 0, 0]);
    let missed = 0;
    for (let from = 0; from < samples; from += batch.capacity) {
      const n = Math.min(batch.capacity, samples - from);
      receiverRays(batch, kernel.rays, at, normal, n, from, seed);
      kernel.closest(n);
      for (let i = 0; i < n; i++) if (kernel.hitIds[i * 4 + 3]! < 0) missed++;
      if (haze) for (const { sampler, index } of wanted.lights) lightHaze(context, haze, sampler, wanted.layer(index, 'volume'), n, from);
      // a receiver is asked once: nothing to remember
      const far = this.cache.begin('', Infinity, wanted.far);
      this.walk(context, wanted, n, from, 1, far, {});
      for (const { sampler, index } of wanted.lights)
        if (sampler.aims) receiverLight(kernel, sampler, at, normal, n, from, seed, haze?.density ?? 0, direct[index]!);
    }
    const throughHaze = Math.exp(-(haze?.density ?? 0) * HAZE_DEPTH);
    return lights.map((light, i) => {
      const film = wanted.film(i),
        scattered = haze ? wanted.layer(i, 'volume') : [0, 0, 0];
      const first = direct[i]!.map((v) => (light.kind === 'dome' ? Math.PI * missed * throughHaze : v) / samples) as Vec3;
      // a receiver's rays bring π times the radiance that they meet
      const total = first.map((v, c) => v + (film[c]! + Math.PI * scattered[c]!) / samples) as Vec3;
      return { direct: first, total };
    });
  }

  /** What lights send to points directly. */
  read(job: ReadJob): ReadResult {
    this.reader ??= new Reader(this.kernel, this.geometry, this.samplerOf);
    return this.reader.read(job);
  }

  /** What rays meet, eight floats each. */
  cast(rays: Float32Array): Float32Array {
    return cast(this.kernel, rays);
  }

  /** What stands in every direction from points. */
  sight(job: SightJob): { seen: Int32Array; rays: number } {
    return sight(this.kernel, job);
  }

  private catchingOf(refs: readonly ObjectRef[]): Catching {
    const key = refs.join();
    if (this.caughtBy?.key !== key) this.caughtBy = { key, catching: new Catching(this.batch, this.geometry, refs) };
    return this.caughtBy.catching;
  }

  private readonly samplerOf = (light: SceneLight): LightSampler | undefined => {
    const key = `${light.id} ${light.key}`;
    if (!this.samplers.has(key)) {
      if (this.samplers.size >= MOST_SAMPLERS) this.samplers.clear();
      this.samplers.set(key, samplerOf(light, this.geometry));
    }
    return this.samplers.get(key);
  };

  private context(wanted: WantedFilms, bounces: number, seed: number, haze: Haze | undefined, clamp: number): SamplerJob {
    const { batch, kernel, geometry } = this;
    return { batch, kernel, geometry, seed, bounces, shader: wanted.shader, limits: new Limits(geometry, haze?.density ?? 0, clamp) };
  }

  /** Walks the `count` paths whose rays stand in the kernel to their end. */
  private walk(
    context: SamplerJob,
    wanted: WantedFilms,
    count: number,
    sample: number,
    firstStep: number,
    far: boolean,
    more: { alpha?: Float32Array; guides?: GuideSums; haze?: Haze; depth?: Depth; split?: boolean; catching?: Catching },
  ): void {
    const { kernel, batch, geometry, cache } = this;
    const { bounces, seed, limits, shader } = context;
    const { rays, second } = wanted;
    // Only what is met from the last vertex needs its ray; all else ends there with a light sample of full weight.
    const walkDepth = far ? bounces + 1 : bounces;
    const nothingToLight = wanted.lights.length === 0;
    // what a path left is remembered only for lights that ask
    const origins = wanted.lights.some(({ sampler }) => sampler.reach.lights && !sampler.alone)
      ? (this.origins ??= new Origins(batch, geometry, this.shader?.left))
      : undefined;
    let n = count;
    for (let step = firstStep; n > 0 && step <= bounces + 1 + CLEAR_PASSES; step++) {
      rays.walk += cache.closest(n);
      if (step === 0) {
        const { alpha } = more;
        if (alpha) for (let i = 0; i < n; i++) if (kernel.hitIds[i * 4 + 3]! >= 0) alpha[i] = alpha[i]! + 1;
        if (more.haze)
          for (const { sampler, index } of wanted.lights)
            rays.shadow += lightHaze(context, more.haze, sampler, wanted.layer(index, 'volume'), n, sample);
      }
      const { catching } = more;
      catching?.hide(kernel, n);
      if (shader) shader.meetRectangles(n, wanted.size, second, bounces);
      for (const { sampler, index } of wanted.lights) {
        const { lights } = sampler.reach;
        const asks = lights !== undefined && !sampler.alone && !(shader && sampler.known);
        if (asks) origins?.hide(batch, lights, n);
        sampler.meet(context, wanted.film(index), second, n);
        if (asks) origins?.show();
      }
      catching?.show();
      origins?.stand(kernel, batch, n, bounces);
      if (limits.haze > 0) dimByHaze(batch, kernel, limits.haze, n);
      n = standOnSurfaces(batch, kernel, shader, geometry, this.materials, n, sample, step, seed, bounces);
      if (more.guides) writeGuides(batch, geometry, more.guides, n);
      catching?.take(n);
      if (step === 0)
        for (const { reach, index } of wanted.openness) rays.shadow += openness(batch, kernel, reach, wanted.film(index), n, sample, seed);
      if (nothingToLight && !(more.guides && step < CLEAR_PASSES)) return;
      if (more.depth) {
        const out = more.depth.comeOut(kernel, cache, n, sample, { step, seed }, more.split === true);
        n = out.count;
        rays.walk += out.rays;
      }
      batch.findRest(n, shader !== undefined);
      const caught = catching?.find(n) === true;
      for (const { sampler, index } of wanted.lights) {
        if (sampler.aims) sampler.aim(context, n, sample, step);
        else if (!caught || !catching!.aim(context, sampler, n, sample, step)) continue;
        if (sampler.reach.lights) takeBack(batch, geometry, sampler.reach.lights, n);
        if (caught) rays.shadow += catching!.shade(context, sampler, wanted.layer(index, 'arrives'), wanted.layer(index, 'open'));
        if (!sampler.aims) continue;
        rays.shadow += lightSurfaces(context, sampler, wanted.film(index), second, n, wanted.place(index));
      }
      more.depth?.goOn(n, walkDepth);
      n = scatter(batch, kernel.rays, shader, n, sample, step, seed, walkDepth, origins);
    }
  }
}
