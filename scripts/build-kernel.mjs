// Compiles the ray kernel twice: for private memory and for memory that threads share.
import { execFileSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join, dirname } from 'node:path';
import { root } from './lib/paths.mjs';

const asc = join(dirname(createRequire(import.meta.url).resolve('assemblyscript/package.json')), 'bin/asc.js');
const source = join(root, 'kernel/assembly/index.ts');
const out = join(root, 'kernel/build');

export function buildKernel() {
  mkdirSync(out, { recursive: true });
  const common = [source, '--runtime', 'stub', '-O3', '--converge', '--noAssert', '--importMemory', '--enable', 'simd'];
  const run = (args) => execFileSync(process.execPath, [asc, ...common, ...args], { stdio: 'inherit', cwd: root });
  run(['-o', join(out, 'kernel.wasm')]);
  run(['-o', join(out, 'kernel-shared.wasm'), '--enable', 'threads', '--sharedMemory', '--maximumMemory', '32768']);
}
if (process.argv[1] === new URL(import.meta.url).pathname) buildKernel();
