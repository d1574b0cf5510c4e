// Builds what is not kept in the repository: the ray kernel and the interface. Nothing is done twice for the same sources.
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './lib/paths.mjs';

function digest(folders) {
  const hash = createHash('sha256');
  const visit = (path) => {
    if (statSync(path).isDirectory()) {
      for (const name of readdirSync(path).sort()) if (!['node_modules', 'dist', 'build'].includes(name)) visit(join(path, name));
    } else hash.update(path.slice(root.length)).update(readFileSync(path));
  };
  for (const f of folders) if (existsSync(join(root, f))) visit(join(root, f));
  return hash.digest('hex');
}

async function once(name, folders, product, make) {
  const stamp = join(root, '.cache', `${name}.stamp`),
    now = digest(folders);
  if (existsSync(join(root, product)) && existsSync(stamp) && readFileSync(stamp, 'utf8') === now) return;
  console.log(`Building ${name} …`);
  await make();
  mkdirSync(join(root, '.cache'), { recursive: true });
  writeFileSync(stamp, now);
}

export async function ensureKernel() {
  await once('the ray kernel', ['kernel/assembly', 'scripts/build-kernel.mjs'], 'kernel/build/film.wasm', async () =>
    (await import('./build-kernel.mjs')).buildKernel(),
  );
}

export async function ensureWeb() {
  await once('the interface', ['web', 'core', 'engine', 'contract', 'kernel', 'package-lock.json'], 'web/dist/index.html', async () => {
    const { build } = await import('vite');
    await build({ root: join(root, 'web'), configFile: join(root, 'web/vite.config.ts'), logLevel: 'error' });
  });
}

if (process.argv[1] === new URL(import.meta.url).pathname) {
  await ensureKernel();
  await ensureWeb();
}
