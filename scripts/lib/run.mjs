import { spawnSync } from 'node:child_process';

/** Runs a program; on failure says what it printed and throws. */
export function run(file, args, options = {}) {
  const result = spawnSync(file, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'], ...options });
  if (result.status !== 0) {
    const said = `${result.stdout ?? ''}${result.stderr ?? ''}`.trim().split('\n').slice(-12).join('\n');
    throw new Error(`${file} ${args.slice(0, 3).join(' ')} … failed${result.error ? ` (${result.error.message})` : ''}:\n${said}`);
  }
  return result.stdout ?? '';
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
