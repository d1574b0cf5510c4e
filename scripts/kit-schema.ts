// `npm run kit:schema`: writes docs/kit.schema.json, the JSON Schema of `kit.json` in a `.plinket` file, from the schema that the program reads kits by.
import { writeFileSync } from 'node:fs';
import { kitJsonSchema } from '@plinket/core';

writeFileSync(new URL('../docs/kit.schema.json', import.meta.url), `${JSON.stringify(kitJsonSchema(), undefined, 1)}\n`);
