// Pages without a browser, for the benches of what several people do at once.
import { acceptedChangeSchema, type AcceptedChange, type SetupRecord } from '@plinket/contract';
import { api } from '../../web/src/api/client.ts';
import { Sync, type SyncPorts } from '../../web/src/document/sync.ts';

export const after = (ms: number, then: () => void): (() => void) => {
  const timer = setTimeout(then, ms);
  return () => clearTimeout(timer);
};

/** Hears changes of a document, such as `setups/…`, as a page does: server-sent events. */
export async function listen(path: string, revision: number, signal: AbortSignal, hear: (change: AcceptedChange) => void): Promise<void> {
  const response = await fetch(`/api/${path}/events?after=${revision}`, { signal });
  let text = '';
  for await (const part of response.body as unknown as AsyncIterable<Uint8Array>) {
    text += Buffer.from(part).toString();
    for (let end = text.indexOf('\n\n'); end >= 0; end = text.indexOf('\n\n')) {
      const data = /^data: (.*)$/m.exec(text.slice(0, end));
      text = text.slice(end + 2);
      if (data) hear(acceptedChangeSchema.parse(JSON.parse(data[1]!)));
    }
  }
}

/** A page's own saver, which keeps nothing in a browser and says what is refused. */
export const savingTo = (record: SetupRecord, ports: Partial<SyncPorts> & { onRefused(message: string): void }): Sync =>
  new Sync(record, {
    send: (change) => api.patchSetup(record.id, change),
    fetch: () => api.setup(record.id),
    keep: () => undefined,
    onState: () => undefined,
    onRebased: () => undefined,
    onConflict: () => undefined,
    newId: () => crypto.randomUUID(),
    after,
    ...ports,
    onRefused: (message) => {
      console.error(`refused: ${message}`);
      ports.onRefused(message);
    },
  });
