import { readFileSync } from 'node:fs';
import { readGlb } from '@plinket/core';
import { CHARACTER_FILES, demoSetup, goatSetup, lanternSetup, signallerSetup, type Kept } from '@plinket/demo';
import type { AssetService } from './services/assets.ts';
import type { SetupService } from './services/setups.ts';

/** The cast, and the setups that a first visit finds; the keeper's portrait is the newest and so the first of them. */
export async function bringDemo(assets: AssetService, setups: SetupService): Promise<void> {
  const cast = new Map<string, Kept>();
  for (const { name, path } of CHARACTER_FILES) {
    const bytes = readFileSync(path);
    const { sha256 } = await assets.add(bytes, name);
    cast.set(name, { sha256, asset: await readGlb(bytes, name) });
  }
  const of = (name: string): Kept => cast.get(name)!;
  await setups.create(lanternSetup(of('keeper-figure.glb')));
  await setups.create(goatSetup(of('goat.glb')));
  await setups.create(signallerSetup(of('signaller-figure.glb')));
  const keeper = of('keeper.glb');
  await setups.create(demoSetup(keeper.sha256, keeper.asset.head));
}
