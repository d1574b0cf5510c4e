import { readFileSync, writeFileSync } from 'node:fs';
import { basename } from 'node:path';
import { applyPatch, compile, readUsda, writeUsda } from '@plinket/core';
import { loadAssets, loadLightFiles, loadSetup } from '../load.ts';
import { UsageError } from '../usage.ts';

/** A setup as .usda, or with what a .usda says. */
export async function usdCommand(positional: string[], options: Record<string, string | undefined>): Promise<void> {
  const { setup, folder } = await loadSetup(positional[0], options['server']);
  const { out, from } = options;
  if (from !== undefined) {
    if (!out || !/\.json$/i.test(out)) throw new UsageError('--out needs a file that ends in .json.');
    let text: string;
    try {
      text = readFileSync(from, 'utf8');
    } catch {
      throw new UsageError(`--from ${from}: there is no such file.`);
    }
    const { patch, lights, camera, changed, left } = readUsda(text, setup);
    writeFileSync(out, `${JSON.stringify(applyPatch(setup, patch), null, 2)}\n`);
    console.log(JSON.stringify({ file: basename(from), lights, camera, changed, left }, null, 2));
    return;
  }
  if (!out || !/\.usda$/i.test(out)) throw new UsageError('--out needs a file that ends in .usda.');
  const folders = [...(options['assets'] ? [options['assets']] : []), folder];
  const assets = await loadAssets(setup, folders);
  const scene = compile(setup, (sha) => assets.get(sha), undefined, { files: loadLightFiles(setup, folders) });
  const { text, report } = writeUsda(setup, scene);
  writeFileSync(out, text);
  console.log(JSON.stringify({ file: basename(out), withoutCounterpart: report }, null, 2));
}
