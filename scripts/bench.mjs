// `npm run bench -- NAME [--native]`: one bench, or all of them without a name.
import { spawnSync } from 'node:child_process';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { ensurePackages } from './lib/packages.mjs';
import { root } from './lib/paths.mjs';

const BENCHES = [
  'kernel',
  'walk',
  'workers',
  'retrace',
  'lights',
  'reach',
  'catcher',
  'balance',
  'denoise',
  'skin',
  'memory',
  'first-picture',
  'cast',
  'calm',
  'import',
  'files',
  'kits',
  'turntable',
  'board',
  'sequence',
  'growth',
  'exr',
  'grade',
  'lab',
  'pose',
  'reading',
  'placing',
  'accuracy',
  'set-view',
  'drag',
  'peer',
  'faults',
  'server',
  'together',
];
const [name, ...options] = process.argv.slice(2);
const wanted = name && !name.startsWith('--') ? [name] : BENCHES;
const rest = name?.startsWith('--') ? [name, ...options] : options;
if (wanted.some((w) => !BENCHES.includes(w))) {
  console.error(`There is no bench “${name}”; ${BENCHES.join(', ')} are.`);
  process.exit(2);
}
ensurePackages();
await (await import('./build.mjs')).ensureKernel();
const tsx = pathToFileURL(createRequire(import.meta.url).resolve('tsx')).href;
for (const bench of wanted) {
  const { status } = spawnSync(process.execPath, ['--no-warnings', '--import', tsx, join(root, 'bench/src', `${bench}.ts`), ...rest], {
    stdio: 'inherit',
    cwd: root,
  });
  if (status !== 0) process.exit(status ?? 1);
}
