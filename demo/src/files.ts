import { fileURLToPath } from 'node:url';

/** Where the old keeper's GLB lies. */
export const keeperFile = fileURLToPath(new URL('../assets/keeper.glb', import.meta.url));
