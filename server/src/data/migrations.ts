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

/**
 * Documents of any kind with their blobs written down beside them; deleting that can be taken back; ids of requests, so that a
 * change that is sent twice is kept once; what was done once for this database.
 */
export class Ground1797000000000 implements MigrationInterface {
  readonly name = 'Ground1797000000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query('ALTER TABLE setup RENAME TO document');
    await q.query(`ALTER TABLE document ADD kind text NOT NULL DEFAULT 'setup', ADD deleted_at timestamptz,
      ADD name text GENERATED ALWAYS AS (document ->> 'name') STORED, ADD brief text GENERATED ALWAYS AS (document ->> 'brief') STORED`);
    await q.query('CREATE INDEX document_latest ON document (kind, updated_at DESC, id DESC) WHERE deleted_at IS NULL');
    await q.query('ALTER TABLE setup_patch RENAME TO document_patch');
    await q.query('ALTER TABLE document_patch RENAME setup_id TO document_id');
    await q.query('ALTER TABLE document_patch ADD request uuid');
    await q.query('CREATE UNIQUE INDEX document_patch_request ON document_patch (document_id, request)');
    for (const table of ['proof', 'asset']) await q.query(`ALTER TABLE ${table} ADD deleted_at timestamptz`);
    await q.query('CREATE INDEX asset_latest ON asset (created_at DESC, sha256 DESC) WHERE deleted_at IS NULL');
    await q.query('CREATE TABLE blob_ref (owner uuid NOT NULL, sha256 char(64) NOT NULL, PRIMARY KEY (owner, sha256))');
    await q.query('CREATE INDEX blob_ref_by_blob ON blob_ref (sha256)');
    await q.query(`INSERT INTO blob_ref SELECT DISTINCT d.owner, a #>> '{}' FROM (
        SELECT id AS owner, document AS j FROM document UNION ALL SELECT id, document FROM proof
        UNION ALL SELECT document_id, patch FROM document_patch UNION ALL SELECT document_id, inverse FROM document_patch) d,
      LATERAL (SELECT jsonb_path_query(d.j, 'strict $.**.asset') UNION SELECT jsonb_path_query(d.j, 'strict $.**.lut')) f (a)
      WHERE jsonb_typeof(a) = 'string' AND a #>> '{}' ~ '^[0-9a-f]{64}$'`);
    await q.query('CREATE TABLE fact (name text PRIMARY KEY, at timestamptz NOT NULL DEFAULT now())');
    // a database that has setups had the demo brought in, or never wanted it
    await q.query("INSERT INTO fact (name) SELECT 'demo' WHERE EXISTS (SELECT FROM document)");
  }

  async down(q: QueryRunner): Promise<void> {
    await q.query('DROP TABLE fact');
    await q.query('DROP TABLE blob_ref');
    await q.query('DROP INDEX asset_latest');
    for (const table of ['proof', 'asset']) await q.query(`ALTER TABLE ${table} DROP deleted_at`);
    await q.query('DROP INDEX document_patch_request');
    await q.query('ALTER TABLE document_patch DROP request');
    await q.query('ALTER TABLE document_patch RENAME document_id TO setup_id');
    await q.query('ALTER TABLE document_patch RENAME TO setup_patch');
    await q.query('DROP INDEX document_latest');
    await q.query('ALTER TABLE document DROP kind, DROP deleted_at, DROP name, DROP brief');
    await q.query('ALTER TABLE document RENAME TO setup');
  }
}

/** Documents of an older version are kept as they were beside the first change that was made to them in a newer one. */
export class Snapshots1798000000000 implements MigrationInterface {
  readonly name = 'Snapshots1798000000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query('ALTER TABLE document_patch ADD snapshot jsonb');
  }

  async down(q: QueryRunner): Promise<void> {
    await q.query('ALTER TABLE document_patch DROP snapshot');
  }
}

/** What a proof keeps beside picture and setup; proofs of all setups are listed together. */
export class Proofs1799000000000 implements MigrationInterface {
  readonly name = 'Proofs1799000000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query("ALTER TABLE proof ADD reading jsonb, ADD notes text NOT NULL DEFAULT '', ADD pins jsonb NOT NULL DEFAULT '[]'");
    await q.query('CREATE INDEX proof_latest ON proof (created_at DESC, id DESC) WHERE deleted_at IS NULL');
  }

  async down(q: QueryRunner): Promise<void> {
    await q.query('DROP INDEX proof_latest');
    await q.query('ALTER TABLE proof DROP reading, DROP notes, DROP pins');
  }
}

/** Which setup a setup follows, and which one the shots of a sequence do, found without reading the documents. */
export class Sequences1800000000000 implements MigrationInterface {
  readonly name = 'Sequences1800000000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query("ALTER TABLE document ADD follows text GENERATED ALWAYS AS (document #>> '{follows,setup}') STORED");
    await q.query('CREATE INDEX document_follows ON document (follows) WHERE follows IS NOT NULL');
    await q.query("CREATE INDEX document_sequence_setup ON document ((document ->> 'setup')) WHERE kind = 'sequence'");
    await q.query("CREATE INDEX document_sequence_shots ON document USING gin ((document #> '{shots,items}')) WHERE kind = 'sequence'");
  }

  async down(q: QueryRunner): Promise<void> {
    for (const index of ['document_sequence_shots', 'document_sequence_setup', 'document_follows']) await q.query(`DROP INDEX ${index}`);
    await q.query('ALTER TABLE document DROP follows');
  }
}

