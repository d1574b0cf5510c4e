import { fileURLToPath } from 'node:url';

const asset = (name: string): string => fileURLToPath(new URL(`../assets/${name}.glb`, import.meta.url));

/** The cast as files, each as a bust and as a standing figure. */
export const CHARACTER_FILES = ['keeper', 'signaller', 'goat'].flatMap((id) => [
  { id, cut: 'bust' as const, name: `${id}.glb`, path: asset(id) },
  { id, cut: 'figure' as const, name: `${id}-figure.glb`, path: asset(`${id}-figure`) },
]);
/** Where the old keeper's bust lies. */
export const keeperFile = asset('keeper');
