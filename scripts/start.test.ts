// Starting and stopping as a person does it: the processes are real, the folders are made for the test.
import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import { takeLock } from './lib/lock.mjs';
import { root } from './lib/paths.mjs';
import { bornAt, pause, processesIn } from './lib/processes.mjs';
import { startPostgres } from './lib/postgres.mjs';
import { isRoot, run } from './lib/run.mjs';

let folder: string;
const started: ChildProcess[] = [];
beforeEach(() => {
  // where the database's own user can write, too
  folder = mkdtempSync('/var/tmp/plinket-start-');
  if (isRoot()) run('chmod', ['711', folder]);
});
afterEach(async () => {
  for (const child of started.splice(0)) child.kill('SIGKILL');
  await until(() => processesIn(join(folder, 'postgres/data')).length === 0, 'the database is gone');
  rmSync(folder, { recursive: true, force: true });
});

async function until(met: () => boolean | Promise<boolean>, what: string): Promise<void> {
  for (let n = 0; n < 600; n++) {
    if (await met()) return;
    await pause(100);
  }
  throw new Error(`It did not come to this: ${what}`);
}

/** What a start says and does. */
class Start {
  said = '';
  readonly child: ChildProcess;
  readonly ended: Promise<number | null>;
  constructor(env: Record<string, string> = {}, command = [process.execPath, join(root, 'scripts/start.mjs')]) {
    const [file, ...args] = command as [string, ...string[]];
    const { PLINKET_TOKEN: _, PLINKET_HOST: __, ...inherited } = process.env;
    this.child = spawn(file, args, {
      env: { ...inherited, NODE_OPTIONS: '', PLINKET_DATA: folder, PORT: '0', ...env },
      stdio: ['ignore', 'pipe', 'pipe'],
      cwd: root,
      detached: true,
    });
    started.push(this.child);
    for (const stream of [this.child.stdout!, this.child.stderr!]) stream.on('data', (d) => (this.said += String(d)));
    this.ended = new Promise((resolve) => this.child.on('exit', resolve));
  }
  get url(): string {
    return [...this.said.matchAll(/ready at (http:\/\/\S+)/g)].at(-1)?.[1] ?? '';
  }
  async ready(times = 1): Promise<this> {
    await until(() => {
      if (this.child.exitCode !== null) throw new Error(`It ended: ${this.said}`);
      return this.said.split('ready at').length > times;
    }, `ready ${times} times`);
    return this;
  }
  health(): Promise<string> {
    return fetch(`${this.url}/api/health`).then(
      async (r) => ((await r.json()) as { database: string }).database,
      () => 'no server',
    );
  }
}
const database = () => processesIn(join(folder, 'postgres/data'));
const postmaster = () => Number(readFileSync(join(folder, 'postgres/data/postmaster.pid'), 'utf8').split('\n')[0]);
/** The render nodes that work for what lies in this folder. */
const nodes = (): string[] =>
  readdirSync('/proc').filter((pid) => {
    try {
      return (
        /^\d+$/.test(pid) &&
        readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('lab/src/node/main.ts') &&
        readFileSync(`/proc/${pid}/environ`, 'utf8').includes(folder)
      );
    } catch {
      return false;
    }
  });
const nothingLeft = async (start: Start) => {
  const gone = async () => database().length === 0 && nodes().length === 0 && (await start.health()) === 'no server';
  await until(gone, 'nothing is left behind');
};
/** Whether the render node that comes with a start is heard of. */
const hasNode = async ({ url }: Start): Promise<boolean> => {
  const { items } = (await (await fetch(`${url}/api/lab/nodes`)).json()) as { items: { name: string; here: boolean }[] };
  return items.some((n) => n.name === 'this machine' && n.here);
};

