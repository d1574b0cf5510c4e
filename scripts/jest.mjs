// Jest with native modules: `npm run unit -- kernel` runs what matches.
import { spawnSync } from 'node:child_process';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { root } from './lib/paths.mjs';
import { ensureSecondReaders } from './lib/second-readers.mjs';

ensureSecondReaders();
const jest = createRequire(import.meta.url).resolve('jest/bin/jest');
const run = spawnSync(
  process.execPath,
  ['--experimental-vm-modules', '--no-warnings', jest, '-c', join(root, 'scripts/jest.config.mjs'), ...process.argv.slice(2)],
  { stdio: 'inherit', cwd: root },
);
process.exit(run.status ?? 1);
