// What `npm start` keeps running: the database, the server and a render node, each started again when it dies, all ended together.
import { spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import { pause } from './processes.mjs';
import { root } from './paths.mjs';
import { nodeArguments, serverArguments } from './serve.mjs';

/** What is stopped has so long to end by itself, ms. */
const PATIENCE = 5000;
/** Pause before a render node that died soon after its start is started again, ms. */
const NODE_PAUSE = 15_000;
/** Pause before a server that died is started again, ms: longer each time that it dies within a minute. */
const PAUSE = { first: 200, most: 3000 };

export class House {
  /** @param options database: as `startPostgres` answers it; port, data: where the server answers and keeps its files; say: a line for a person; ready: told the port */
  constructor({ database, port, data, say = console.log, ready = () => undefined }) {
    Object.assign(this, { database, port, data, say, ready });
    this.server = undefined;
    this.node = undefined;
    /** What the node that comes with the server says to it. */
    this.token = randomBytes(32).toString('base64url');
    this.deaths = [];
    /** Whether a server ever answered. */
    this.served = false;
    this.stopping = false;
    this.ended = new Promise((resolve) => (this.end = resolve));
  }

  /** Starts everything; the answer settles when all has ended, with the exit code. */
  run() {
    this.watch();
    this.startServer();
    this.mind();
    return this.ended;
  }

  /** A shell of its own session that outlives this process by a moment and puts away what is left. */
  watch() {
    this.watcher = spawn('sh', [join(root, 'scripts/lib/watch.sh'), ...this.database.stopCommand], {
      stdio: ['pipe', 'ignore', 'ignore'],
      cwd: '/',
      detached: true,
    });
    this.watcher.stdin.on('error', () => undefined);
    this.watcher.unref();
  }

  startServer() {
    this.server = spawn(process.execPath, serverArguments(), {
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
      env: {
        ...process.env,
        PORT: String(this.port),
        DATABASE_URL: this.database.url,
        PLINKET_DATA: this.data,
        PLINKET_NODE_TOKEN: this.token,
      },
    });
    this.watcher.stdin.write(`server ${this.server.pid}\n`);
    let served = false;
    this.server.on('message', ({ port }) => {
      served = true;
      // a server that is started again answers where the page expects it
      this.port = port;
      this.ready(port);
      this.startNode();
    });
    this.server.on('exit', (code, signal) => void this.serverEnded(code, signal, served));
  }

  /** A node that renders on this machine; it waits for a server that is away. PLINKET_NODE=none leaves it out. */
  startNode() {
    if (this.node || this.stopping || process.env.PLINKET_NODE === 'none') return;
    const began = Date.now(),
      node = (this.node = spawn(process.execPath, nodeArguments(), {
        stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
        env: {
          ...process.env,
          PLINKET_SERVER: `http://127.0.0.1:${this.port}`,
          PLINKET_NODE_TOKEN: this.token,
          PLINKET_NODE_CACHE: join(this.data, 'node-cache'),
        },
      }));
    node.on('exit', async () => {
      this.node = undefined;
      // one that dies at once would die again
      await pause(Date.now() - began < 10_000 ? NODE_PAUSE : PAUSE.first);
      this.startNode();
    });
  }

  async serverEnded(code, signal, served) {
    if (this.stopping) return;
    const now = Date.now();
    this.deaths = [...this.deaths.filter((t) => now - t < 60_000), now];
    // one that never answered at all has said why, and would say it again
    this.served ||= served;
    if (!this.served) return this.stop(code ?? 1);
    this.say(`The server died (${signal ?? `exit code ${code}`}); starting it again.`);
    await pause(Math.min(PAUSE.most, PAUSE.first * this.deaths.length));
    if (!this.stopping) this.startServer();
  }

  /** A database that dies is started again at its port; people's pages wait meanwhile. */
  async mind() {
    let told = '';
    while (!this.stopping) {
      await pause(500);
      if (this.stopping || (await this.database.isThere())) continue;
      if (this.stopping) return;
      this.say('The database does not answer; starting it again.');
      try {
        await this.database.start();
        told = '';
      } catch (error) {
        if (error.message !== told) this.say(error.message);
        told = error.message;
      }
    }
  }

  /** Ends everything in order; a second call, or five seconds, ends the server at once. */
  async stop(code = 0) {
    if (this.stopping) {
      this.server?.kill('SIGKILL');
      return;
    }
    this.stopping = true;
    this.node?.kill('SIGTERM');
    const server = this.server;
    if (server && server.exitCode === null && server.signalCode === null) {
      const gone = new Promise((resolve) => server.once('exit', resolve));
      server.kill('SIGTERM');
      const late = setTimeout(() => server.kill('SIGKILL'), PATIENCE);
      await gone;
      clearTimeout(late);
    }
    await this.database.stop();
    this.watcher.stdin.end('done\n');
    this.end(code);
  }
}
