// A render node whose pictures are a few words, for tests that kill it: everything else is the real one.
import { randomBytes, randomUUID } from 'node:crypto';
import { setTimeout as rest } from 'node:timers/promises';
import { ServerLink } from './link.ts';
import type { Maker } from './maker.ts';
import { RenderNode } from './node.ts';

/** The server, the node's token, what a picture takes (ms), and whether it takes exactly that or about that. */
const [server, token, ms, how] = process.argv.slice(2) as [string, string, string, 'exactly' | undefined];
/** Bytes of a picture with ten lights or so. */
const LARGE = 20_000_000;
const maker: Maker = {
  async make({ label, frame }, { signal, progress }) {
    for (let step = 1; step <= 4; step++) {
      await rest((Number(ms) / 4) * (how === 'exactly' ? 1 : 0.5 + Math.random()), undefined, { signal });
      progress(step / 4);
    }
    const from = Buffer.from(`${label} ${frame}`);
    return { files: [{ ending: 'png', from: how === 'exactly' ? randomBytes(LARGE) : from }], picture: from, words: [] };
  },
  close: () => undefined,
};
const ending = new AbortController();
process.on('SIGTERM', () => ending.abort(new Error('ended')));
const link = new ServerLink({ server, token, process: randomUUID() });
await new RenderNode({ link, maker, cores: 1, idleMs: 50 }).run(ending.signal);
