// One Plinket for one data folder: whoever starts writes down who it is and where it answers.
import { linkSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { bornAt } from './processes.mjs';

const read = (file) => {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    return undefined;
  }
};
const lives = (holder) => Number.isInteger(holder?.pid) && bornAt(holder.pid) === holder.born;

/**
 * Takes the lock of a folder, or answers who has it. A lock whose process is gone (its number may be another's by now) is
 * taken over; of two that try that at once one wins.
 * @returns {{ mine: true, tell(port: number): void, release(): void } | { mine: false, pid: number, port: number | undefined }}
 */
export function takeLock(folder) {
  mkdirSync(folder, { recursive: true });
  const file = join(folder, 'lock'),
    own = join(folder, `lock.${process.pid}`);
  const born = bornAt(process.pid);
  const write = (port) => writeFileSync(own, JSON.stringify({ pid: process.pid, born, port }));
  for (;;) {
    write(undefined);
    try {
      // a link is made whole or not at all, and never over another
      linkSync(own, file);
      rmSync(own);
      break;
    } catch (error) {
      rmSync(own, { force: true });
      if (error.code !== 'EEXIST') throw error;
    }
    const holder = read(file);
    if (lives(holder)) return { mine: false, pid: holder.pid, port: holder.port };
    const aside = join(folder, `lock.old.${process.pid}`);
    try {
      renameSync(file, aside);
    } catch (error) {
      if (error.code !== 'ENOENT') throw error;
      continue;
    }
    const taken = read(aside);
    // another was quicker and its new lock was moved away: put it back
    if (lives(taken)) linkBack(aside, file);
    rmSync(aside, { force: true });
  }
  const isMine = () => read(file)?.born === born && read(file)?.pid === process.pid;
  return {
    mine: true,
    tell(port) {
      write(port);
      renameSync(own, file);
    },
    release() {
      if (isMine()) rmSync(file, { force: true });
    },
  };
}

function linkBack(aside, file) {
  try {
    linkSync(aside, file);
  } catch (error) {
    if (error.code !== 'EEXIST') throw error;
  }
}
