import { FILM_ROOM, SHADER_LIGHTS, type Shader } from '@plinket/kernel';
import type { SceneLight } from '../scene/index.ts';
import { FILM_CHANNELS } from './batch.ts';
import type { LightSampler } from './lights/index.ts';

/** The films that one job fills. */
export class WantedFilms {
  readonly films: Float32Array;
  /** The kernel's shader, when this job's films have room with it. */
  readonly shader: Shader | undefined;
  readonly volumes: Float32Array;
  readonly squares: Float32Array;
  /** lights × pixels: the same of what haze scatters; empty without haze. */
  readonly volumeSquares: Float32Array;
  readonly lights: { sampler: LightSampler; index: number }[] = [];
  readonly openness: { reach: number; index: number }[] = [];
  readonly rays = { walk: 0, shadow: 0 };
  /** Floats of one film, and where its specular plane begins. */
  readonly size: number;
  readonly second: number;
  /** Some light is met by rays that leave the last vertex. */
  readonly far: boolean;
  private readonly parts: Float32Array[];
  private readonly volumeParts: Float32Array[];
  /** Luminances as they were before the current sample. */
  private readonly before: Float32Array;
  private readonly volumeBefore: Float32Array;

  constructor(
    lights: SceneLight[],
    samplerOf: (light: SceneLight) => LightSampler | undefined,
    pixels: number,
    haze: boolean,
    shader?: Shader,
  ) {
    const size = pixels * FILM_CHANNELS;
    this.size = size;
    this.second = pixels * 3;
    this.shader = lights.length * size <= FILM_ROOM && lights.length <= SHADER_LIGHTS ? shader : undefined;
    this.films = this.shader ? this.shader.films.subarray(0, lights.length * size).fill(0) : new Float32Array(lights.length * size);
    this.volumes = new Float32Array(haze ? lights.length * pixels * 3 : 0);
    this.volumeSquares = new Float32Array(this.volumes.length / 3);
    this.volumeBefore = new Float32Array(this.volumes.length / 3);
    const luminances = lights.length * pixels * 2;
    this.squares = this.shader ? this.shader.beginSquares(luminances * 3) : new Float32Array(luminances);
    this.before = new Float32Array(this.shader ? 0 : luminances);
    this.parts = lights.map((_, i) => this.films.subarray(i * size, (i + 1) * size));
    this.volumeParts = lights.map((_, i) => this.volumes.subarray(i * pixels * 3, (i + 1) * pixels * 3));
    this.shader?.clearRectangles();
    lights.forEach((light, index) => {
      const sampler = samplerOf(light);
      if (sampler) {
        if (this.shader) sampler.introduce?.(this.shader, index);
        this.lights.push({ sampler, index });
      } else if (light.kind === 'openness') this.openness.push({ reach: light.reach, index });
    });
    this.far = this.lights.some(({ sampler }) => sampler.far);
  }

  /** Where film `i` begins among `films`. */
  place(i: number): number {
    return i * this.size;
  }
  film(i: number): Float32Array {
    return this.parts[i]!;
  }
  volume(i: number): Float32Array {
    return this.volumeParts[i]!;
  }

  /** Adds the squares of what the sample brought. */
  endSample(): void {
    if (this.shader) this.shader.addSquares(this.films.length);
    else addSquares(this.films, this.before, this.squares);
    addSquares(this.volumes, this.volumeBefore, this.volumeSquares);
  }
}

/** Adds for each pixel the square of the luminance that `sums` (red, green, blue) gained since `before`, which it brings up to date. */
function addSquares(sums: Float32Array, before: Float32Array, squares: Float32Array): void {
  for (let b = 0, f = 0; b < before.length; b++, f += 3) {
    const now = 0.2126 * sums[f]! + 0.7152 * sums[f + 1]! + 0.0722 * sums[f + 2]!,
      d = now - before[b]!;
    squares[b] = squares[b]! + d * d;
    before[b] = now;
  }
}
