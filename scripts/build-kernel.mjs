// Compiles the kernel's modules: rays twice, for private memory and for memory that threads share, and films once.
import { execFileSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join, dirname } from 'node:path';
import { root } from './lib/paths.mjs';

const asc = join(dirname(createRequire(import.meta.url).resolve('assemblyscript/package.json')), 'bin/asc.js');
const out = join(root, 'kernel/build');
const COMMON = ['--runtime', 'stub', '-O3', '--converge', '--noAssert', '--importMemory', '--enable', 'simd'];
const SHARED = ['--enable', 'threads', '--sharedMemory', '--maximumMemory', '32768'];

export function buildKernel() {
  mkdirSync(out, { recursive: true });
  const run = (source, name, args) =>
    execFileSync(process.execPath, [asc, join(root, 'kernel/assembly', source), ...COMMON, '-o', join(out, name), ...args], {
      stdio: 'inherit',
      cwd: root,
    });
  run('index.ts', 'kernel.wasm', []);
  run('index.ts', 'kernel-shared.wasm', SHARED);
  run('film/index.ts', 'film.wasm', SHARED);
}
if (process.argv[1] === new URL(import.meta.url).pathname) buildKernel();
