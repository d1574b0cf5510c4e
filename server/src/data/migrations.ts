import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The tables of the first slice. */
export class First1795000000000 implements MigrationInterface {
  readonly name = 'First1795000000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`CREATE TABLE setup (
      id uuid PRIMARY KEY, revision int NOT NULL CHECK (revision > 0), document jsonb NOT NULL,
      created_at timestamptz NOT NULL DEFAULT now(), updated_at timestamptz NOT NULL DEFAULT now())`);
    await q.query(`CREATE TABLE setup_patch (
      setup_id uuid NOT NULL REFERENCES setup (id) ON DELETE CASCADE, revision int NOT NULL, patch jsonb NOT NULL, inverse jsonb NOT NULL,
      words text NOT NULL, at timestamptz NOT NULL DEFAULT now(), PRIMARY KEY (setup_id, revision))`);
    await q.query(`CREATE TABLE asset (
      sha256 char(64) PRIMARY KEY, name text NOT NULL, file_name text NOT NULL, bytes int NOT NULL, triangles int NOT NULL,
      width double precision NOT NULL, height double precision NOT NULL, depth double precision NOT NULL, created_at timestamptz NOT NULL DEFAULT now())`);
    await q.query(`CREATE TABLE proof (
      id uuid PRIMARY KEY, setup_id uuid NOT NULL REFERENCES setup (id) ON DELETE CASCADE, name text NOT NULL, picture char(64) NOT NULL,
      width int NOT NULL, height int NOT NULL, document jsonb NOT NULL, created_at timestamptz NOT NULL DEFAULT now())`);
    await q.query('CREATE INDEX proof_of_setup ON proof (setup_id, created_at)');
  }

  async down(q: QueryRunner): Promise<void> {
    for (const table of ['proof', 'asset', 'setup_patch', 'setup']) await q.query(`DROP TABLE ${table}`);
  }
}

/** The files that characters were made of. */
export class Originals1796000000000 implements MigrationInterface {
  readonly name = 'Originals1796000000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`CREATE TABLE asset_original (
      asset char(64) NOT NULL REFERENCES asset (sha256) ON DELETE CASCADE, file_name text NOT NULL, sha256 char(64) NOT NULL,
      bytes int NOT NULL, created_at timestamptz NOT NULL DEFAULT now(), PRIMARY KEY (asset, file_name))`);
  }

  async down(q: QueryRunner): Promise<void> {
    await q.query('DROP TABLE asset_original');
  }
}
