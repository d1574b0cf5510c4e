import { createReadStream, readFileSync } from 'node:fs';
import { readGlb } from '@plinket/core';
import { CHARACTER_FILES, DEMO_SETUPS, demoKits, KIT_PICTURES, type Kept } from '@plinket/demo';
import type { EntityManager } from 'typeorm';
import type { BlobStore } from './data/blobs.ts';
import { AssetService } from './services/assets.ts';
import type { FileService } from './services/files.ts';
import { kitService } from './services/kits.ts';
import { ProofService } from './services/proofs.ts';
import { setupService } from './services/setups.ts';

/** The shelf of kits, all of it or nothing, and once; the first of it is the newest. */
export async function bringKits(db: EntityManager, blobs: BlobStore): Promise<void> {
  if ((await db.query<unknown[]>("SELECT FROM fact WHERE name = 'kits'")).length) return;
  const shelf = demoKits();
  // a picture that nobody names in the end is swept away
  for (const { picture } of shelf.flatMap((k) => k.shown))
    if (picture && !blobs.renew(picture)) await blobs.keep(await blobs.receive(createReadStream(new URL(picture, KIT_PICTURES))));
  await db.transaction(async (manager) => {
    await manager.query("INSERT INTO fact (name) VALUES ('kits')");
    const kits = kitService(manager, blobs);
    for (const kit of shelf.reverse()) {
      const { id } = await kits.create(kit);
      await manager.query('UPDATE document SET created_at = clock_timestamp(), updated_at = clock_timestamp() WHERE id = $1', [id]);
    }
  });
}

/**
 * The cast, and the setups that a first visit finds; the keeper's portrait is the newest and so the first of them. All of it is brought in
 * or nothing, and once: who throws the demo away does not get it again.
 */
export async function bringDemo(db: EntityManager, blobs: BlobStore, files: FileService): Promise<void> {
  if ((await db.query<unknown[]>("SELECT FROM fact WHERE name = 'demo'")).length) return;
  // read first: the transaction holds nothing up
  const cast = await Promise.all(
    CHARACTER_FILES.map(async ({ name, path }) => {
      const received = await blobs.receive(createReadStream(path));
      return { name, received, report: await files.inspect('character', received, name), asset: await readGlb(readFileSync(path), name) };
    }),
  );
  const pictures = await Promise.all(
    DEMO_SETUPS.map(async ({ picture }) => {
      const received = await blobs.receive(createReadStream(picture));
      return { received, report: await files.inspect('proof', received, 'First look') };
    }),
  );
  await db.transaction(async (manager) => {
    const assets = new AssetService(manager, blobs),
      setups = setupService(manager, blobs),
      proofs = new ProofService(manager, blobs);
    await manager.query("INSERT INTO fact (name) VALUES ('demo')");
    const kept = new Map<string, Kept>();
    for (const { name, received, report, asset } of cast) {
      const { sha256 } = await assets.add(received, name, report);
      kept.set(name, { sha256, asset });
    }
    const of = (name: string): Kept => kept.get(name)!;
    for (const [i, { make }] of DEMO_SETUPS.entries()) {
      const { id } = await setups.create(make(of));
      const { received, report } = pictures[i]!;
      await proofs.add(id, received, 'First look', report);
      // now() is one moment for all of a transaction; this keeps their order
      await manager.query('UPDATE document SET created_at = clock_timestamp(), updated_at = clock_timestamp() WHERE id = $1', [id]);
    }
  });
}
