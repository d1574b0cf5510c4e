// One sequence by its id: opened once, kept up to date with what others do, and how its shots stand.
import type { Hand } from '@plinket/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { browserPorts, listen } from '../document/live.ts';
import { after } from '../document/store.ts';
import { UNTIL_THERE } from '../parts/pages.ts';
import { SequenceStore } from './store.ts';

/** So often it is asked how the shots stand, ms: their own changes are not told here. */
const EVERY_MS = 15_000;

/** The open sequence; nothing until it is there. */
export function useSequence(id: string) {
  const queries = useQueryClient();
  const opened = useQuery({ queryKey: ['sequence', id], queryFn: () => api.sequence(id), ...UNTIL_THERE, staleTime: Infinity, gcTime: 0 });
  const [open, setOpen] = useState<{ id: string; store: SequenceStore }>();
  const [others, setOthers] = useState<readonly Hand[]>([]);
  const record = opened.data;
  useEffect(() => {
    if (!record) return;
    const made = new SequenceStore(record, {
      send: (revision, patch) => api.patchSequence(id, revision, patch),
      fetch: () => api.sequence(id),
      onRefused: (reason) => toast.error(`It was not changed: ${reason}`, { duration: 20_000 }),
      after,
    });
    const deaf = listen(
      `sequences/${id}`,
      () => made.revision,
      ({ revision }) => {
        if (revision <= made.revision) return;
        // one's own are heard, too, before their answer comes; whoever is newest counts
        void api.sequence(id).then(
          (now) => made.hear(now),
          () => undefined,
        );
        void queries.invalidateQueries({ queryKey: ['shots', id] });
      },
      browserPorts(after),
      { hear: setOthers },
    );
    const stay = (e: BeforeUnloadEvent) => made.state.getState().save !== 'idle' && e.preventDefault();
    window.addEventListener('beforeunload', stay);
    setOpen({ id, store: made });
    return () => {
      window.removeEventListener('beforeunload', stay);
      deaf();
      made.stop();
      // what lists show of it is asked for anew
      void queries.invalidateQueries({ queryKey: ['board'] });
    };
  }, [id, record, queries]);
  return { opened, others, store: open?.id === id ? open.store : undefined };
}

/** How the shots of a sequence stand. */
export const useStanding = (id: string) =>
  useQuery({ queryKey: ['shots', id], queryFn: () => api.shots(id), refetchInterval: EVERY_MS, refetchOnWindowFocus: true });
