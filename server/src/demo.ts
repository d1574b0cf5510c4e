import { readFileSync } from 'node:fs';
import { readGlb } from '@plinket/core';
import { CHARACTER_FILES, demoSetup, goatSetup, lanternSetup, signallerSetup, type Kept } from '@plinket/demo';
import type { AssetService } from './services/assets.ts';
import type { SetupService } from './services/setups.ts';

/** The cast, and the setups that a first visit finds; the keeper's portrait is the newest and so the first of them. */
export async function bringDemo(assets: AssetService, setups: SetupService): Promise<void> {
  const kept = new Map<string, { bytes: Uint8Array; sha256: string }>();
  for (const { name, path } of CHARACTER_FILES) {
    const bytes = readFileSync(path);
    kept.set(name, { bytes, sha256: (await assets.add(bytes, name)).sha256 });
  }
  const of = async (name: string): Promise<Kept> => {
    const { bytes, sha256 } = kept.get(name)!;
    return { sha256, asset: await readGlb(bytes, name) };
  };
  await setups.create(lanternSetup(await of('keeper-figure.glb')));
  await setups.create(goatSetup(await of('goat.glb')));
  await setups.create(signallerSetup(await of('signaller-figure.glb')));
  const keeper = await of('keeper.glb');
  await setups.create(demoSetup(keeper.sha256, keeper.asset.head));
}
