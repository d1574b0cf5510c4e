import type { SetupRecord } from '@plinket/contract';
import { browserStorage } from '../parts/storage.ts';
import { browserPorts, listen } from './live.ts';
import { after, openDocument, type DocumentStore } from './store.ts';
import { UnsentShelf } from './unsent.ts';
import { newId } from '../parts/new-id.ts';

/** Opens a setup as pages do: what earlier visits left unsent is sent, and what others do is heard. */
export async function openShared(record: SetupRecord): Promise<DocumentStore> {
  const ports = { storage: browserStorage, locks: navigator.locks as LockManager | undefined, newId };
  const shelf = await UnsentShelf.open(record.id, ports);
  return openDocument(record, shelf, (id, revision, hear, company) => listen(`setups/${id}`, revision, hear, browserPorts(after), company));
}
