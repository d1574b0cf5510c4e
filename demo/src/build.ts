// Makes the demo's characters: `npm run demo:build`. The results are kept in the repository, so that a first start does
// not wait for it.
import { mkdirSync, writeFileSync } from 'node:fs';
import { generateKeeper } from './form/keeper.ts';
import { writeCharacter } from './glb.ts';

const file = new URL('../assets/keeper.glb', import.meta.url);
mkdirSync(new URL('.', file), { recursive: true });
const coarseness = Number(process.argv[2] ?? 1),
  triangles = Number(process.argv[3] ?? 110_000);
const glb = await writeCharacter(generateKeeper(coarseness), triangles);
writeFileSync(file, glb);
console.log(`keeper.glb ${(glb.length / 1e6).toFixed(2)} MB`);
