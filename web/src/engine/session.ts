import {
  compile,
  firstInSight,
  ImportError,
  OPENNESS,
  pickAt,
  place,
  readUsda,
  recipeOf,
  withOpenness,
  writeUsda,
  type Placed,
  type Scene,
} from '@plinket/core';
import type { FilmMath, Pool } from '@plinket/engine';
import { Characters } from './characters.ts';
import { StageFiles, type ReadLight } from './files.ts';
import { Looker } from './looker.ts';
import { MotionReader } from './motion.ts';
import { characterOf, reportOf, type EngineUrls, type ShowMessage, type ToEngine, type Wished } from './messages.ts';
import { contactPictures, exportedPng, type Answer } from './output.ts';
import { Painter, type Clock, type Tell } from './painter.ts';
import { FaceReader } from './reading.ts';
import { SetLooker } from './set-looker.ts';
import { askedAt, found, surfaceAt } from './spots.ts';

/** What a session needs of the world around it. */
export interface SessionPorts {
  tell: Tell;
  clock: Clock;
  /** Starts the tracing workers and the arithmetic over films. */
  open(urls: EngineUrls): Promise<{ pool: Pool; math: FilmMath }>;
  /** Starts one more tracing worker, for what must not stop the picture. */
  another(urls: EngineUrls): Promise<Pool>;
  /** A file that the server keeps. @throws Error that names what it was */
  load(sha256: string, what: string): Promise<Uint8Array>;
  /** Makes of a file what a light wants of it, elsewhere; here where nothing is said. */
  readLight?: ReadLight;
  /** A file of the application itself. */
  fetch(url: string): Promise<Uint8Array>;
}

/** Samples that a proof waits for when its surfaces have to be traced first, and how long it waits at most, ms. */
const PROOF_SAMPLES = 16,
  PROOF_MS = 20_000;

/** Rays to each light from a point that is asked about. */
const ASK_SAMPLES = 64;

type About = Extract<ToEngine, { type: 'head' | 'proxy' | 'shelved' | 'stand-in' | 'parts' }>;

/** What the Stage's worker does, from its page's first message on: holds the films, hands work out, balances, develops, answers questions. */
export class StageSession {
  private readonly ports: SessionPorts;
  private readonly characters: Characters;
  private readonly files: StageFiles;
  private urls: EngineUrls | undefined;
  private painter: Painter | undefined;
  private reader: FaceReader | undefined;
  private looker: Looker | undefined;
  private setLooker: SetLooker | undefined;
  private motion: MotionReader | undefined;
  private pool: Pool | undefined;
  private scene: Scene | undefined;
  private show: ShowMessage | undefined;

  constructor(ports: SessionPorts) {
    this.ports = ports;
    this.characters = new Characters((sha, what) => ports.load(sha, what), {
      draco: () => ports.fetch(this.urls!.draco),
      jpeg: () => ports.fetch(this.urls!.jpeg),
    });
    this.files = new StageFiles(this.characters, (sha, what) => ports.load(sha, what), ports.readLight);
  }

  /** Hears a message of the page. What goes wrong is told. */
  hear(message: ToEngine): void {
    try {
      this.answer(message);
    } catch (error) {
      this.fail(error);
    }
  }

  private fail(error: unknown): void {
    this.ports.tell({ type: 'failed', message: error instanceof Error ? error.message : String(error) });
  }

