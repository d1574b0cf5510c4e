import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './paths.mjs';
import { run } from './run.mjs';

const stamp = join(root, 'node_modules/.plinket-lock');

/** Installs the locked packages when they are missing or older than the lock file. */
export function ensurePackages() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) throw new Error(`Node 20.19 or newer is needed; this is ${process.version}.`);
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  console.log('Installing packages (once, about a minute) …');
  run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], { cwd: root });
  mkdirSync(join(root, 'node_modules'), { recursive: true });
  writeFileSync(stamp, lock);
}
