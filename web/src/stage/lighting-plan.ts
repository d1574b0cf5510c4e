// The lighting plan as a file.
import { patternName, planPaper, pngSize, type KeptReading, type Pattern, type Setup } from '@plinket/core';
import { bytesUrl, sheetPdf } from '../parts/print.ts';

/** Draws the plan of a setup with its picture and what was read in it. */
export async function lightingPlan(setup: Setup, png: ArrayBuffer, reading: KeptReading | undefined, kind: 'pdf' | 'svg'): Promise<Blob> {
  const picture = { href: await bytesUrl(png, 'image/png'), ...pngSize(new Uint8Array(png)) };
  const named = reading?.pattern ? { ...reading, pattern: patternName(reading.pattern as Pattern) } : reading;
  const svg = planPaper(setup, { picture, ...(named ? { reading: named } : {}), under: new Date().toLocaleDateString() });
  return kind === 'pdf' ? sheetPdf(svg) : new Blob([svg], { type: 'image/svg+xml' });
}
