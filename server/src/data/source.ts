import 'reflect-metadata';
import { DataSource } from 'typeorm';
import { AssetEntity, BlobRefEntity, DocumentEntity, OriginalEntity, PatchEntity, ProofEntity } from './entities.ts';
import {
  First1795000000000,
  Lab1801000000000,
  Ground1797000000000,
  Originals1796000000000,
  People1802000000000,
  Proofs1799000000000,
  Snapshots1798000000000,
  Sequences1800000000000,
} from './migrations.ts';

/** A database that does not answer in time at the start is asked so often: a busy machine takes longer than one that serves. */
const TRIES = 8;

/** Connects, and tries again where no answer came in time. */
export async function initialized(source: Pick<DataSource, 'initialize'>, tries = TRIES): Promise<void> {
  try {
    await source.initialize();
  } catch (error) {
    if (tries <= 1 || !/timeout/i.test((error as Error).message)) throw error;
    await initialized(source, tries - 1);
  }
}

/** Opens the database and brings its tables up to date. Never synchronises by itself. */
export async function openDatabase(url: string): Promise<DataSource> {
  const source = new DataSource({
    type: 'postgres',
    url,
    entities: [DocumentEntity, PatchEntity, AssetEntity, OriginalEntity, ProofEntity, BlobRefEntity],
    migrations: [
      First1795000000000,
      Originals1796000000000,
      Ground1797000000000,
      Snapshots1798000000000,
      Proofs1799000000000,
      Sequences1800000000000,
      Lab1801000000000,
      People1802000000000,
    ],
    synchronize: false,
    uuidExtension: 'pgcrypto',
    installExtensions: false,
    extra: {
      // a database that went away, or hangs, must be told within seconds, not minutes, and must not take the server with it
      connectionTimeoutMillis: 3000,
      max: 10,
      query_timeout: 10_000,
      // nobody holds a document for ever: not a slow statement, not a server that was stopped while it had one
      statement_timeout: 10_000,
      lock_timeout: 4000,
      idle_in_transaction_session_timeout: 10_000,
    },
    poolErrorHandler: () => undefined,
  });
  await initialized(source);
  await source.runMigrations({ transaction: 'all' });
  return source;
}
