import type { Mending, Progress } from '@plinket/core';
import { Asking } from './asking.ts';
import { engineUrls } from './urls.ts';
import type { NamedFile, Read } from './bring.ts';
import type { FromImport, ToImport } from './import-worker.ts';

/** A file that the importer refused. */
export class RefusedFile extends Error {
  readonly code: string;
  constructor(code: string, message: string) {
    super(message);
    this.code = code;
  }
}

/** A file that is read tells how far it has come; one that does not for so long is given up, ms. */
const SILENT = 90_000;

/** The page's end of reading: a worker that lives only while something is being brought in. */
export class Importer {
  private worker: Worker | undefined;
  private readonly asking = new Asking();
  /** Who hears of which question; an earlier one is not heard any more. */
  private hearing: { request: number; progress: Progress } | undefined;

  /** Reads a character with what came beside it. @throws RefusedFile, also with the code “stopped” */
  inspect(files: [NamedFile, ...NamedFile[]], progress: Progress): Promise<Read> {
    return this.ask({ type: 'inspect', files }, progress);
  }

  /** A character mended before it is kept. @throws RefusedFile, also with the code “stopped” */
  mend(name: string, glb: ArrayBuffer, mending: Mending, progress: Progress): Promise<Read> {
    return this.ask({ type: 'mend', name, glb, mending }, progress);
  }

  /** Stops whatever is being read, and gives its memory back. */
  stop(reason = new RefusedFile('stopped', 'Reading was stopped.')): void {
    this.worker?.terminate();
    this.worker = undefined;
    this.asking.refuseAll(reason);
  }

  private async ask(message: Wish, progress: Progress): Promise<Read> {
    const worker = (this.worker ??= this.start());
    const { draco, jpeg } = engineUrls();
    const late = (): void =>
      this.stop(new RefusedFile('time', `It gave no sign for ${SILENT / 1000} s while it was read, and was given up.`));
    let watch = setTimeout(late, SILENT);
    try {
      return await this.asking.ask<Read>((request) => {
        this.hearing = {
          request,
          progress: (share) => {
            clearTimeout(watch);
            watch = setTimeout(late, SILENT);
            progress(share);
          },
        };
        worker.postMessage({ ...message, request, draco, jpeg } satisfies ToImport);
      });
    } finally {
      clearTimeout(watch);
    }
  }

  private start(): Worker {
    const worker = new Worker(new URL('./import-worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<FromImport>) => {
      if (data.type === 'progress') {
        if (data.request === this.hearing?.request) this.hearing.progress(data.share);
      } else if (data.type === 'read') this.asking.answer(data.request, { report: data.report, glb: data.glb });
      else this.asking.refuse(data.request, new RefusedFile(data.code, data.message));
    };
    // out of memory, as a rule: what was asked of this worker is not answered by the next
    worker.onerror = (event) => {
      this.worker = undefined;
      this.asking.refuseAll(
        new RefusedFile('broken', event.message || 'The file could not be read: it may be too large for this browser.'),
      );
    };
    return worker;
  }
}

type Wish = { type: 'inspect'; files: [NamedFile, ...NamedFile[]] } | { type: 'mend'; name: string; glb: ArrayBuffer; mending: Mending };
