// The wall as a file.
import type { Proof } from '@plinket/contract';
import { wallPaper } from '@plinket/core';
import { api } from '../api/client.ts';
import { dataUrl, sheetPdf, sheetPng } from '../parts/print.ts';
import { factsOf } from './facts.ts';

/** Draws the proofs on a sheet. @throws Error when one of their pictures cannot be had */
export async function wallSheet(proofs: readonly Proof[], kind: 'png' | 'pdf'): Promise<Blob> {
  const drawn = await Promise.all(
    proofs.map(async ({ name, setupName, createdAt, picture, width, height }) => ({
      name,
      under: `${setupName}, ${new Date(createdAt).toLocaleDateString()}`,
      picture: await dataUrl(api.blobUrl(picture), 'image/png'),
      width,
      height,
    })),
  );
  const svg = wallPaper([...new Set(proofs.map((p) => p.setupName))].join(' · '), drawn, factsOf(proofs));
  return kind === 'pdf' ? sheetPdf(svg) : sheetPng(svg);
}
