import { acceptedChangeSchema, handsToldSchema, type AcceptedChange, type Hand } from '@plinket/contract';

/** What listening needs from the browser; tests give their own. */
export interface LivePorts {
  open(url: string): Pick<EventSource, 'close' | 'readyState'> & {
    onmessage: ((e: MessageEvent<string>) => void) | null;
    onerror: ((e: Event) => void) | null;
    onopen: ((e: Event) => void) | null;
  };
  after(ms: number, then: () => void): () => void;
  page: Pick<Document, 'hidden' | 'addEventListener' | 'removeEventListener'>;
}

/** A browser asks again by itself when a connection breaks, but not after an answer such as 503: then we do, so often, ms. */
const AGAIN = 3000;
const CLOSED = 2;

/**
 * Hears what the server tells at an address. A page that is hidden does not listen: a browser has but six connections to a server.
 * @param url of the events, asked each time that it is listened to anew
 * @param again told when it is listened to anew: something may have been missed
 * @param answered told each time that the server answers
 */
export function listenAt(
  url: () => string,
  hear: (data: unknown) => void,
  ports: LivePorts,
  again: () => void = () => undefined,
  answered: () => void = () => undefined,
): () => void {
  let source: ReturnType<LivePorts['open']> | undefined,
    cancel: () => void = () => undefined,
    times = 0;
  const close = (): void => {
    cancel();
    source?.close();
    source = undefined;
  };
  const turn = (): void => {
    if (ports.page.hidden) return close();
    if (source) return;
    const opened = ports.open(url());
    source = opened;
    if (times++ > 0) again();
    opened.onerror = () => {
      if (source !== opened || opened.readyState !== CLOSED) return;
      close();
      cancel = ports.after(AGAIN, turn);
    };
    opened.onopen = () => answered();
    opened.onmessage = ({ data }) => hear(JSON.parse(data));
  };
  ports.page.addEventListener('visibilitychange', turn);
  turn();
  return () => {
    ports.page.removeEventListener('visibilitychange', turn);
    close();
  };
}

/** How a page is seen by others, and sees them. */
export interface Company {
  /** Names the page. */
  client?: string;
  /** Who else is there. */
  hear(hands: Hand[]): void;
  /** The server listens: it may be told what is in hand. */
  answered?(): void;
}

/**
 * Hears of every change of a document that is accepted, from the revision on that is known; what came while the page was hidden is told when it is
 * looked at again.
 * @param path of the document, such as `setups/…`
 */
export const listen = (
  path: string,
  revision: () => number,
  hear: (change: AcceptedChange) => void,
  ports: LivePorts,
  company?: Company,
): (() => void) =>
  listenAt(
    () => `/api/${path}/events?after=${revision()}${company?.client === undefined ? '' : `&client=${company.client}`}`,
    (data) => {
      const change = acceptedChangeSchema.safeParse(data);
      if (change.success) return hear(change.data);
      const told = handsToldSchema.safeParse(data);
      if (told.success) company?.hear(told.data.hands);
    },
    ports,
    undefined,
    company?.answered,
  );

/** What listening needs, of the browser. */
export const browserPorts = (after: LivePorts['after']): LivePorts => ({ open: (url) => new EventSource(url), page: document, after });
