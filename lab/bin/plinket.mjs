#!/usr/bin/env node
// Starts the command line: TypeScript is loaded by tsx in a child of its own, so that worker threads get it too.
import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';

const main = fileURLToPath(new URL('../src/main.ts', import.meta.url));
const run = spawnSync(process.execPath, ['--no-warnings', '--import', import.meta.resolve('tsx'), main, ...process.argv.slice(2)], {
  stdio: 'inherit',
});
process.exit(run.status ?? 1);
