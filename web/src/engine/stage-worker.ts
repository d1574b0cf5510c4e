// The Stage's worker: what the session needs of a browser.
import { browserFilmMath, browserPool } from '@plinket/engine/browser';
import { keptBlob } from './files.ts';
import { readLightAway } from './light-reader.ts';
import type { FromEngine, ToEngine } from './messages.ts';
import { StageSession } from './session.ts';

interface Scope {
  postMessage(message: FromEngine, transfer: Transferable[]): void;
  onmessage: ((event: MessageEvent<ToEngine>) => void) | null;
}
const scope = globalThis as unknown as Scope;
const session = new StageSession({
  tell: (message, transfer = []) => scope.postMessage(message, transfer),
  clock: {
    now: () => performance.now(),
    after: (ms, run) => {
      const timer = setTimeout(run, ms);
      return () => clearTimeout(timer);
    },
  },
  open: async (urls) => {
    const [pool, math] = await Promise.all([browserPool(urls), browserFilmMath(urls.film)]);
    return { pool, math };
  },
  another: (urls) => browserPool(urls, 1),
  load: keptBlob,
  readLight: readLightAway,
  fetch: async (url) => new Uint8Array(await (await fetch(url)).arrayBuffer()),
});
scope.onmessage = ({ data }) => session.hear(data);
