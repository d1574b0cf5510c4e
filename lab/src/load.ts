import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { inOrder, lightFilesOf, LightFileShelf, parseSetup, readGlb, type CharacterAsset, type Setup } from '@plinket/core';
import { decoders } from '@plinket/engine/node';
import { imported, OTHER_FORMATS } from './characters.ts';
import { UsageError } from './usage.ts';

const root = fileURLToPath(new URL('../../', import.meta.url));
const DEFAULT_SERVER = 'http://127.0.0.1:4870';

/** Reads a setup from a file, or from a running server when the word is an id. */
export async function loadSetup(what: string | undefined, server = DEFAULT_SERVER): Promise<{ setup: Setup; folder: string }> {
  if (!what) throw new UsageError('Which setup? Give a SETUP.json or an id.');
  if (existsSync(what)) {
    let value: unknown;
    try {
      value = JSON.parse(readFileSync(what, 'utf8'));
    } catch (error) {
      throw new UsageError(`${what} is not JSON: ${(error as Error).message}`);
    }
    return { setup: parseSetup(value), folder: dirname(what) };
  }
  if (!/^[0-9a-f-]{36}$/.test(what)) throw new UsageError(`${what}: there is no such file, and it is not the id of a setup.`);
  let response: Response;
  try {
    const token = process.env['PLINKET_TOKEN'];
    response = await fetch(`${server}/api/setups/${what}`, token ? { headers: { Authorization: `Bearer ${token}` } } : {});
  } catch {
    throw new UsageError(`${what} is an id, and no server answers at ${server}. Start it, or give a SETUP.json.`);
  }
  if (!response.ok) throw new UsageError(`${server} answers ${response.status} for ${what}.`);
  return { setup: parseSetup(((await response.json()) as { document: unknown }).document), folder: '.' };
}

const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** Where the server of this machine keeps a file. */
const storedAt = (asset: string): string => join(process.env['PLINKET_DATA'] ?? join(root, '.data'), 'blobs', asset.slice(0, 2), asset);

/** Loads the files that lights name: pictures of domes, profiles, gobos. @throws UsageError when one is nowhere. */
export function loadLightFiles(setup: Setup, folders: string[]): LightFileShelf {
  const shelf = new LightFileShelf();
  const wanted = new Map(lightFilesOf(setup).map(({ asset, name }) => [asset, name]));
  for (const asset of wanted.keys()) if (existsSync(storedAt(asset))) shelf.add(asset, readFileSync(storedAt(asset)));
  for (const folder of wanted.size ? folders : []) {
    for (const name of existsSync(folder) ? readdirSync(folder) : []) {
      if (!/\.(hdr|exr|ies|png)$/i.test(name)) continue;
      const bytes = readFileSync(join(folder, name)),
        sha = sha256(bytes);
      if (wanted.has(sha)) shelf.add(sha, bytes);
    }
  }
  for (const [asset, name] of wanted)
    if (!shelf.has(asset))
      throw new UsageError(`${name} needs the file ${asset.slice(0, 12)}…, which is nowhere to be found. Name its folder with --assets.`);
  return shelf;
}

/** Loads every character that a setup's visible subjects name. @throws UsageError when one is nowhere. */
export async function loadAssets(setup: Setup, folders: string[]): Promise<Map<string, CharacterAsset>> {
  const found = new Map<string, CharacterAsset>();
  const wanted = new Set(
    inOrder(setup.subjects)
      .filter((s) => s.visible)
      .map((s) => s.asset),
  );
  for (const asset of wanted) {
    const stored = storedAt(asset);
    if (existsSync(stored)) found.set(asset, await readGlb(readFileSync(stored), asset, decoders));
  }
  for (const folder of [...folders, join(root, 'demo/assets')]) {
    if (!existsSync(folder)) continue;
    for (const name of readdirSync(folder)) {
      const other = OTHER_FORMATS.test(name);
      if (!other && !/\.glb$/i.test(name)) continue;
      const path = join(folder, name),
        bytes = readFileSync(path),
        sha = sha256(bytes);
      if (wanted.has(sha) && !found.has(sha)) found.set(sha, other ? await imported(path) : await readGlb(bytes, basename(name), decoders));
    }
  }
  const missing = [...wanted].filter((a) => !found.has(a));
  if (missing.length)
    throw new UsageError(`The character file ${missing[0]} is nowhere to be found. Put it into a folder and name it with --assets.`);
  return found;
}
