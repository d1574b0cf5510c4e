// Lights, stages and cameras taken from one head to another: places about the head, lengths in heights of the head, and light such that what arrives
// at the head stays. Where everything grows k times, solid angles stay, so luminances (cd/m²) and illuminances (lx) do; what a source gives in all
// (lm, W) and in a direction (cd) goes with its area, k²: E = I / d² (photometric distance law, e.g. CIE S 017:2020, 17-21-096; from memory).
import { clamp, type Vec3 } from '../math/index.ts';
import {
  fromHead,
  LIMITS,
  toHead,
  type Camera,
  type FlagItem,
  type Frame,
  type Light,
  type Limits,
  type StageShape,
} from '../setup/index.ts';

/** Smallest stage, metres: a figurine has one, too, which fields would not let a hand set. */
const SMALLEST = 0.02;

/** Takes lengths and outputs `k` times, within what may be set; tells by name what met a limit. */
export class Scaling {
  readonly k: number;
  /** Names of measures that could not be taken the whole way. */
  readonly short = new Set<string>();

  constructor(k: number) {
    this.k = k;
  }

  private by(value: number, factor: number, limits: Limits, what: string): number {
    const full = value * factor,
      kept = clamp(full, limits);
    if (Math.abs(kept - full) > 1e-9 * Math.abs(full)) this.short.add(what);
    // nine digits: what goes there and back is what it was
    return Number(kept.toPrecision(9));
  }

  private long = (value: number, limits: Limits, what: string): number => this.by(value, this.k, limits, what);

  /** A light for a head `k` times as tall. */
  light<L extends Light>(light: L): L {
    const { k } = this;
    const out: Record<string, unknown> = { ...light };
    for (const name of ['width', 'height', 'length', 'diameter'] as const)
      if (typeof out[name] === 'number') out[name] = this.long(out[name], LIMITS.size, `the size of ${light.name}`);
    if ('place' in light) {
      out['place'] = { ...light.place, ...this.place(light.place, light.name) };
      const { near, far } = light.range,
        { distance, width } = light.gobo;
      out['range'] = {
        ...light.range,
        near: this.long(near, LIMITS.range, `the range of ${light.name}`),
        far: this.long(far, LIMITS.range, `the range of ${light.name}`),
      };
      out['gobo'] = {
        ...light.gobo,
        distance: this.long(distance, LIMITS.goboDistance, `the gobo of ${light.name}`),
        width: this.long(width, LIMITS.goboWidth, `the gobo of ${light.name}`),
      };
    }
    const { held } = light.output;
    if (held === 'flux' || held === 'intensity' || (held === 'scale' && light.kind === 'profile'))
      out['output'] = { ...light.output, value: this.by(light.output.value, k * k, LIMITS.output, `the output of ${light.name}`) };
    return out as L;
  }

  private place({ distance, aim }: { distance: number; aim: Vec3 }, name: string) {
    return {
      distance: this.long(distance, LIMITS.distance, `the distance of ${name}`),
      aim: aim.map((v) => Number((v * this.k).toPrecision(9))) as Vec3,
    };
  }

  flag(flag: FlagItem): FlagItem {
    const size = (v: number) => this.long(v, LIMITS.size, `the size of ${flag.name}`);
    return {
      ...flag,
      place: { ...flag.place, ...this.place(flag.place, flag.name) },
      width: size(flag.width),
      height: size(flag.height),
      depth: size(flag.depth),
    };
  }

  /** A stage; its floor stays where it is: what stands on it says where that is. */
  stage(stage: StageShape): StageShape {
    const wide = (v: number) => this.long(v, [SMALLEST, LIMITS.stageWidth[1]], 'the width of the stage'),
      tall = (v: number) => this.long(v, [SMALLEST, LIMITS.stageHeight[1]], 'the height of the stage');
    return {
      ...stage,
      width: wide(stage.width),
      back: wide(stage.back),
      front: this.long(stage.front, LIMITS.stageFront, 'the front of the stage'),
      height: tall(stage.height),
      fillet: this.long(stage.fillet, LIMITS.fillet, 'the curve of the stage'),
      ...(stage.gradient
        ? {
            gradient: {
              ...stage.gradient,
              from: this.long(stage.gradient.from, [0, LIMITS.stageHeight[1]], 'the gradient'),
              to: this.long(stage.gradient.to, [0, LIMITS.stageHeight[1]], 'the gradient'),
            },
          }
        : {}),
    };
  }

  /** Extinction is per length. */
  haze<H extends { density: number }>(haze: H): H {
    return { ...haze, density: this.by(haze.density, 1 / this.k, LIMITS.haze, 'the haze') };
  }

  /**
   * A camera about another head: it sees the same. Lens and sensor stay; so that what is out of focus stays as soft for its size, the opening grows along:
   * N / k (thin lens: the blur's angle is the opening over the distance).
   */
  camera<C extends Camera>(camera: C, from: Frame, to: Frame): C {
    const there = (p: Vec3): Vec3 =>
      fromHead(to, toHead(from, p).map((v) => v * this.k) as Vec3).map((v) => Number(v.toFixed(6)) + 0) as Vec3;
    const { fNumber, focus } = camera.lens;
    return {
      ...camera,
      position: there(camera.position),
      target: there(camera.target),
      lens: {
        fNumber: fNumber > 0 ? this.by(fNumber, 1 / this.k, [Math.max(0.1, LIMITS.fNumber[0]), LIMITS.fNumber[1]], 'the f-number') : 0,
        focus: this.long(focus, LIMITS.focus, 'the focus'),
      },
    };
  }
}
