// What `npm start` keeps running: the database and the server, each started again when it dies, both ended together.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { pause } from './processes.mjs';
import { root } from './paths.mjs';
import { serverArguments } from './serve.mjs';

/** What is stopped has so long to end by itself, ms. */
const PATIENCE = 5000;
/** Pause before a server that died is started again, ms: longer each time that it dies within a minute. */
const PAUSE = { first: 200, most: 3000 };

export class House {
  /** @param options database: as `startPostgres` answers it; port, data: where the server answers and keeps its files; say: a line for a person; ready: told the port */
  constructor({ database, port, data, say = console.log, ready = () => undefined }) {
    Object.assign(this, { database, port, data, say, ready });
    this.server = undefined;
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
      env: { ...process.env, PORT: String(this.port), DATABASE_URL: this.database.url, PLINKET_DATA: this.data },
    });
    this.watcher.stdin.write(`server ${this.server.pid}\n`);
    let served = false;
    this.server.on('message', ({ port }) => {
      served = true;
      // a server that is started again answers where the page expects it
      this.port = port;
      this.ready(port);
    });
    this.server.on('exit', (code, signal) => void this.serverEnded(code, signal, served));
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
