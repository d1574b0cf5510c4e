// A finished picture that is balanced: its films, read once, and pictures of them as they are wished.
import { PictureMaker, readFilms, rebalanced, type Balance, type ReadFilms, type Setup } from '@plinket/core';
import type { FilmMath } from '@plinket/engine';

type NamedFiles = ConstructorParameters<typeof PictureMaker>[1];

/** Bytes of files, and what a setup names, as the worker has them. */
export interface GradePorts {
  math: FilmMath;
  /** Takes zlib's packing off; by the application's own code where the browser's is not said. */
  inflate?: (packed: Uint8Array) => Promise<Uint8Array>;
  /** A file that the server keeps. @throws Error that says what it was */
  load(sha256: string, what: string): Promise<Uint8Array>;
  /** Brings in what the setup's look and plate name. */
  files(setup: Setup): Promise<NamedFiles>;
}

/** What a balance is shown with. */
export interface Shown {
  balance: Balance;
  solo: readonly string[];
}

export interface GradedPicture {
  width: number;
  height: number;
  rgba: Uint8ClampedArray<ArrayBuffer>;
  /** What the picture took, ms. */
  ms: number;
}

/** The frame in view, and pictures of it. One frame is held at a time. */
export class Grade {
  private readonly ports: GradePorts;
  private films: ReadFilms | undefined;
  private setup: Setup | undefined;
  /** What the frame in view names for its picture. */
  private named: NamedFiles | undefined;
  /** One for all frames: its room stays. */
  private readonly maker: PictureMaker;

  constructor(ports: GradePorts) {
    this.ports = ports;
    this.maker = new PictureMaker(ports.math, { gobo: (sha256) => this.named?.gobo(sha256), cube: (look) => this.named?.cube(look) });
  }

  /** Reads a frame. @throws Error with the reason, where it cannot be balanced */
  async open(films: string | Uint8Array, setup?: Setup): Promise<Setup> {
    const bytes = typeof films === 'string' ? await this.ports.load(films, 'The picture') : films;
    this.films?.release();
    this.films = undefined;
    const read = await readFilms(bytes, this.ports.math, this.ports.inflate);
    this.films = read;
    this.setup = setup ?? read.setup;
    this.named = await this.ports.files(this.setup);
    return this.setup;
  }

  /** The frame in view under a balance; nothing where none is. */
  picture({ balance, solo }: Shown): GradedPicture | undefined {
    const { films, setup, maker } = this;
    if (!films || !setup) return undefined;
    const began = performance.now();
    const { rgba } = maker.make(films, { setup: rebalanced(setup, balance), solo });
    return { width: films.width, height: films.height, rgba: Uint8ClampedArray.from(rgba), ms: performance.now() - began };
  }

  close(): void {
    this.films?.release();
    this.films = undefined;
  }
}
