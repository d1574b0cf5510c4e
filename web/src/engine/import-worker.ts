// Reads and mends characters that are being brought in, away from the engine: the picture goes on, and reading can be stopped.
import { ImportError, type Mending } from '@plinket/core';
import { inspect, mend, type NamedFile, type Read } from './bring.ts';

/** What the page asks. */
export type ToImport = { request: number; draco: string; jpeg: string } & (
  { type: 'inspect'; files: [NamedFile, ...NamedFile[]] } | { type: 'mend'; name: string; glb: ArrayBuffer; mending: Mending }
);

/** What is answered. */
export type FromImport =
  | { type: 'progress'; request: number; share: number }
  | ({ type: 'read'; request: number } & Read)
  | { type: 'refused'; request: number; code: string; message: string };

interface Scope {
  postMessage(message: FromImport, transfer?: Transferable[]): void;
  onmessage: ((event: MessageEvent<ToImport>) => void) | null;
}
const scope = globalThis as unknown as Scope;

const bytesOf = async (url: string): Promise<Uint8Array> => new Uint8Array(await (await fetch(url)).arrayBuffer());

scope.onmessage = ({ data }) => {
  const { request } = data;
  const options = {
    draco: () => bytesOf(data.draco),
    jpeg: () => bytesOf(data.jpeg),
    progress: (share: number) => scope.postMessage({ type: 'progress', request, share }),
  };
  (data.type === 'inspect' ? inspect(data.files, options) : mend(data.name, data.glb, data.mending, options)).then(
    (read) => scope.postMessage({ type: 'read', request, ...read }, [read.glb]),
    (error: unknown) =>
      scope.postMessage({
        type: 'refused',
        request,
        code: error instanceof ImportError ? error.code : 'broken',
        message: error instanceof Error ? error.message : String(error),
      }),
  );
};
