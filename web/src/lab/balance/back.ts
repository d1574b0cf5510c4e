// A balance of finished pictures written back to where their light came from.
import type { Job } from '@plinket/contract';
import { balancePatch, isEmptyPatch, orderOf, type Balance } from '@plinket/core';
import { anyhow } from '../../api/anyhow.ts';
import { api } from '../../api/client.ts';
import { labApi } from '../../api/lab.ts';
import { newId } from '../../parts/new-id.ts';

/** The setups that a job's pictures are of. */
export async function setupsOf({ source }: Pick<Job, 'source'>): Promise<string[]> {
  switch (source.kind) {
    case 'setups':
      return source.setups;
    case 'kits':
      // their light is the kits', and stands in no setup
      return [];
    case 'turn':
      return [source.setup];
    case 'sequence':
      return source.shots ?? orderOf((await api.sequence(source.sequence)).document.shots);
    case 'balance':
      return setupsOf(await labApi.job(source.job));
  }
}

/** Changes the setups as the balance says, each as one step of its history. Answers how many were changed. */
export async function writeBack(job: Pick<Job, 'source'>, balance: Balance): Promise<number> {
  let changed = 0;
  for (const setup of await setupsOf(job)) {
    const { document, revision } = await api.setup(setup);
    const patch = balancePatch(document, balance);
    if (isEmptyPatch(patch)) continue;
    const id = newId();
    await anyhow(
      revision,
      (known) => api.patchSetup(setup, { id, revision: known, patch }),
      () => api.setup(setup),
    );
    changed++;
  }
  return changed;
}
