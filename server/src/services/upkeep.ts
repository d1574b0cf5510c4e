import type { EntityManager } from 'typeorm';
import type { BlobStore } from '../data/blobs.ts';

/** What was thrown away can be had back so long, days. */
export const KEPT_DAYS = 30;

/** Takes away for good what was thrown away a month ago. */
async function purge(manager: EntityManager): Promise<void> {
  const old = `deleted_at < now() - interval '${KEPT_DAYS} days'`;
  await manager.transaction(async (m) => {
    await m.query(`DELETE FROM proof WHERE ${old}`);
    await m.query(`DELETE FROM document WHERE ${old}`);
    await m.query(
      `DELETE FROM blob_ref r WHERE NOT EXISTS (SELECT FROM document WHERE id = r.owner) AND NOT EXISTS (SELECT FROM proof WHERE id = r.owner)`,
    );
    await m.query(`DELETE FROM asset WHERE ${old} AND sha256 NOT IN (SELECT sha256 FROM blob_ref)`);
  });
}

/** SHA-256 of every blob that a row needs. */
export async function neededBlobs(manager: EntityManager): Promise<Set<string>> {
  const rows = await manager.query<{ sha256: string }[]>(
    `SELECT sha256 FROM asset UNION SELECT sha256 FROM asset_original UNION SELECT picture FROM proof UNION SELECT sha256 FROM blob_ref
     UNION SELECT setup FROM render_frame UNION SELECT films FROM render_frame WHERE films IS NOT NULL
     UNION SELECT picture FROM render_frame WHERE picture IS NOT NULL
     UNION SELECT f ->> 'sha256' FROM render_frame, jsonb_array_elements(files) f`,
  );
  return new Set(rows.map((r) => r.sha256));
}

/** Purges rows and sweeps files that nothing needs any more. */
export async function tidy(manager: EntityManager, blobs: BlobStore): Promise<void> {
  await purge(manager);
  await blobs.sweep(await neededBlobs(manager));
}
