import type { Setup } from '@plinket/core';
import ownUrl from '../../../kernel/build/kernel.wasm?url';
import sharedUrl from '../../../kernel/build/kernel-shared.wasm?url';
import type { AssetReport, Frame, FromEngine, PictureMode, Thumb, ToEngine } from './messages.ts';

/** A file that the importer refused. */
export class RefusedFile extends Error {
  readonly code: string;
  constructor(code: string, message: string) {
    super(message);
    this.code = code;
  }
}

/** The page's end of the engine: one worker that does all computing. */
export class StageEngine {
  onFrame: (frame: Frame) => void = () => undefined;
  onThumbs: (thumbs: Thumb[]) => void = () => undefined;
  onState: (state: Extract<FromEngine, { type: 'state' }>['state']) => void = () => undefined;
  onFailure: (message: string) => void = () => undefined;
  /** How many pictures have been asked for. */
  asked = 0;
  private readonly worker: Worker;
  private readonly waiting = new Map<number, { resolve: (v: never) => void; reject: (e: Error) => void }>();
  private next = 1;

  constructor() {
    this.worker = new Worker(new URL('./stage-worker.ts', import.meta.url), { type: 'module' });
    this.worker.onmessage = (event: MessageEvent<FromEngine>) => this.hear(event.data);
    this.worker.onerror = (event) => this.onFailure(event.message || 'The engine could not be started.');
    this.post({ type: 'open', urls: { shared: new URL(sharedUrl, location.href).href, own: new URL(ownUrl, location.href).href } });
  }

  /** Shows a setup from now on; what did not change is not traced again. */
  show(setup: Setup, view: { width: number; height: number; solo: string | undefined; mode: PictureMode; thumb: [number, number] }): void {
    this.asked++;
    this.post({ type: 'show', setup, ...view });
  }

  /** Reads a GLB away from the page. @throws RefusedFile */
  inspect(fileName: string, bytes: ArrayBuffer): Promise<AssetReport> {
    return this.ask((request) => this.post({ type: 'inspect', request, fileName, bytes }));
  }

  /** The picture as it is now, as a PNG that carries its setup. */
  exportPng(setup: Setup): Promise<ArrayBuffer> {
    return this.ask((request) => this.post({ type: 'export', request, setup }));
  }

  close(): void {
    this.worker.terminate();
  }

  private post(message: ToEngine): void {
    this.worker.postMessage(message);
  }

  private ask<T>(send: (request: number) => void): Promise<T> {
    const request = this.next++;
    return new Promise<T>((resolve, reject) => {
      this.waiting.set(request, { resolve: resolve as (v: never) => void, reject });
      send(request);
    });
  }

  private hear(message: FromEngine): void {
    switch (message.type) {
      case 'frame':
        return this.onFrame(message);
      case 'thumbs':
        return this.onThumbs(message.thumbs);
      case 'state':
        return this.onState(message.state);
      case 'failed':
        return this.onFailure(message.message);
    }
    const entry = this.waiting.get(message.request);
    this.waiting.delete(message.request);
    if (message.type === 'inspected') entry?.resolve(message.report as never);
    else if (message.type === 'exported') entry?.resolve(message.png as never);
    else entry?.reject(new RefusedFile(message.code, message.message));
  }
}
