// One sequence by its id: opened once, kept up to date with what others do, and how its shots stand.
import type { Hand } from '@plinket/contract';
import type { Patch } from '@plinket/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { browserPorts, listen } from '../document/live.ts';
import { after } from '../document/store.ts';
import { UNTIL_THERE } from '../parts/pages.ts';
import { SequenceStore } from './store.ts';
import { newId } from '../parts/new-id.ts';

/** So often it is asked how the shots stand, ms: their own changes are not told here. */
const EVERY_MS = 15_000,
  ANEW_MS = 500;

/** Whether a change takes shots in or out: what it says of one changes nothing of how that stands. */
const changesShots = (patch: Patch): boolean =>
  Object.values((patch['shots'] as { items?: Patch } | undefined)?.items ?? {}).some(
    (shot) => shot === null || (typeof shot === 'object' && 'code' in shot && 'rank' in shot),
  );

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
      send: (change) => api.patchSequence(id, change),
      newId,
      fetch: () => api.sequence(id),
      onRefused: (reason) => toast.error(`It was not changed: ${reason}`, { duration: 20_000 }),
      after,
    });
    let waiting: ReturnType<typeof setTimeout> | undefined;
    const anew = (): void => {
      waiting ??= setTimeout(() => {
        waiting = undefined;
        void queries.invalidateQueries({ queryKey: ['shots', id] });
      }, ANEW_MS);
    };
    const deaf = listen(
      `sequences/${id}`,
      () => made.revision,
      (change) => {
        made.hear(change);
        // shots that came or went stand somehow, too; many that come at once are asked for once
        if (changesShots(change.patch as Patch)) anew();
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
      clearTimeout(waiting);
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