  private answer(message: ToEngine): void {
    switch (message.type) {
      case 'open':
        void this.open(message.urls).catch((error: unknown) => this.fail(error));
        break;
      case 'show':
        this.show = message;
        this.painter?.touch();
        this.looker?.stop();
        this.setLooker?.stop();
        void this.present();
        break;
      case 'hand':
        this.painter?.hand(message.down);
        break;
      case 'head':
      case 'proxy':
      case 'shelved':
      case 'stand-in':
      case 'parts':
        this.reply(message.request, this.aboutCharacters(message));
        break;
      case 'pick':
        this.ports.tell({ type: 'picked', request: message.request, picked: this.pick(message.x, message.y) });
        break;
      case 'place':
        this.reply(
          message.request,
          Promise.resolve().then((): Answer => [
            { type: 'placed', request: message.request, placed: this.place(message.light, message.wish) },
          ]),
        );
        break;
      case 'ask':
        this.reply(
          message.request,
          Promise.resolve().then(() => this.asked(message)),
        );
        break;
      case 'over':
        this.over(message.times);
        break;
      case 'take':
        this.reply(
          message.request,
          Promise.resolve().then((): Answer => [{ type: 'taken', request: message.request, taken: recipeOf(this.faces().stand()) }]),
        );
        break;
      case 'directions':
        this.reply(
          message.request,
          Promise.resolve()
            .then(() => this.faces().directions())
            .then((grid): Answer => [{ type: 'directions', request: message.request, grid }]),
        );
        break;
      case 'export':
        this.reply(
          message.request,
          Promise.resolve().then(() => this.truly((painter) => exportedPng(painter, message))),
        );
        break;
      case 'contact':
        this.reply(
          message.request,
          Promise.resolve().then(() => this.truly((painter) => contactPictures(painter, message))),
        );
        break;
      case 'usd-out':
        this.reply(
          message.request,
          Promise.resolve().then(() => this.usdOut(message)),
        );
        break;
      case 'usd-in':
        this.reply(
          message.request,
          Promise.resolve().then((): Answer => [
            { type: 'usd-read', request: message.request, read: readUsda(message.text, message.setup) },
          ]),
        );
    }
  }

  private async open(urls: EngineUrls): Promise<void> {
    const { ports } = this;
    this.urls = urls;
    ports.tell({ type: 'state', state: 'loading' });
    const { pool, math } = await ports.open(urls);
    const files = { gobo: (sha: string) => this.files.lights.gobo(sha), cube: this.files.cube };
    this.painter = new Painter(pool, math, files, ports.clock, ports.tell);
    this.reader = new FaceReader(pool, ports.clock, this.files.lights, (report) => ports.tell(report));
    this.pool = pool;
    this.motion = new MotionReader(
      () => ports.another(urls),
      this.files.lights,
      (report) => ports.tell(report),
    );
    this.looker = new Looker(ports.clock, (report) => ports.tell(report));
    this.setLooker = new SetLooker(pool, ports.clock, (report) => ports.tell(report));
    this.painter.onPainted = (wish) => this.reader?.pictured(wish);
    this.painter.onRest = (finished) => this.look(finished);
    await this.present();
  }

  /** Compiles what is wished for and hands it on; a newer wish that came meanwhile goes first. */
  private async present(): Promise<void> {
    const { show, painter } = this;
    if (!painter || !show) return;
    try {
      await this.files.fetch(show.setup);
      if (show !== this.show) return;
      const before = this.scene;
      const scene = compile(show.setup, (sha) => this.characters.known.get(sha), before, { clay: show.clay, files: this.files.lights });
      this.scene = scene;
      if (scene.geometry !== before?.geometry) this.ports.tell({ type: 'state', state: 'building' });
      const open = show.mode.kind === 'openness' ? { ...scene, lights: [...scene.lights, OPENNESS] } : withOpenness(show.setup, scene);
      painter.take(show, open);
      this.reader?.take(show.number, show.setup, scene, (sha) => this.characters.known.get(sha));
    } catch (error) {
      this.fail(error);
    }
  }

  /** Answers a question when its work is done, or says why it cannot be. */
  private reply(request: number, work: Promise<Answer>): void {
    const { tell } = this.ports;
    work
      .then(([message, transfer]) => tell(message, transfer))
      .catch((error: unknown) =>
        tell({
          type: 'refused',
          request,
          code: error instanceof ImportError ? error.code : 'broken',
          message: error instanceof Error ? error.message : String(error),
        }),
      );
  }

  private pick(x: number, y: number) {
    return this.painter && this.scene && pickAt(this.painter.renderer.set.guides, this.scene, x, y);
  }

