import { orderOf } from '@plinket/core';
// What is lost when things die: the server, the database and both are killed under writers, twenty times each, and the disk fills up. The
// house is the one that `npm start` keeps, with syncing on; the writers are the page's own saver. At most five minutes.
import { spawn, type ChildProcess } from 'node:child_process';
import { appendFileSync, mkdtempSync, readFileSync, rmSync, statfsSync } from 'node:fs';
import { join } from 'node:path';
import { ensureWeb } from '../../scripts/build.mjs';
import { root } from '../../scripts/lib/paths.mjs';
import { pause, processesIn } from '../../scripts/lib/processes.mjs';
import { run } from '../../scripts/lib/run.mjs';
import { api } from '../../web/src/api/client.ts';
import { median, report } from './report.ts';
import { pointClientAt, Writer } from './writers.ts';

const KILLS = 20;
const PER_SETUP = 3;
/** Times that the lid is closed in mid-save. */
const LIDS = 3;

/** A house in a folder of its own. */
class House {
  url = '';
  private said = '';
  private readonly child: ChildProcess;
  readonly folder: string;

  constructor(folder: string) {
    this.folder = folder;
    this.child = spawn(process.execPath, [join(root, 'scripts/start.mjs')], {
      env: { ...process.env, PLINKET_DATA: folder, PORT: '0', PLINKET_WRITES_PER_MINUTE: '100000' },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    for (const stream of [this.child.stdout!, this.child.stderr!])
      stream.on('data', (d) => {
        this.said += String(d);
        this.url = [...this.said.matchAll(/ready at (http:\/\/\S+)/g)].at(-1)?.[1] ?? '';
      });
  }
  /** Whether server and database answer, within a minute. */
  async up(): Promise<boolean> {
    for (let n = 0; n < 600; n++) {
      if (this.child.exitCode !== null) throw new Error(`The house ended:\n${this.said}`);
      const healthy = this.url && (await api.health().catch(() => undefined));
      if (healthy && healthy.database === 'up') return true;
      await pause(100);
    }
    console.error(this.said.split('\n').slice(-20).join('\n'));
    return false;
  }
  private server(): number | undefined {
    const { pid } = this.child;
    const children = readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8').trim().split(' ').map(Number);
    return children.find((c) => readFileSync(`/proc/${c}/cmdline`, 'utf8').includes('server/src/main.ts'));
  }
  killServer(): void {
    const server = this.server();
    if (server) process.kill(server, 'SIGKILL');
  }
  /** The lid of the laptop is closed for a while: everything stands still in the middle of what it did. */
  async lid(ms: number): Promise<void> {
    const all = [this.server(), ...processesIn(join(this.folder, 'postgres/data'))].filter((p) => p !== undefined);
    for (const pid of all) process.kill(pid, 'SIGSTOP');
    await pause(ms);
    for (const pid of all) process.kill(pid, 'SIGCONT');
  }
  killDatabase(): void {
    const data = join(this.folder, 'postgres/data');
    const postmaster = Number(readFileSync(join(data, 'postmaster.pid'), 'utf8').split('\n')[0]);
    if (processesIn(data).includes(postmaster)) process.kill(postmaster, 'SIGKILL');
  }
  async stop(): Promise<void> {
    const ended = new Promise((resolve) => this.child.on('exit', resolve));
    this.child.kill('SIGTERM');
    await ended;
  }
}

/** Writers on every setup of the demo, several on each. */
async function writers(): Promise<Writer[]> {
  const { items } = await api.setups();
  const made: Writer[] = [];
  for (const { id } of items) {
    const record = await api.setup(id);
    for (const light of orderOf(record.document.lights).slice(0, PER_SETUP)) made.push(new Writer(record, light));
  }
  return made;
}

async function count(all: Writer[]): Promise<{ lost: number; refused: number; made: number }> {
  for (const w of all) w.stop();
  let lost = 0;
  for (const w of all) lost += await w.lost();
  return { lost, refused: all.reduce((n, w) => n + w.refused, 0), made: all.reduce((n, w) => n + w.made, 0) };
}

/** The page's client asks the house that runs now. */
const client: { house: House | undefined } = { house: undefined };
pointClientAt(() => client.house?.url ?? '');

/** Runs a house in a folder, with writers at work, and counts at the end what they miss. */
async function underWriters<T>(folder: string, work: (house: House, made: () => number) => Promise<T>) {
  const house = new House(folder);
  client.house = house;
  try {
    await house.up();
    const all = await writers();
    for (const w of all) w.begin(80);
    const result = await work(house, () => all.reduce((n, w) => n + w.made, 0));
    return { ...result, ...(await count(all)) };
  } finally {
    await house.stop();
  }
}

const kills = (folder: string) =>
  underWriters(folder, async (house) => {
    let failures = 0;
    const down: number[] = [];
    for (let n = 0; n < KILLS * 3; n++) {
      await pause(200 + 400 * Math.random());
      const since = performance.now();
      if (n % 3 !== 1) house.killServer();
      if (n % 3 !== 0) house.killDatabase();
      // dead first, then up again
      await pause(50);
      if (!(await house.up())) failures++;
      down.push(performance.now() - since);
    }
    for (let n = 0; n < LIDS; n++) {
      await pause(300 * Math.random());
      await house.lid(1500);
      if (!(await house.up())) failures++;
    }
    return { failures, down: median(down) };
  });

/** Takes all that is left of a disk. */
function fill(folder: string, filler: string): void {
  const { bavail, bsize } = statfsSync(folder);
  try {
    if (bavail > 0) appendFileSync(filler, Buffer.alloc(bavail * bsize, 1));
  } catch {
    // somebody else took the last page
  }
}

/** The data folder lies on a disk of its own, which is filled up, stays full while the database dies once more, and is freed. */
const fullDisk = (folder: string) =>
  underWriters(folder, async (house, made) => {
    await pause(1500);
    const filler = join(folder, 'filler'),
      before = made();
    const cube = new TextEncoder().encode('LUT_3D_SIZE 2\n' + '0 0 0\n'.repeat(8));
    let refused = false;
    for (let n = 0; n < 100; n++) {
      fill(folder, filler);
      await pause(100);
      // the other side of it: nothing can be brought in
      if (n === 50)
        refused = await api.addCube('full.cube', cube.buffer).then(
          () => false,
          () => true,
        );
      if (n === 60) house.killDatabase();
    }
    const during = made() - before;
    rmSync(filler);
    return { during, uploadRefused: refused, back: await house.up() };
  });

async function onSmallDisk<T>(work: (folder: string) => Promise<T>): Promise<T> {
  const disk = mkdtempSync('/var/tmp/plinket-disk-');
  run('mount', ['-t', 'tmpfs', '-o', 'size=192m,mode=711', 'tmpfs', disk]);
  try {
    return await work(disk);
  } finally {
    run('umount', [disk]);
    rmSync(disk, { recursive: true });
  }
}

await ensureWeb();
const since = performance.now();
const folder = mkdtempSync('/var/tmp/plinket-faults-');
run('chmod', ['711', folder]);
const d = await onSmallDisk(fullDisk);
const k = await kills(folder).finally(() => rmSync(folder, { recursive: true, force: true }));
report(
  'faults',
  {
    lost: k.lost + d.lost,
    refused: k.refused + d.refused,
    restart_failures: k.failures + (d.back ? 0 : 1),
    kills: KILLS * 3,
    changes: k.made + d.made,
    down_ms: k.down,
    seconds: (performance.now() - since) / 1000,
  },
  [
    `${KILLS} kills each of server, database and both, and the lid closed ${LIDS} times, under ${k.made} changes of several writers a setup: ${k.lost} lost, ${k.refused} refused, ${k.failures} did not come back`,
    `median time until both answered again: ${Math.round(k.down)} ms`,
    `disk full for ten seconds (${d.during} changes made meanwhile, the database killed once more): ${d.lost} lost, ${d.refused} refused; an upload meanwhile ${d.uploadRefused ? 'was refused' : 'still fitted'}`,
  ],
);
process.exit(0);
