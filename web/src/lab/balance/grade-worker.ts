// The worker in which finished pictures are balanced.
import { LightFileShelf, readCube, type Cube, type Setup } from '@plinket/core';
import { browserFilmMath } from '@plinket/engine/browser';
import { keptBlob } from '../../engine/files.ts';
import { readLightAway } from '../../engine/light-reader.ts';
import { Grade, type Shown } from './grade.ts';
import type { FromGrade, ToGrade } from './messages.ts';

interface Scope {
  postMessage(message: FromGrade, transfer?: Transferable[]): void;
  onmessage: ((event: MessageEvent<ToGrade>) => void) | null;
}
const scope = globalThis as unknown as Scope;

/** Files of plate and look. */
async function filesOf({ plate, look }: Setup) {
  const shelf = new LightFileShelf();
  if (plate.kind === 'picture' && plate.asset) {
    const use = { kind: 'gobo' } as const;
    shelf.keep(plate.asset, use, await readLightAway(await keptBlob(plate.asset, 'The plate'), plate.asset, use, 'The plate'));
  }
  let cube: Cube | undefined;
  if (look.lut) cube = readCube(new TextDecoder().decode(await keptBlob(look.lut, 'The look-up table')), look.lut);
  return { gobo: (sha256: string) => shelf.gobo(sha256), cube: () => cube };
}

/** The browser's own unpacker (Compression Streams standard), beside this thread. */
async function inflate(packed: Uint8Array): Promise<Uint8Array> {
  const stream = new Blob([packed as Uint8Array<ArrayBuffer>]).stream().pipeThrough(new DecompressionStream('deflate'));
  return new Uint8Array(await new Response(stream).arrayBuffer());
}

/** Opens frames one after the other, and makes only the picture that was wished last. */
class Room {
  private grade: Promise<Grade> | undefined;
  private opening: Promise<unknown> = Promise.resolve();
  /** The frame that is to be opened next: of those that a slider passes over only the last is. */
  private next: Extract<ToGrade, { type: 'open' }> | undefined;
  private toOpen = 0;
  private wished: { number: number; shown: Shown } | undefined;

  hear(message: ToGrade): void {
    if (message.type === 'url') {
      this.grade = browserFilmMath(message.film).then((math) => new Grade({ math, load: keptBlob, files: filesOf, inflate }));
      return;
    }
    const { number, shown } = message;
    const waits = this.wished !== undefined;
    this.wished = { number, shown };
    if (message.type === 'open') {
      this.next = message;
      this.toOpen++;
      this.opening = this.opening
        .then(() => this.open())
        .then(() => {
          this.toOpen--;
          return this.show();
        });
    } else if (!waits)
      // messages that came together are looked through first: a slider says more than can be shown
      setTimeout(() => void this.show());
  }

  private async open(): Promise<void> {
    if (!this.next) return;
    const { number, films, setup } = this.next;
    this.next = undefined;
    try {
      scope.postMessage({ type: 'opened', number, setup: await (await this.grade!).open(films, setup) });
    } catch (error) {
      scope.postMessage({ type: 'failed', number, message: error instanceof Error ? error.message : String(error) });
    }
  }

  private async show(): Promise<void> {
    // a frame that is on its way is shown when it is there
    if (this.toOpen > 0) return;
    const wished = this.wished;
    this.wished = undefined;
    if (!wished) return;
    const picture = (await this.grade!).picture(wished.shown);
    if (picture) scope.postMessage({ type: 'picture', number: wished.number, picture }, [picture.rgba.buffer]);
  }
}

const room = new Room();
scope.onmessage = ({ data }) => room.hear(data);
