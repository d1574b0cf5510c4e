// What runs on this machine, asked of /proc: a number in a file is no proof that its process lives.
import { readdirSync, readFileSync, readlinkSync, realpathSync } from 'node:fs';
import { connect } from 'node:net';

/**
 * When a process began, in ticks since the machine started, together with that start: no other process ever has the same. Nothing
 * for one that is gone, or dead and not yet taken in by its parent.
 */
export function bornAt(pid) {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    // the name in parentheses may hold spaces; the state is the first field after it
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
    if (fields[0] === 'Z' || fields[0] === 'X') return undefined;
    return `${readFileSync('/proc/sys/kernel/random/boot_id', 'utf8').trim()} ${fields[19]}`;
  } catch {
    return undefined;
  }
}

/** Numbers of the processes that work in a folder (a database's processes all work in its data folder). */
export function processesIn(folder) {
  let real;
  try {
    real = realpathSync(folder);
  } catch {
    return [];
  }
  return readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .filter((pid) => {
      try {
        return readlinkSync(`/proc/${pid}/cwd`) === real && bornAt(pid) !== undefined;
      } catch {
        return false;
      }
    })
    .map(Number);
}

/** Whether something on loopback takes a connection at a port. */
export function answers(port, timeout = 1000) {
  return new Promise((resolve) => {
    const socket = connect({ port, host: '127.0.0.1', timeout });
    const done = (ok) => {
      socket.destroy();
      resolve(ok);
    };
    socket.once('connect', () => done(true));
    socket.once('error', () => done(false));
    socket.once('timeout', () => done(false));
  });
}

export const pause = (ms) => new Promise((resolve) => setTimeout(resolve, ms));
