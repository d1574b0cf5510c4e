// What the tests of the server share: a database of their own, a folder for blobs, and a character and setup to begin with.
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from '@jest/globals';
import { problemSchema, setupRecordSchema, type Problem, type SetupRecord } from '@plinket/contract';
import { readGlb, type Setup } from '@plinket/core';
import { demoSetup, keeperFile } from '@plinket/demo';
import type { Express } from 'express';
import { pino } from 'pino';
import request from 'supertest';
import type { DataSource } from 'typeorm';
import { freshFolders } from '../../../scripts/lib/fresh.mjs';
import { BlobStore, createServer, openDatabase, Readers, type AppOptions, type Lab } from '../index.ts';

export const NOWHERE = '00000000-0000-4000-8000-000000000000';
export const silent = pino({ level: 'silent' });
export const keeperGlb = readFileSync(keeperFile);
export const keeperSha = createHash('sha256').update(keeperGlb).digest('hex');
export const temporaryBlobs = (): BlobStore => new BlobStore(join(mkdtempSync(join(tmpdir(), 'plinket-')), 'blobs'));

type ReaderWishes = ConstructorParameters<typeof Readers>[1];
type Fresh = Awaited<ReturnType<typeof freshFolders>>;

/** A server over an empty database, and the shorthand that its tests speak. */
export class TestServer {
  readonly app: Express;
  readonly db: DataSource;
  readonly blobs: BlobStore;
  readonly cluster: Fresh['database'];
  readonly setup: Setup;
  readonly readers: Readers;
  readonly lab: Lab | undefined;
  private readonly fresh: Fresh;

  private constructor(fresh: Fresh, db: DataSource, setup: Setup, options: Partial<AppOptions>, limits: ReaderWishes) {
    this.fresh = fresh;
    this.cluster = fresh.database;
    this.db = db;
    this.blobs = temporaryBlobs();
    this.setup = setup;
    this.readers = new Readers(silent, limits);
    const made = createServer({ db, blobs: this.blobs, readers: this.readers, log: silent, writesPerMinute: 100_000, ...options });
    this.app = made.app;
    this.lab = made.lab;
  }

  static async start(
    options: Partial<AppOptions> | ((db: DataSource) => Partial<AppOptions>) = {},
    limits: ReaderWishes = {},
  ): Promise<TestServer> {
    const fresh = await freshFolders('test');
    const db = await openDatabase(fresh.database.url);
    // as JSON has it: without −0
    const setup = JSON.parse(JSON.stringify(demoSetup(keeperSha, (await readGlb(keeperGlb)).head))) as Setup;
    return new TestServer(fresh, db, setup, typeof options === 'function' ? options(db) : options, limits);
  }

  async stop(): Promise<void> {
    await this.readers.close();
    await this.lab?.close();
    await this.db.destroy();
    await this.fresh.remove();
  }

  api() {
    return request(this.app);
  }
  bring(name = 'keeper.glb', bytes: Buffer = keeperGlb) {
    return this.api().post(`/api/assets?name=${name}`).set('Content-Type', 'model/gltf-binary').send(bytes);
  }
  async created(more: Partial<Setup> = {}): Promise<SetupRecord> {
    const { body } = await this.api()
      .post('/api/setups')
      .send({ document: { ...this.setup, ...more } })
      .expect(201);
    return setupRecordSchema.parse(body);
  }
  patch(id: string, revision: number | string, body: object | string, requestId?: string) {
    const sent = this.api().patch(`/api/setups/${id}`).set('Content-Type', 'application/merge-patch+json').set('If-Match', `"${revision}"`);
    if (requestId !== undefined) sent.set('Idempotency-Key', requestId);
    return sent.send(typeof body === 'string' ? body : JSON.stringify(body));
  }
}

/** A problem as RFC 9457 wants it. */
export function problem(response: request.Response, status: number): Problem {
  expect(response.status).toBe(status);
  expect(response.headers['content-type']).toMatch(/^application\/problem\+json/);
  const body = problemSchema.parse(response.body);
  expect(body.status).toBe(status);
  return body;
}
