// Bringing a proof's setup back, whole or in parts; nothing is overwritten that cannot be had back.
import type { Proof, SetupRecord } from '@plinket/contract';
import { diff, isEmptyPatch, restorePatch, type Patch, type Setup, type SetupPart } from '@plinket/core';
import { api, ApiProblem } from '../api/client.ts';
import { newId } from '../parts/new-id.ts';

/** How often a change is made anew for a setup that others change meanwhile. */
const TRIES = 5;

/**
 * Changes a setup that may be changed by others meanwhile: the change is made for the newest revision.
 * @returns the setup before and after; nothing where there was nothing to change
 */
export async function changeSetup(id: string, make: (now: Setup) => Patch): Promise<{ before: Setup; after: SetupRecord } | undefined> {
  for (let attempt = 1; ; attempt++) {
    const { revision, document } = await api.setup(id);
    const patch = make(document);
    if (isEmptyPatch(patch)) return undefined;
    try {
      return { before: document, after: await api.patchSetup(id, { id: newId(), revision, patch }) };
    } catch (error) {
      const stale = error instanceof ApiProblem && error.problem.status === 412;
      if (!stale || attempt === TRIES) throw error;
    }
  }
}

/** Brings parts of a proof back into its setup (all of it without `parts`), and says how to take that back. */
export async function restoreProof(proof: Proof, parts?: readonly SetupPart[]): Promise<{ undo(): Promise<unknown> } | undefined> {
  const done = await changeSetup(proof.setupId, (now) => restorePatch(now, proof.document, parts));
  if (!done) return undefined;
  const back = diff(done.after.document, done.before);
  return { undo: () => changeSetup(proof.setupId, () => back) };
}
