// A database and a data folder for one run of tests, benches or pictures: made now, removed at the end of the same run.
import { mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { isRoot, run } from './run.mjs';
import { startPostgres } from './postgres.mjs';

/** Below /var/tmp, where the database's own user can write whoever runs this. */
export async function freshFolders(name, { unsafe = true } = {}) {
  const folder = mkdtempSync(join('/var/tmp', `plinket-${name}-`));
  if (isRoot()) run('chmod', ['711', folder]);
  const made = join(folder, 'postgres');
  const database = await startPostgres({ folder: made, fallback: made, unsafe });
  return {
    database,
    data: join(folder, 'data'),
    async remove() {
      await database.stop();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
