// `npm test`: installs what is missing, checks format, lint and types, then runs unit and end-to-end tests. The last line
// is "N passed, N failed". `npm test -- --quick` leaves the browser out.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { ensurePackages } from './lib/packages.mjs';
import { root } from './lib/paths.mjs';

const quick = process.argv.includes('--quick');
let passed = 0,
  failed = 0;

const node = (args, env = {}) => spawnSync(process.execPath, args, { stdio: 'inherit', cwd: root, env: { ...process.env, ...env } }).status;
/** The same beside others; answers whether it went well. */
const beside = (args) =>
  new Promise((resolve) => spawn(process.execPath, args, { stdio: 'inherit', cwd: root }).on('exit', (status) => resolve(status === 0)));
const count = (ok, name) => {
  if (ok) passed++;
  else {
    failed++;
    console.error(`failed: ${name}`);
  }
};

function readJson(file) {
  return existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : undefined;
}

async function main() {
  ensurePackages();
  const { ensureKernel, ensureWeb } = await import('./build.mjs');
  const { ensurePostgres } = await import('./lib/postgres.mjs');
  const resolve = createRequire(import.meta.url).resolve;
  mkdirSync(join(root, '.cache'), { recursive: true });
  ensurePostgres();
  await ensureKernel();
  // the tests of starting and stopping serve it
  await ensureWeb();

  const [format, lint, types] = await Promise.all([
    beside([resolve('prettier/bin/prettier.cjs'), '--check', '--log-level=warn', '.']),
    beside([join(root, 'node_modules/eslint/bin/eslint.js'), '.']),
    beside([join(root, 'scripts/types.mjs')]),
  ]);
  count(format, 'format');
  count(lint, 'lint');
  count(types, 'types');

  const jestReport = join(root, '.cache/jest.json');
  rmSync(jestReport, { force: true });
  node([join(root, 'scripts/jest.mjs'), '--json', `--outputFile=${jestReport}`]);
  const unit = readJson(jestReport);
  count(unit !== undefined, 'unit tests ran');
  passed += unit?.numPassedTests ?? 0;
  failed += (unit?.numFailedTests ?? 0) + (unit?.numRuntimeErrorTestSuites ?? 0);

  if (!quick) {
    const { ensureChromium } = await import('./lib/chromium.mjs');
    const { serveFresh } = await import('./lib/serve.mjs');
    const chromium = ensureChromium();
    const report = join(root, '.cache/e2e.json');
    rmSync(report, { force: true });
    const server = await serveFresh('e2e', { PLINKET_LEASE_MS: '15000' });
    try {
      node([join(root, 'node_modules/@playwright/test/cli.js'), 'test', '-c', 'e2e/playwright.config.ts'], {
        PLINKET_URL: server.url,
        CHROMIUM: chromium,
      });
    } finally {
      await server.stop();
    }
    const e2e = readJson(report);
    count(e2e !== undefined, 'end-to-end tests ran');
    passed += (e2e?.stats.expected ?? 0) + (e2e?.stats.flaky ?? 0);
    failed += e2e?.stats.unexpected ?? 0;
  }
}

try {
  await main();
} catch (error) {
  failed++;
  console.error(error);
}
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed ? 1 : 0);
