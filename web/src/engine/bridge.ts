import type {
  CutOut,
  HeadFrame,
  FigureProxy,
  KeptReading,
  PatternGrid,
  Picked,
  Placed,
  Setup,
  StandIn,
  Subject,
  Taken,
  UsdRead,
  UsdWritten,
} from '@plinket/core';
import { Asking } from './asking.ts';
import { RefusedFile } from './importer.ts';
import { engineUrls } from './urls.ts';
import type {
  AssetReport,
  CharacterReport,
  FaceReport,
  Frame,
  FromEngine,
  HeadReport,
  PartReport,
  Asked,
  MotionReport,
  SeenReport,
  SetReport,
  ShowWish,
  Spot,
  Wished,
  Thumb,
  ToEngine,
} from './messages.ts';

/** The page's end of the engine: one worker that does all computing. */
export class StageEngine {
  onFrame: (frame: Frame) => void = () => undefined;
  onReading: (report: FaceReport) => void = () => undefined;
  onSeen: (report: SeenReport) => void = () => undefined;
  onSet: (report: SetReport) => void = () => undefined;
  onMotion: (report: MotionReport) => void = () => undefined;
  onThumbs: (thumbs: Thumb[]) => void = () => undefined;
  onState: (state: Extract<FromEngine, { type: 'state' }>['state']) => void = () => undefined;
  onFailure: (message: string) => void = () => undefined;
  /** Number of the newest wish. */
  wish = 0;
  private readonly worker: Worker;
  private readonly asking = new Asking();

  constructor() {
    this.worker = new Worker(new URL('./stage-worker.ts', import.meta.url), { type: 'module' });
    this.worker.onmessage = (event: MessageEvent<FromEngine>) => this.hear(event.data);
    this.worker.onerror = (event) => this.onFailure(event.message || 'The engine could not be started.');
    this.post({ type: 'open', urls: engineUrls() });
  }

  /** A hand was put on something, so that its first picture finds the cores free; or let it go. */
  hand(down: boolean): void {
    this.post({ type: 'hand', down });
  }

  /** Shows a setup from now on; what did not change is not traced again. */
  show(setup: Setup, wish: ShowWish): void {
    this.post({ type: 'show', number: ++this.wish, setup, ...wish });
  }

  /** What is known of a character that the server keeps. @throws RefusedFile */
  async shelved(asset: string, name: string): Promise<AssetReport> {
    const { report } = await this.ask<{ report: AssetReport }>((request) => this.post({ type: 'shelved', request, asset, name }));
    return report;
  }

  /** A stand-in of our own, as a file to be kept. */
  standIn(kind: StandIn): Promise<{ report: AssetReport; glb: ArrayBuffer }> {
    return this.ask((request) => this.post({ type: 'stand-in', request, kind }));
  }

  /** A light to where it fulfils a wish on the face that is read. @throws RefusedFile that says why it cannot */
  place(light: string, wish: Wished): Promise<Placed> {
    return this.ask((request) => this.post({ type: 'place', request, light, wish }));
  }

  /** Reads the face at times of its clip, seconds, and tells each (`onMotion`); none stops what goes on. */
  readOver(times: readonly number[]): void {
    this.post({ type: 'over', times });
  }

  /** What each light does at a point of the picture; nothing where no surface is. @throws RefusedFile that says why it cannot be told */
  askAt(at: Spot): Promise<Asked | undefined> {
    return this.ask((request) => this.post({ type: 'ask', request, at }));
  }

  /** Which pattern a light draws from every direction of the face that is read. */
  directions(): Promise<PatternGrid> {
    return this.ask((request) => this.post({ type: 'directions', request }));
  }

  /** What the rig is, as an intention says it. @throws RefusedFile that says why that cannot be said */
  takeRecipe(): Promise<Taken> {
    return this.ask((request) => this.post({ type: 'take', request }));
  }

