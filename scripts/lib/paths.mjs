import { fileURLToPath } from 'node:url';
import { dirname, join } from 'node:path';

/** The folder of the clone. */
export const root = join(dirname(fileURLToPath(import.meta.url)), '../..');
