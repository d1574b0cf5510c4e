// Waiting for the face to be read as it is now.
import { keptReading, type KeptReading } from '@plinket/core';
import type { Stage } from '../context.ts';

type Looks = Pick<Stage, 'doc' | 'engine' | 'view'>;

export interface FaceWait {
  /** A reading of this wish or an older one does not count. */
  after: number;
  /** Longest wait, ms. */
  patience: number;
  /** Wait for rays, not only for what is looked up. */
  exact?: boolean;
  /** Whether somebody waits still. */
  waits(): boolean;
}

/** Until the engine has read the face under its newest wish, or said why it cannot; or nobody waits for it any more. */
export function faceRead({ doc, engine, view }: Looks, { after, patience, exact = false, waits }: FaceWait): Promise<void> {
  return new Promise((resolve) => {
    const end = () => {
      clearTimeout(timer);
      for (const forget of listening) forget();
      resolve();
    };
    const hear = () => {
      const { reading } = view.getState();
      const isRead = reading && reading.wish > after && reading.wish >= engine.wish && reading.why?.kind !== 'looking';
      if ((isRead && (!exact || reading.exact || reading.why)) || !waits()) end();
    };
    const timer = setTimeout(end, patience),
      listening = [view.subscribe(hear), doc.subscribe(hear)];
    hear();
  });
}

/** Longest wait of a proof for its reading, ms: a face that comes new takes longer, and its proof is kept without. */
const PROOF_MS = 3000;

/** What is read of the face in the setup as it is now, for a proof; nothing where that is not known in time or has changed meanwhile. */
export async function readingForProof(looks: Looks): Promise<KeptReading | undefined> {
  const { doc, engine, view } = looks;
  const { setup } = doc.getState(),
    wish = engine.wish;
  const same = () => doc.getState().setup === setup;
  await faceRead(looks, { after: wish - 1, patience: PROOF_MS, exact: true, waits: same });
  const { reading: report, seen } = view.getState();
  if (!same() || !report?.reading || report.wish < wish) return undefined;
  return keptReading(setup, report.reading, seen && seen.wish >= wish ? seen.seen : undefined);
}
