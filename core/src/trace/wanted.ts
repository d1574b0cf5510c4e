import { FILM_ROOM, SHADER_LIGHTS, type Shader } from '@plinket/kernel';
import type { SceneLight } from '../scene/index.ts';
import { layersIn, type FilmKind, type LayerName } from '../setup/index.ts';

import type { LightSampler } from './lights/index.ts';

/** The films that one job fills. The kernel's shader knows the layers of surfaces only: in haze there is none. */
export class WantedFilms {
  readonly films: Float32Array;
  /** The kernel's shader, when this job's films have room with it. */
  readonly shader: Shader | undefined;
  readonly squares: Float32Array;
  readonly layers: LayerName[];
  readonly lights: { sampler: LightSampler; index: number }[] = [];
  readonly openness: { reach: number; index: number }[] = [];
  readonly rays = { walk: 0, shadow: 0 };
  /** Floats of one film, and of one layer of it: where the next begins. */
  readonly size: number;
  readonly second: number;
  /** Some light is met by rays that leave the last vertex. */
  readonly far: boolean;
  private readonly parts: Float32Array[];
  private readonly layerParts: Float32Array[][];
  /** Luminances as they were before the current sample. */
  private readonly before: Float32Array;

  constructor(
    lights: SceneLight[],
    samplerOf: (light: SceneLight) => LightSampler | undefined,
    pixels: number,
    kind: FilmKind,
    shader?: Shader,
  ) {
    this.layers = layersIn(kind).map((l) => l.name);
    const size = pixels * 3 * this.layers.length;
    this.size = size;
    this.second = pixels * 3;
    this.shader = lights.length * size <= FILM_ROOM && lights.length <= SHADER_LIGHTS ? shader : undefined;
    this.films = this.shader ? this.shader.films.subarray(0, lights.length * size).fill(0) : new Float32Array(lights.length * size);
    const luminances = this.films.length / 3;
    this.squares = this.shader ? this.shader.beginSquares(luminances * 3) : new Float32Array(luminances);
    this.before = new Float32Array(this.shader ? 0 : luminances);
    this.parts = lights.map((_, i) => this.films.subarray(i * size, (i + 1) * size));
    this.layerParts = this.parts.map((part) => this.layers.map((_, l) => part.subarray(l * this.second, (l + 1) * this.second)));
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
  /** One layer of film `i`. */
  layer(i: number, name: LayerName): Float32Array {
    return this.layerParts[i]![this.layers.indexOf(name)]!;
  }

  /** Adds the squares of what the sample brought. */
  endSample(): void {
    if (this.shader) this.shader.addSquares(this.films.length);
    else addSquares(this.films, this.before, this.squares);
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