/** Jobs of the Lab, their frames, and the nodes that render them. The queue itself is pg-boss's, in a schema of its own. */
export class Lab1801000000000 implements MigrationInterface {
  readonly name = 'Lab1801000000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query('CREATE SEQUENCE render_change');
    await q.query(`CREATE TABLE render_job (
      id uuid PRIMARY KEY, name text NOT NULL, version int NOT NULL, wish jsonb NOT NULL, state text NOT NULL DEFAULT 'going'
        CHECK (state IN ('going', 'paused', 'cancelled')), priority int NOT NULL, created_at timestamptz NOT NULL DEFAULT now())`);
    await q.query('CREATE INDEX render_job_latest ON render_job (created_at DESC, id DESC)');
    await q.query(`CREATE TABLE render_node (
      id uuid PRIMARY KEY, name text NOT NULL, token char(64) NOT NULL UNIQUE, process uuid, cores int, seen_at timestamptz,
      created_at timestamptz NOT NULL DEFAULT now(), revoked_at timestamptz)`);
    // a name belongs to one frame for ever: no picture is written over another
    await q.query(`CREATE TABLE render_frame (
      job uuid NOT NULL REFERENCES render_job (id) ON DELETE CASCADE, n int NOT NULL, label text NOT NULL, frame int NOT NULL, path text NOT NULL UNIQUE,
      task jsonb NOT NULL, work double precision NOT NULL, setup char(64) NOT NULL, films char(64), state text NOT NULL DEFAULT 'waiting'
        CHECK (state IN ('waiting', 'running', 'done', 'dead', 'cancelled')),
      queued uuid, lease uuid UNIQUE, node uuid REFERENCES render_node (id), heard_at timestamptz, finished_at timestamptz, progress real NOT NULL DEFAULT 0,
      seconds double precision NOT NULL DEFAULT 0, core_seconds double precision NOT NULL DEFAULT 0, attempts int NOT NULL DEFAULT 0, picture char(64),
      files jsonb NOT NULL DEFAULT '[]', log jsonb NOT NULL DEFAULT '[]', changed bigint NOT NULL DEFAULT nextval('render_change'), PRIMARY KEY (job, n))`);
    await q.query('CREATE INDEX render_frame_changed ON render_frame (job, changed)');
    await q.query("CREATE INDEX render_frame_running ON render_frame (heard_at) WHERE state = 'running'");
    await q.query("CREATE INDEX render_frame_finished ON render_frame (finished_at DESC) WHERE state = 'done'");
  }

  async down(q: QueryRunner): Promise<void> {
    for (const table of ['render_frame', 'render_node', 'render_job']) await q.query(`DROP TABLE ${table}`);
    await q.query('DROP SEQUENCE render_change');
  }
}

/** Accounts with their sessions and invitations, and who did what. */
export class People1802000000000 implements MigrationInterface {
  readonly name = 'People1802000000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`CREATE TABLE account (
      id uuid PRIMARY KEY, name text NOT NULL, password text NOT NULL, role text NOT NULL CHECK (role IN ('look', 'light', 'lead')),
      created_at timestamptz NOT NULL DEFAULT now(), seen_at timestamptz, removed_at timestamptz)`);
    // who left keeps the name in what was done, but not from others
    await q.query('CREATE UNIQUE INDEX account_name ON account (lower(name)) WHERE removed_at IS NULL');
    await q.query(`CREATE TABLE invitation (
      id uuid PRIMARY KEY, token char(64) NOT NULL UNIQUE, role text NOT NULL CHECK (role IN ('look', 'light', 'lead')), by uuid REFERENCES account (id),
      created_at timestamptz NOT NULL DEFAULT now(), expires_at timestamptz NOT NULL)`);
    // as connect-pg-simple wants it
    await q.query('CREATE TABLE session (sid text PRIMARY KEY, sess json NOT NULL, expire timestamptz NOT NULL)');
    await q.query('CREATE INDEX session_expire ON session (expire)');
    await q.query("CREATE INDEX session_account ON session ((sess ->> 'account'))");
    await q.query(`CREATE TABLE deed (
      id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, at timestamptz NOT NULL DEFAULT now(), account uuid REFERENCES account (id), name text NOT NULL,
      method text NOT NULL, path text NOT NULL, subject uuid, status int)`);
    await q.query('CREATE INDEX deed_latest ON deed (at DESC, id DESC)');
    await q.query('ALTER TABLE document_patch ADD by text');
    // documents are written whole at every change: lz4 takes three quarters of the time that PostgreSQL's own packing does; one built without it stays with that
    await q.query(
      `DO $$ BEGIN ALTER TABLE document ALTER COLUMN document SET COMPRESSION lz4; EXCEPTION WHEN feature_not_supported OR invalid_parameter_value THEN NULL; END $$`,
    );
    await q.query('CREATE INDEX document_patch_by ON document_patch (at DESC) WHERE by IS NOT NULL');
  }

  async down(q: QueryRunner): Promise<void> {
    await q.query('ALTER TABLE document ALTER COLUMN document SET COMPRESSION default');
    await q.query('DROP INDEX document_patch_by');
    await q.query('ALTER TABLE document_patch DROP by');
    for (const table of ['deed', 'session', 'invitation', 'account']) await q.query(`DROP TABLE ${table}`);
  }
}
