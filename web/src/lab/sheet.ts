// The finished frames of a job on one sheet.
import type { JobFrame } from '@plinket/contract';
import { evenly, GRID_MOST, gridPaper } from '@plinket/core';
import { api } from '../api/client.ts';
import { bytesUrl, sheetPdf } from '../parts/print.ts';

/** Draws small pictures of the frames, evenly chosen where there are many, as a PDF. @throws Error when one of them cannot be had */
export async function jobSheet(title: string, frames: readonly JobFrame[]): Promise<Blob> {
  const seen = evenly(
    frames.filter((f) => f.picture !== undefined),
    GRID_MOST,
  );
  const pictures = await Promise.all(
    seen.map(async ({ label, frame, picture }) => {
      const response = await fetch(api.blobUrl(picture!));
      if (!response.ok) throw new Error(`the picture of ${label} ${frame} is not there`);
      const bytes = await response.arrayBuffer(),
        bitmap = await createImageBitmap(new Blob([bytes]));
      const { width, height } = bitmap;
      bitmap.close();
      return { name: label, under: `frame ${frame}`, picture: await bytesUrl(bytes, 'image/png'), width, height };
    }),
  );
  return sheetPdf(gridPaper(title, pictures));
}
