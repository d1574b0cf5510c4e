import { acceptedChangeSchema, type AcceptedChange } from '@plinket/contract';

/** What listening needs from the browser; tests give their own. */
export interface LivePorts {
  open(url: string): Pick<EventSource, 'close'> & { onmessage: ((e: MessageEvent<string>) => void) | null };
  page: Pick<Document, 'hidden' | 'addEventListener' | 'removeEventListener'>;
}

/**
 * Hears of every change of a setup that is accepted, from the revision on that is known. A page that is hidden does not listen: a browser
 * has but six connections to a server, and what came meanwhile is told when it is looked at again.
 */
export function listen(id: string, revision: () => number, hear: (change: AcceptedChange) => void, ports: LivePorts): () => void {
  let source: ReturnType<LivePorts['open']> | undefined;
  const close = (): void => {
    source?.close();
    source = undefined;
  };
  const turn = (): void => {
    if (ports.page.hidden) return close();
    if (source) return;
    source = ports.open(`/api/setups/${id}/events?after=${revision()}`);
    source.onmessage = ({ data }) => {
      const change = acceptedChangeSchema.safeParse(JSON.parse(data));
      if (change.success) hear(change.data);
    };
  };
  ports.page.addEventListener('visibilitychange', turn);
  turn();
  return () => {
    ports.page.removeEventListener('visibilitychange', turn);
    close();
  };
}
