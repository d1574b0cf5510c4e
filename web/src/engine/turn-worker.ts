// The turntable's worker: what its session needs of a browser.
import { browserFilmMath, browserPool } from '@plinket/engine/browser';
import { keptBlob } from './files.ts';
import { readLightAway } from './light-reader.ts';
import type { FromTurn, ToTurn } from './turn-messages.ts';
import { TurnSession } from './turn-session.ts';

interface Scope {
  postMessage(message: FromTurn, transfer: Transferable[]): void;
  onmessage: ((event: MessageEvent<ToTurn>) => void) | null;
}
const scope = globalThis as unknown as Scope;
const session = new TurnSession({
  tell: (message, transfer = []) => scope.postMessage(message, transfer),
  open: async (urls) => {
    // nobody moves anything here: all cores are the light's
    const [pool, math] = await Promise.all([browserPool(urls, navigator.hardwareConcurrency || 2), browserFilmMath(urls.film)]);
    return { pool, math };
  },
  load: keptBlob,
  readLight: readLightAway,
  fetch: async (url) => new Uint8Array(await (await fetch(url)).arrayBuffer()),
});
scope.onmessage = ({ data }) => session.hear(data);
