import { EntitySchema } from 'typeorm';
import type { KeptReading, Patch, Pin, Setup } from '@plinket/core';

/** What a document is. */
export type DocumentKind = 'setup' | 'recipe' | 'kit' | 'production' | 'sequence';

/** A document and how often it has changed. One with `deletedAt` can be had back until it is purged. */
export interface DocumentRow {
  id: string;
  kind: DocumentKind;
  revision: number;
  /** As it was kept, of whatever version. */
  document: object;
  createdAt: Date;
  updatedAt: Date;
  deletedAt: Date | null;
}

/** One accepted change. `inverse` takes the document back; `request` is the id under which it was sent. */
export interface PatchRow {
  documentId: string;
  revision: number;
  request: string | null;
  /** The document before it as it was kept, where that was of an older version: what came before was made for that version. */
  snapshot: object | null;
  patch: Patch;
  inverse: Patch;
  words: string;
  /** Who made it, by name, where people sign in. */
  by: string | null;
  at: Date;
}

/** A character's file; the bytes are a blob. */
export interface AssetRow {
  sha256: string;
  name: string;
  fileName: string;
  bytes: number;
  triangles: number;
  width: number;
  height: number;
  depth: number;
  createdAt: Date;
  deletedAt: Date | null;
}

/** A file that a character was made of; the bytes are a blob. */
export interface OriginalRow {
  asset: string;
  fileName: string;
  sha256: string;
  bytes: number;
  createdAt: Date;
}

/** A kept look: the picture is a blob. */
export interface ProofRow {
  id: string;
  setupId: string;
  name: string;
  picture: string;
  width: number;
  height: number;
  document: Setup;
  /** Of the face in it, where it was read. */
  reading: KeptReading | null;
  notes: string;
  pins: Pin[];
  createdAt: Date;
  deletedAt: Date | null;
}

/** A document (with its whole history) or a proof needs a blob. */
export interface BlobRefRow {
  owner: string;
  sha256: string;
}

const now = { type: 'timestamptz', default: () => 'now()' } as const;
const deletedAt = { type: 'timestamptz', name: 'deleted_at', nullable: true } as const;

export const DocumentEntity = new EntitySchema<DocumentRow>({
  name: 'document',
  columns: {
    id: { type: 'uuid', primary: true },
    kind: { type: 'text' },
    revision: { type: 'int' },
    document: { type: 'jsonb' },
    createdAt: { ...now, name: 'created_at', createDate: true },
    updatedAt: { ...now, name: 'updated_at', updateDate: true },
    deletedAt,
  },
});

export const PatchEntity = new EntitySchema<PatchRow>({
  name: 'document_patch',
  columns: {
    documentId: { type: 'uuid', primary: true, name: 'document_id' },
    revision: { type: 'int', primary: true },
    request: { type: 'uuid', nullable: true },
    snapshot: { type: 'jsonb', nullable: true },
    patch: { type: 'jsonb' },
    inverse: { type: 'jsonb' },
    words: { type: 'text' },
    by: { type: 'text', nullable: true },
    at: { ...now, createDate: true },
  },
});

export const AssetEntity = new EntitySchema<AssetRow>({
  name: 'asset',
  columns: {
    sha256: { type: 'char', length: 64, primary: true },
    name: { type: 'text' },
    fileName: { type: 'text', name: 'file_name' },
    bytes: { type: 'int' },
    triangles: { type: 'int' },
    width: { type: 'double precision' },
    height: { type: 'double precision' },
    depth: { type: 'double precision' },
    createdAt: { ...now, name: 'created_at', createDate: true },
    deletedAt,
  },
});

export const OriginalEntity = new EntitySchema<OriginalRow>({
  name: 'asset_original',
  columns: {
    asset: { type: 'char', length: 64, primary: true },
    fileName: { type: 'text', primary: true, name: 'file_name' },
    sha256: { type: 'char', length: 64 },
    bytes: { type: 'int' },
    createdAt: { ...now, name: 'created_at', createDate: true },
  },
});

export const ProofEntity = new EntitySchema<ProofRow>({
  name: 'proof',
  columns: {
    id: { type: 'uuid', primary: true },
    setupId: { type: 'uuid', name: 'setup_id' },
    name: { type: 'text' },
    picture: { type: 'char', length: 64 },
    width: { type: 'int' },
    height: { type: 'int' },
    document: { type: 'jsonb' },
    reading: { type: 'jsonb', nullable: true },
    notes: { type: 'text', default: '' },
    pins: { type: 'jsonb', default: [] },
    createdAt: { ...now, name: 'created_at', createDate: true },
    deletedAt,
  },
});

export const BlobRefEntity = new EntitySchema<BlobRefRow>({
  name: 'blob_ref',
  columns: { owner: { type: 'uuid', primary: true }, sha256: { type: 'char', length: 64, primary: true } },
});
