import 'reflect-metadata';
import { DataSource } from 'typeorm';
import { AssetEntity, OriginalEntity, PatchEntity, ProofEntity, SetupEntity } from './entities.ts';
import { First1795000000000, Originals1796000000000 } from './migrations.ts';

/** Opens the database and brings its tables up to date. Never synchronises by itself. */
export async function openDatabase(url: string): Promise<DataSource> {
  const source = new DataSource({
    type: 'postgres',
    url,
    entities: [SetupEntity, PatchEntity, AssetEntity, OriginalEntity, ProofEntity],
    migrations: [First1795000000000, Originals1796000000000],
    synchronize: false,
    uuidExtension: 'pgcrypto',
    installExtensions: false,
    // a database that went away must be told within seconds, not minutes, and must not take the server with it
    extra: { connectionTimeoutMillis: 3000, max: 10 },
    poolErrorHandler: () => undefined,
  });
  await source.initialize();
  await source.runMigrations({ transaction: 'all' });
  return source;
}