describe('npm start', () => {
  it('serves, sends a second start to the first, and leaves nothing behind when it is stopped', async () => {
    const first = await new Start().ready();
    expect(await first.health()).toBe('up');
    await until(() => hasNode(first), 'a render node has come');
    const lock = JSON.parse(readFileSync(join(folder, 'lock'), 'utf8')) as { pid: number; port: number };
    expect(first.url).toBe(`http://127.0.0.1:${lock.port}`);
    const second = new Start();
    expect(await second.ended).toBe(0);
    expect(second.said).toContain(`already running at ${first.url}`);
    // stopping the second, or its end, did nothing to the first
    expect(await first.health()).toBe('up');
    first.child.kill('SIGINT');
    expect(await first.ended).toBe(0);
    await nothingLeft(first);
    expect(existsSync(join(folder, 'lock'))).toBe(false);
  }, 180_000);

  it('leaves nothing behind when its terminal is closed, when npm is told to end, and when it is killed', async () => {
    const closed = await new Start().ready();
    closed.child.kill('SIGHUP');
    await nothingLeft(closed);
    const npm = await new Start({}, ['npm', 'start', '--silent']).ready();
    npm.child.kill('SIGTERM');
    await nothingLeft(npm);
    const killed = await new Start().ready();
    killed.child.kill('SIGKILL');
    await nothingLeft(killed);
    // and what was killed is no obstacle
    const again = await new Start().ready();
    expect(await again.health()).toBe('up');
    again.child.kill('SIGTERM');
    await nothingLeft(again);
  }, 240_000);

  it('waits for one that is on its way down, and takes over what it leaves; Ctrl-C ends the waiting', async () => {
    // one that has the folder and does not answer
    const holder = spawn(process.execPath, ['-e', 'setInterval(() => {}, 1e6)'], { stdio: 'ignore' });
    started.push(holder);
    await until(() => bornAt(holder.pid!) !== undefined, 'it was born');
    writeFileSync(join(folder, 'lock'), JSON.stringify({ pid: holder.pid, born: bornAt(holder.pid!) }));
    const impatient = new Start();
    await until(() => impatient.said.includes('Waiting for it'), 'it waits');
    impatient.child.kill('SIGINT');
    expect(await impatient.ended).toBe(0);
    const next = new Start();
    await until(() => next.said.includes('Waiting for it'), 'it waits');
    expect(next.said).toContain(`(process ${holder.pid})`);
    expect(database()).toEqual([]);
    holder.kill('SIGKILL');
    await next.ready();
    expect(await next.health()).toBe('up');
    next.child.kill('SIGTERM');
    await nothingLeft(next);
  }, 180_000);

  it('starts a database again that dies, at its port, and a server that dies, at its own', async () => {
    const start = await new Start().ready();
    const { url } = start;
    for (let n = 0; n < 2; n++) {
      process.kill(postmaster(), 'SIGKILL');
      await until(async () => (await start.health()) !== 'up', 'the database is gone');
      await until(async () => (await start.health()) === 'up', 'the database is back');
    }
    const server = serverOf(start.child.pid!);
    process.kill(server, 'SIGKILL');
    await start.ready(2);
    expect(start.url).toBe(url);
    expect(start.said).toContain('The server died (SIGKILL); starting it again.');
    start.child.kill('SIGTERM');
    // a server that does not hear ends with the second asking
    const frozen = serverOf(start.child.pid!);
    process.kill(frozen, 'SIGSTOP');
    await pause(200);
    start.child.kill('SIGTERM');
    await start.ended;
    await nothingLeft(start);
  }, 180_000);

  it('takes HOST for the shell’s, lets people of the network in by invitation, and says in one line what is wrong', async () => {
    const start = await new Start({ HOST: '203.0.113.9' }).ready();
    expect(start.url).toContain('127.0.0.1');
    start.child.kill('SIGTERM');
    await nothingLeft(start);
    const open = await new Start({ PLINKET_HOST: '0.0.0.0' }).ready();
    expect((await fetch(`${open.url}/api/setups`)).status).toBe(401);
    await until(() => open.said.includes('/join#'), 'somebody is invited');
    const invitation = /\/join#(\S+)/.exec(open.said)![1];
    const joined = await fetch(`${open.url}/api/join`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ invitation, name: 'Ane', password: 'one that is long enough' }),
    });
    expect(joined.status).toBe(201);
    const cookie = joined.headers.getSetCookie()[0]!.split(';')[0]!;
    expect((await fetch(`${open.url}/api/setups`, { headers: { cookie } })).status).toBe(200);
    open.child.kill('SIGTERM');
    await nothingLeft(open);
    const short = new Start({ PLINKET_TOKEN: 'short' });
    expect(await short.ended).toBe(2);
    expect(short.said.trim()).toMatch(/^PLINKET_TOKEN is what programs say to this server, and is too short[^\n]*$/);
    await nothingLeft(short);
    const odd = new Start({ PORT: 'door' });
    expect(await odd.ended).toBe(1);
    expect(odd.said.trim()).toMatch(/^PORT=door is no port[^\n]*$/);
  }, 180_000);
});

/** The server that a start runs. */
function serverOf(start: number): number {
  const children = readFileSync(`/proc/${start}/task/${start}/children`, 'utf8').trim().split(' ').map(Number);
  return children.find((pid) => readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('server/src/main.ts'))!;
}

