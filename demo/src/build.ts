// Makes the demo's characters: `npm run demo:build [-- ID[-figure] …] [--coarse N]`. The results are kept in the repository, so
// that a first start does not wait for them.
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { parseArgs } from 'node:util';
import { CHARACTER_FILES } from './files.ts';
import { actorOf, generateCharacter } from './cast/index.ts';
import { writeCharacter } from './file/glb.ts';

const { values, positionals } = parseArgs({ allowPositionals: true, options: { coarse: { type: 'string', default: '1' } } });
for (const { id, cut, name, path } of CHARACTER_FILES) {
  if (positionals.length && !positionals.includes(name.replace('.glb', ''))) continue;
  const start = performance.now();
  mkdirSync(dirname(path), { recursive: true });
  const glb = await writeCharacter(generateCharacter(actorOf(id), cut, Number(values.coarse)), id, cut === 'bust' ? 95_000 : 88_000);
  writeFileSync(path, glb);
  console.log(`${name} ${(glb.length / 1e6).toFixed(2)} MB in ${((performance.now() - start) / 1000).toFixed(1)} s`);
}
