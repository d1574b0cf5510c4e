import { createReadStream, readFileSync } from 'node:fs';
import {
  applyPatch,
  newShot,
  parseSetup,
  PRODUCTION_VERSION,
  ranksAt,
  readGlb,
  SEQUENCE_VERSION,
  TOLERANCE,
  type Sequence,
} from '@plinket/core';
import {
  CHARACTER_FILES,
  DEMO_PRODUCTION,
  DEMO_SEQUENCES,
  DEMO_SETUPS,
  demoKits,
  KIT_PICTURES,
  type DemoSequence,
  type Kept,
} from '@plinket/demo';
import type { EntityManager } from 'typeorm';
import type { BlobStore, Received } from './data/blobs.ts';
import type { Reports } from './readers/index.ts';
import { AssetService } from './services/assets.ts';
import type { FileService } from './services/files.ts';
import { kitService } from './services/kits.ts';
import { ProofService } from './services/proofs.ts';
import { productionService, SequenceService } from './services/sequences.ts';
import { setupService, type Following } from './services/setups.ts';

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

/** A picture of the demo that was read. */
interface Picture {
  received: Received;
  report: Reports['proof'];
}

/** A sequence: its light, its shots, and a proof of each. */
async function bringSequence(
  manager: EntityManager,
  blobs: BlobStore,
  { name, brief, light, shots }: DemoSequence,
  of: (file: string) => Kept,
  pictureOf: (path: string) => Picture,
  place: { production: string; rank: string },
): Promise<void> {
  const setups = setupService(manager, blobs),
    proofs = new ProofService(manager, blobs);
  const base = await setups.create(light(of)),
    ranks = ranksAt({ items: {} }, shots.length);
  const items: Sequence['shots']['items'] = {};
  for (const [i, { departs, picture, ...said }] of shots.entries()) {
    const plain = newShot(base.document, { setup: base.id, revision: 1 }, `${name} ${said.code}`, said.brief);
    const { id } = await setups.createFollowing(parseSetup(applyPatch(plain, departs(base.document, of))) as Following);
    const { received, report } = pictureOf(picture);
    await proofs.add(id, received, 'First look', report);
    items[id] = { ...said, rank: ranks[i]! };
  }
  const document: Sequence = {
    schemaVersion: SEQUENCE_VERSION,
    name,
    brief,
    notes: '',
    ...place,
    setup: base.id,
    tolerance: TOLERANCE,
    shots: { items },
  };
  await new SequenceService(manager, setups).create(document);
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
  const paths = [...DEMO_SETUPS, ...DEMO_SEQUENCES.flatMap((s) => s.shots)].map((s) => s.picture);
  const pictures = new Map(
    await Promise.all(
      paths.map(async (path): Promise<[string, Picture]> => {
        const received = await blobs.receive(createReadStream(path));
        return [path, { received, report: await files.inspect('proof', received, 'First look') }];
      }),
    ),
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
    const production = await productionService(manager).create({ schemaVersion: PRODUCTION_VERSION, ...DEMO_PRODUCTION });
    const pictureOf = (path: string) => pictures.get(path)!,
      ranks = ranksAt({ items: {} }, DEMO_SEQUENCES.length);
    for (const [i, sequence] of DEMO_SEQUENCES.entries())
      await bringSequence(manager, blobs, sequence, of, pictureOf, { production: production.id, rank: ranks[i]! });
    for (const { make, picture } of DEMO_SETUPS) {
      const { id } = await setups.create(make(of));
      const { received, report } = pictureOf(picture);
      await proofs.add(id, received, 'First look', report);
      // now() is one moment for all of a transaction; this keeps their order
      await manager.query('UPDATE document SET created_at = clock_timestamp(), updated_at = clock_timestamp() WHERE id = $1', [id]);
    }
  });
}