describe('a data folder', () => {
  const start = () => startPostgres({ folder: join(folder, 'postgres'), fallback: join(folder, 'postgres'), unsafe: true });
  const query = async (url: string, sql: string) => {
    const { default: pg } = await import('pg');
    const client = new pg.Client(url);
    await client.connect();
    const { rows } = await client.query<Record<string, unknown>>(sql);
    await client.end();
    return rows;
  };

  it('whose password is missing keeps its database and gets a new password', async () => {
    const first = await start();
    await query(first.url, 'CREATE TABLE work AS SELECT 42 AS answer');
    rmSync(join(folder, 'postgres/password'));
    // while it runs nothing is touched, and what to do is said
    await expect(start()).rejects.toThrow('Stop it, then start again');
    await first.stop();
    const second = await start();
    expect(second.url).not.toBe(first.url);
    expect(await query(second.url, 'SELECT answer FROM work')).toEqual([{ answer: 42 }]);
    await second.stop();
  }, 120_000);

  it('that holds no database, but something, is refused and not touched', async () => {
    mkdirSync(join(folder, 'postgres/data'), { recursive: true });
    writeFileSync(join(folder, 'postgres/data/dear'), 'diary');
    await expect(start()).rejects.toThrow('Nothing was touched');
    expect(readFileSync(join(folder, 'postgres/data/dear'), 'utf8')).toBe('diary');
  });

  it('of a version that is not installed is refused by its name', async () => {
    mkdirSync(join(folder, 'postgres/data'), { recursive: true });
    writeFileSync(join(folder, 'postgres/data/PG_VERSION'), '9\n');
    await expect(start()).rejects.toThrow('postgresql-9');
  });

  it('that was being made when the power went is made at the next start', async () => {
    const dying = spawn(
      process.execPath,
      [
        '-e',
        `import(${JSON.stringify(join(root, 'scripts/lib/postgres.mjs'))}).then((m) => m.startPostgres(${JSON.stringify({ folder: join(folder, 'postgres'), fallback: join(folder, 'postgres') })}))`,
      ],
      { stdio: 'ignore', detached: true },
    );
    await until(
      () => existsSync(join(folder, 'postgres')) && run('ls', [join(folder, 'postgres')]).includes('making-'),
      'it is being made',
    );
    process.kill(-dying.pid!, 'SIGKILL');
    expect(existsSync(join(folder, 'postgres/data'))).toBe(false);
    const after = await start();
    expect(await query(after.url, 'SELECT 1 AS one')).toEqual([{ one: 1 }]);
    await after.stop();
  }, 120_000);

  it('starts right after a crash, and with a number in its pid file that is another process by now', async () => {
    const first = await start();
    for (let n = 0; n < 3; n++) {
      process.kill(postmaster(), 'SIGKILL');
      await first.start();
      expect(await query(first.url, 'SELECT 1 AS one')).toEqual([{ one: 1 }]);
    }
    await first.stop();
    const file = join(folder, 'postgres/data/postmaster.pid');
    writeFileSync(file, `${process.pid}\n${join(folder, 'postgres/data')}\n0\n${first.port}\n\n127.0.0.1\n\nready\n`);
    if (isRoot()) run('chown', ['postgres:', file]);
    const second = await start();
    expect(await query(second.url, 'SELECT 1 AS one')).toEqual([{ one: 1 }]);
    await second.stop();
  }, 120_000);
});

describe('the lock of a folder', () => {
  it('is held by one, and given up by name only', () => {
    const lock = takeLock(folder);
    expect(lock.mine).toBe(true);
    expect(takeLock(folder)).toEqual({ mine: false, pid: process.pid, port: undefined });
    if (lock.mine) {
      lock.tell(4870);
      expect(takeLock(folder)).toMatchObject({ mine: false, port: 4870 });
      lock.release();
    }
    expect(existsSync(join(folder, 'lock'))).toBe(false);
  });
  it('of a process that is gone, whose number another has by now, or that is no lock, is taken over', () => {
    for (const stale of [
      JSON.stringify({ pid: 2 ** 22 - 1, born: 'x', port: 1 }),
      JSON.stringify({ pid: process.pid, born: 'another boot 12', port: 1 }),
      'nonsense',
      '',
    ]) {
      writeFileSync(join(folder, 'lock'), stale);
      const lock = takeLock(folder);
      expect(lock.mine).toBe(true);
      if (lock.mine) lock.release();
    }
  });
  it('knows processes by when they were born', () => {
    expect(bornAt(process.pid)).toMatch(/^[0-9a-f-]{36} \d+$/);
    expect(bornAt(2 ** 22 - 1)).toBeUndefined();
  });
});
