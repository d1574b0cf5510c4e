// Sums of films that are kept: where only levels changed, only what they changed is added.
import type { FilmMath } from '@plinket/kernel';
import type { LayerName, Rgb } from '../setup/index.ts';
import { balance, type Voice } from './balance.ts';
import type { Film } from './film.ts';

/** So many times what changed is added before the sum is made anew, and by so much a light may have come down since: floats keep seven digits. */
const MOST_CHANGES = 64,
  MOST_DOWN = 16;

interface Heard {
  film: Film;
  stamp: number;
  smooth: Film['smooth'];
  strength: number;
  gains: Rgb[];
  /** The most that its gains were since the sum was made. */
  most: number;
}

const isSilent = (gains: readonly Rgb[]): boolean => gains.every((g) => g.every((v) => v === 0));
const most = (gains: readonly Rgb[]): number => Math.max(...gains.flat());

/** The sum of some layers over lights, r g b by pixel: balance, quicker where little changed since the last time. */
export class FilmSum {
  readonly plane: Float32Array;
  private readonly math: FilmMath;
  private readonly layers: readonly LayerName[];
  private last: Heard[] = [];
  private changes = 0;

  constructor(math: FilmMath, layers: readonly LayerName[], pixels: number) {
    this.math = math;
    this.layers = layers;
    this.plane = math.floats(pixels * 3);
  }

  /** Whether films are all that is needed: no coarse one stands in for any of them. */
  static isWhole(voices: readonly Voice[]): boolean {
    return voices.every(({ film, coarse, waits }) => !coarse || (!waits && film.missing === 0));
  }

  /** The sum; gains on other layers than its own must be nothing. The plane is its own, and read only. */
  make(voices: readonly Voice[]): Float32Array {
    const now = voices.map(({ film, gain, smooth = 0 }): Heard => {
      const gains = this.layers.map((l) => gain[l]);
      return { film, stamp: film.stamp, smooth: film.smooth, strength: film.smooth ? smooth : 0, gains, most: most(gains) };
    });
    if (!FilmSum.isWhole(voices) || !this.follow(now)) {
      this.changes = 0;
      balance(this.math, [...voices], this.plane);
    }
    this.last = now;
    return this.plane;
  }

  /** Adds what changed since the last time; answers whether that could be done, and is less than to begin anew. */
  private follow(now: Heard[]): boolean {
    const { last } = this;
    const same =
      now.length === last.length &&
      now.every((a, i) => {
        const b = last[i]!;
        return a.film === b.film && a.stamp === b.stamp && a.smooth === b.smooth && a.strength === b.strength;
      });
    if (!same || this.changes >= MOST_CHANGES) return false;
    now.forEach((a, i) => (a.most = Math.max(a.most, last[i]!.most)));
    if (now.some((a) => most(a.gains) * MOST_DOWN < a.most)) return false;
    const changed = now.flatMap((a, i) => (a.gains.some((g, l) => g.some((v, c) => v !== last[i]!.gains[l]![c])) ? [i] : []));
    if (changed.length * 2 > now.filter((a) => !isSilent(a.gains)).length) return changed.length === 0;
    for (const i of changed) this.add(now[i]!, last[i]!.gains);
    this.changes += changed.length;
    return true;
  }

  private add({ film, smooth, strength, gains }: Heard, before: readonly Rgb[]): void {
    const { math, plane } = this;
    this.layers.forEach((name, n) => {
      const l = film.layers.findIndex((layer) => layer.name === name);
      if (l < 0) return;
      const by = gains[n]!.map((v, c) => v - before[n]![c]!);
      const raw = film.planes[l]!,
        clean = smooth?.planes[l];
      const part = (k: number): Rgb => [by[0]! * k, by[1]! * k, by[2]! * k];
      const k = clean ? strength : 0;
      if (k > 0) math.accumulate(plane, clean!, clean!, 0, plane.length, part(k), [0, 0, 0]);
      if (k < 1) math.accumulate(plane, raw, raw, 0, plane.length, part(1 - k), [0, 0, 0]);
    });
  }

  release(): void {
    this.math.free(this.plane);
  }
}