  /** What lies under a point of the picture, 0…1 from its left and top; nothing where no surface is. */
  pick(x: number, y: number): Promise<Picked | undefined> {
    return this.ask((request) => this.post({ type: 'pick', request, x, y }));
  }

  /** A character that is on the stage, as it stands at a pose; with a head, also where that is then. */
  character(asset: string, pose?: Subject['pose'], head?: HeadFrame): Promise<CharacterReport> {
    return this.ask((request) => this.post({ type: 'parts', request, asset, ...(pose ? { pose } : {}), ...(head ? { head } : {}) }));
  }

  /** The parts of a character that is on the stage, as its file has them. */
  async parts(asset: string): Promise<PartReport[]> {
    return (await this.character(asset)).parts;
  }

  /** A character in few triangles as it stands at a pose, for views that need no more. @throws RefusedFile when it cannot be loaded */
  proxy(asset: string, name: string, pose?: Subject['pose']): Promise<FigureProxy> {
    return this.ask((request) => this.post({ type: 'proxy', request, asset, name, ...(pose ? { pose } : {}) }));
  }

  /** A character's head, to be pointed at. @throws RefusedFile when it cannot be loaded */
  head(asset: string, name: string, head: HeadFrame): Promise<HeadReport> {
    return this.ask((request) => this.post({ type: 'head', request, asset, name, head }));
  }

  /** The picture as it is now, as a PNG that carries its setup and what was read in it; `cut`: without what lies behind it, with alpha. */
  exportPng(setup: Setup, more: { cut?: CutOut; reading?: KeptReading } = {}): Promise<ArrayBuffer> {
    return this.ask((request) => this.post({ type: 'export', request, setup, ...more }));
  }

  /** Everything as .usda, for other renderers, and what has no counterpart there. */
  writeUsd(setup: Setup): Promise<UsdWritten> {
    return this.ask((request) => this.post({ type: 'usd-out', request, setup }));
  }

  /** Lights, camera and links of a .usda, as a change of the setup. @throws RefusedFile that says why it cannot be read */
  readUsd(setup: Setup, text: string): Promise<UsdRead> {
    return this.ask((request) => this.post({ type: 'usd-in', request, setup, text }));
  }

  /** Every light's share alone and, last and without a light's id, all together, as they are now. */
  contactPictures(setup: Setup): Promise<Thumb[]> {
    return this.ask((request) => this.post({ type: 'contact', request, setup }));
  }

  close(): void {
    this.worker.terminate();
  }

  private post(message: ToEngine): void {
    this.worker.postMessage(message);
  }

  private ask<T>(send: (request: number) => void): Promise<T> {
    return this.asking.ask(send);
  }

  private hear(message: FromEngine): void {
    switch (message.type) {
      case 'frame':
        return this.onFrame(message);
      case 'reading':
        return this.onReading(message);
      case 'set-seen':
        return this.onSet(message);
      case 'seen':
        return this.onSeen(message);
      case 'motion':
        return this.onMotion(message);
      case 'thumbs':
        return this.onThumbs(message.thumbs);
      case 'state':
        return this.onState(message.state);
      case 'failed':
        return this.onFailure(message.message);
    }
    const { request } = message;
    const answer = (value: unknown) => this.asking.answer(request, value);
    if (message.type === 'inspected') answer({ report: message.report, glb: message.glb });
    else if (message.type === 'proxied') answer(message.proxy);
    else if (message.type === 'exported') answer(message.png);
    else if (message.type === 'picked') answer(message.picked);
    else if (message.type === 'placed') answer(message.placed);
    else if (message.type === 'asked') answer(message.asked);
    else if (message.type === 'directions') answer(message.grid);
    else if (message.type === 'taken') answer(message.taken);
    else if (message.type === 'contacts') answer(message.pictures);
    else if (message.type === 'usd-written') answer(message.written);
    else if (message.type === 'usd-read') answer(message.read);
    else if (message.type === 'head') answer(message.report);
    else if (message.type === 'parts') answer(message.character);
    else this.asking.refuse(request, new RefusedFile(message.code, message.message));
  }
}
