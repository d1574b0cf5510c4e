import { EntitySchema } from 'typeorm';
import type { Patch, Setup } from '@plinket/core';

/** A setup: its document and how often it has changed. */
export interface SetupRow {
  id: string;
  revision: number;
  document: Setup;
  createdAt: Date;
  updatedAt: Date;
}

/** One accepted change. `inverse` takes the document back. */
export interface PatchRow {
  setupId: string;
  revision: number;
  patch: Patch;
  inverse: Patch;
  words: string;
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
  createdAt: Date;
}

const now = { type: 'timestamptz', default: () => 'now()' } as const;

export const SetupEntity = new EntitySchema<SetupRow>({
  name: 'setup',
  columns: {
    id: { type: 'uuid', primary: true },
    revision: { type: 'int' },
    document: { type: 'jsonb' },
    createdAt: { ...now, name: 'created_at', createDate: true },
    updatedAt: { ...now, name: 'updated_at', updateDate: true },
  },
});

export const PatchEntity = new EntitySchema<PatchRow>({
  name: 'setup_patch',
  columns: {
    setupId: { type: 'uuid', primary: true, name: 'setup_id' },
    revision: { type: 'int', primary: true },
    patch: { type: 'jsonb' },
    inverse: { type: 'jsonb' },
    words: { type: 'text' },
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
    createdAt: { ...now, name: 'created_at', createDate: true },
  },
});
