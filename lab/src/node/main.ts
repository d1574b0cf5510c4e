// A render node as a process: npm run node -- --server URL --token T --name N
import { randomUUID } from 'node:crypto';
import { availableParallelism, setPriority, tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { nodePool } from '@plinket/engine/node';
import { FileCache } from './cache.ts';
import { NodeRefused, ServerLink } from './link.ts';
import { FrameMaker } from './maker.ts';
import { RenderNode } from './node.ts';

const HELP = `A render node of Plinket: takes frames from a server's Lab and renders them.

  npm run node -- --server http://HOST:4870 --token TOKEN [--name NAME] [--workers N] [--cache FOLDER]
      A token is made in the Lab of the server, one for each node; it may stand in PLINKET_NODE_TOKEN instead.
      --name is what the Lab calls it. --workers is how many threads trace (all cores but one). --cache keeps scene files.
`;
/** Below everything that a person waits for. */
const GENTLE = 10;

const text = { type: 'string' } as const;
const say = (line: string): void => console.log(line);

async function main(): Promise<number> {
  const { values } = parseArgs({
    options: { server: text, token: text, name: text, workers: text, cache: text, help: { type: 'boolean', short: 'h' } },
  });
  const server = (values.server ?? process.env['PLINKET_SERVER'] ?? '').replace(/\/+$/, ''),
    token = values.token ?? process.env['PLINKET_NODE_TOKEN'] ?? '';
  if (values.help || !server || !token) {
    console.log(HELP);
    return values.help ? 0 : 2;
  }
  if (!/^https?:\/\//.test(server)) throw new NodeRefused(`--server ${server}: an address like http://192.168.1.20:4870 is needed.`);
  const workers = Number(values.workers ?? Math.max(1, availableParallelism() - 1));
  if (!Number.isInteger(workers) || workers < 1 || workers > 256)
    throw new NodeRefused(`--workers ${values.workers}: a number from 1 to 256.`);
  setPriority(GENTLE);
  const ending = new AbortController(),
    end = () => ending.abort(new Error('The node was told to end.'));
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, end);
  // whoever started it is gone, or was gone before this was read
  process.on('disconnect', end);
  if (process.connected === false) end();
  const link = new ServerLink({ server, token, process: randomUUID(), say });
  const cache = new FileCache(values.cache ?? process.env['PLINKET_NODE_CACHE'] ?? join(tmpdir(), 'plinket-node'), (sha256, signal) =>
    link.file(sha256, signal),
  );
  const maker = new FrameMaker(cache, () => nodePool({ workers }));
  await new RenderNode({ link, maker, cores: workers, ...(values.name ? { name: values.name } : {}), say }).run(ending.signal);
  return 0;
}

const code = await main().catch((error: unknown) => {
  console.error(error instanceof NodeRefused ? error.message : error);
  return 1;
});
// an open line to whoever started it would keep it
process.exit(code);
