import { spawn, spawnSync } from 'node:child_process';

const endOf = (text, lines = 12) => text.trim().split('\n').slice(-lines).join('\n');
const failure = (file, args, said, why) =>
  new Error(`${file} ${args.slice(0, 3).join(' ')} … failed${why ? ` (${why})` : ''}:\n${endOf(said)}`);

/** Runs a program to its end; on failure says what it printed and throws. */
export function run(file, args, options = {}) {
  const result = spawnSync(file, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'], ...options });
  if (result.status !== 0) throw failure(file, args, `${result.stdout ?? ''}${result.stderr ?? ''}`, result.error?.message);
  return result.stdout ?? '';
}

/** The same while everything else goes on. Nothing is read from a program that leaves a daemon behind (`quiet`): it would never end. */
export function runLater(file, args, { quiet = false, ...options } = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(file, args, { stdio: quiet ? 'ignore' : ['ignore', 'pipe', 'pipe'], ...options });
    let said = '';
    for (const stream of [child.stdout, child.stderr]) stream?.on('data', (d) => (said += d));
    child.on('error', (error) => reject(failure(file, args, said, error.message)));
    child.on('close', (code) => (code === 0 ? resolve(said) : reject(failure(file, args, said, undefined))));
  });
}

export const isRoot = () => process.getuid?.() === 0;

/** Installs Debian packages as root; as another user names the command. */
export function debian(packages, why) {
  if (!isRoot())
    throw new Error(`${why} is missing. Install it once:\n  sudo apt-get install -y --no-install-recommends ${packages.join(' ')}`);
  console.log(`Installing ${packages.join(', ')} (once) …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  run('apt-get', ['update', '-qq'], { env });
  run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...packages], { env });
}
