import { writeFileSync } from 'node:fs';
import { basename } from 'node:path';
import { FACINGS, mendCharacter, type Facing, type Mending } from '@plinket/core';
import { decoders } from '@plinket/engine/node';
import { brought } from '../characters.ts';
import { positive, UsageError, whole } from '../usage.ts';
import { inspection } from './inspect.ts';

/** What is to be mended, of options. @throws UsageError naming the option */
function mendingOf(options: Record<string, string | undefined>, parts: readonly string[]): Mending {
  const { up = 'y', face = '+z' } = options;
  if (up !== 'y' && up !== 'z') throw new UsageError(`--up ${up}: y or z is up in a file.`);
  // seen in the file's own axes: what faces −Y in one with Z up faces +Z once it stands
  const upright = up === 'z' ? face.replace(/^([+-])y$/i, (_, sign) => (sign === '-' ? '+z' : '-z')) : face;
  if (!(FACINGS as readonly string[]).includes(upright))
    throw new UsageError(`--face ${face}: ${up === 'z' ? '+x, -x, +y or -y' : FACINGS.join(', ')} can be faced.`);
  const kept = options['parts']?.split(',').map((name) => name.trim());
  const unknown = kept?.find((name) => !parts.includes(name));
  if (unknown !== undefined) throw new UsageError(`--parts ${unknown}: there are ${[...new Set(parts)].join(', ')}.`);
  const subdivide = whole(options, 'subdivide', 0, 2) as Mending['subdivide'];
  const crease = options['smooth'] === undefined ? undefined : positive(options, 'smooth');
  if (crease !== undefined && crease > 180) throw new UsageError(`--smooth ${crease}: degrees from 0 to 180 are needed.`);
  const scale = options['scale'] === undefined ? 1 : positive(options, 'scale');
  if (!(scale > 0)) throw new UsageError('--scale: a number above 0 is needed.');
  return {
    stance: { up, faces: upright as Facing },
    scale,
    without: kept ? [...new Set(parts)].filter((name) => !kept.includes(name)) : [],
    ...(crease === undefined ? {} : { crease }),
    winding: options['winding'] !== undefined,
    subdivide,
  };
}

/** Brings a character in as the page does: read, mended, written as a GLB; prints what it is now. */
export async function importCommand(positional: string[], options: Record<string, string | undefined>): Promise<void> {
  const file = positional[0],
    out = options['out'];
  if (!file) throw new UsageError('Which file? Give a GLB, glTF, OBJ, PLY or STL.');
  if (!out || !/\.glb$/i.test(out)) throw new UsageError('--out needs a file that ends in .glb.');
  const came = await brought(file);
  const mending = mendingOf(
    options,
    came.asset.parts.map((p) => p.name),
  );
  const { asset, glb, notes } = await mendCharacter(basename(file), came.glb, mending, decoders);
  writeFileSync(out, glb);
  // what was found in the file as it came is said too: textures that did not come along are in no GLB
  const lost = came.asset.warnings.filter(
    (w) => w.code === 'textures' || w.code === 'unread' || w.code === 'skipped' || w.code === 'mended',
  );
  const said = inspection(asset);
  console.log(
    JSON.stringify(
      { ...said, warnings: [...lost, ...said.warnings.filter((w) => !lost.some((l) => l.message === w.message))], notes },
      null,
      2,
    ),
  );
}