  private async aboutCharacters(data: About): Promise<Answer> {
    const { request } = data,
      { characters } = this;
    switch (data.type) {
      case 'stand-in': {
        const { report, glb } = await characters.standIn(data.kind);
        return [{ type: 'inspected', request, report, glb }, [glb]];
      }
      case 'shelved':
        return [{ type: 'inspected', request, report: reportOf(await characters.load(data.asset, data.name), data.name) }];
      case 'parts':
        // who asks may be quicker than the picture that loads it
        return [
          { type: 'parts', request, character: characterOf(await characters.load(data.asset, 'the character'), data.pose, data.head) },
        ];
      case 'head':
        return [{ type: 'head', request, report: await characters.head(data.asset, data.name, data.head) }];
      case 'proxy': {
        const proxy = await characters.proxy(data.asset, data.name, data.pose);
        return [{ type: 'proxied', request, proxy }, Object.values(proxy).map((array) => (array as Float32Array).buffer)];
      }
    }
  }

  /**
   * Does something with films of the setup as it is: where the picture is in clay they are traced first, and the clay comes back afterwards.
   */
  private async truly<T>(make: (painter: Painter) => T): Promise<T> {
    const painter = this.painting(),
      asked = this.show;
    if (!asked?.clay) return make(painter);
    this.show = { ...asked, clay: false };
    await this.present();
    const { set } = painter.renderer;
    const since = this.ports.clock.now();
    const enough = () => [...set.films.keys()].every((id) => set.samplesOf(id) >= PROOF_SAMPLES);
    while (!enough() && this.ports.clock.now() - since < PROOF_MS)
      await new Promise<void>((resolve) => void this.ports.clock.after(100, resolve));
    try {
      return make(painter);
    } finally {
      // unless something else is wished for by now
      if (this.show?.number === asked.number) {
        this.show = asked;
        void this.present();
      }
    }
  }

  /** The scene itself: never clay. */
  private async usdOut({ request, setup }: Extract<ToEngine, { type: 'usd-out' }>): Promise<Answer> {
    await this.files.fetch(setup);
    const scene = compile(setup, (sha) => this.characters.known.get(sha), undefined, { files: this.files.lights });
    return [{ type: 'usd-written', request, written: writeUsda(setup, scene) }];
  }

  /** Measures the picture that stands on the page. */
  private look(finished: boolean): void {
    const { painter, reader, show, scene } = this;
    if (painter && reader && show && scene && !show.clay && painter.renderer.shown === show.number)
      this.looker?.look(show.number, painter.shown.set, painter.maker, show.setup, scene, reader, finished);
    if (painter && show && scene && !show.clay && painter.renderer.shown === show.number)
      this.setLooker?.look({ wish: show.number, source: painter.shown.set, maker: painter.maker, setup: show.setup, scene });
  }

  private over(times: readonly number[]): void {
    const { motion, show } = this;
    const subject = show && firstInSight(show.setup);
    if (!times.length || !show || subject === undefined) motion?.stop();
    else void motion?.read(show.setup, subject, (sha) => this.characters.known.get(sha), times);
  }

  private place(light: string, wish: Wished): Placed {
    const stand = this.faces().stand();
    return place(
      stand,
      light,
      found(wish, () => this.painting().shown.set, this.scene!, this.looker?.seen),
    );
  }

  /** What lights do at a point: of the picture by its films, directly by rays. */
  private async asked({ request, at }: Extract<ToEngine, { type: 'ask' }>): Promise<Answer> {
    const { scene, show } = this,
      { set } = this.painting().shown;
    const { point, normal } = surfaceAt(set, at);
    const read = await this.pool!.read({
      points: Float32Array.from(point),
      normals: Float32Array.from(normal),
      lights: scene!.lights,
      samples: ASK_SAMPLES,
      seed: 1,
      ...(scene!.haze ? { haze: scene!.haze.density } : {}),
    });
    return [{ type: 'asked', request, asked: askedAt(set, scene!, show!.setup, at, read) }];
  }

  private faces(): FaceReader {
    if (!this.reader) throw new Error('The face has not been read yet.');
    return this.reader;
  }

  private painting(): Painter {
    if (!this.painter?.renderer.set.films.size) throw new Error('There is no picture yet.');
    return this.painter;
  }
}
