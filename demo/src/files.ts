import { fileURLToPath } from 'node:url';

const asset = (name: string): string => fileURLToPath(new URL(`../assets/${name}.glb`, import.meta.url));

/** The cast as files, each as a bust and as a standing figure. */
export const CHARACTER_FILES = ['keeper', 'signaller', 'goat'].flatMap((id) => [
  { id, cut: 'bust' as const, name: `${id}.glb`, path: asset(id) },
  { id, cut: 'figure' as const, name: `${id}-figure.glb`, path: asset(`${id}-figure`) },
]);
const picture = (name: string): string => fileURLToPath(new URL(`../pictures/${name}.png`, import.meta.url));

/** Where the old keeper's bust lies. */
export const keeperFile = asset('keeper');
/** Proofs of the demo's setups; `npm run demo:pictures` makes them. */
export const PICTURES = {
  lantern: picture('lantern'),
  goat: picture('goat'),
  signaller: picture('signaller'),
  keeper: picture('keeper'),
  wind: picture('wind'),
  sun: picture('sun'),
};
/** The proof that ships with a shot of the demo's sequences. */
export const sequencePicture = picture;
