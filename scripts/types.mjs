// Checks the types of every room with its own settings: core and kernel see neither DOM nor Node.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { root } from './lib/paths.mjs';

const tsc = createRequire(import.meta.url).resolve('typescript/bin/tsc');
let failed = 0;
for (const room of ['kernel', 'core', 'contract', 'engine', 'demo', 'lab', 'server', 'web', 'bench', 'e2e', 'scripts']) {
  if (!existsSync(join(root, room, 'tsconfig.json'))) continue;
  const { status } = spawnSync(process.execPath, [tsc, '-p', join(root, room)], { stdio: 'inherit', cwd: root });
  if (status !== 0) {
    failed++;
    console.error(`types: ${room} failed`);
  }
}
process.exitCode = failed ? 1 : 0;
