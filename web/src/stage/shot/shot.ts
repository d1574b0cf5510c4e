// The shot that is open on the Stage: its sequence, its neighbours, and what it departs in.
import { orderOf, type Sequence, type Shot } from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue } from 'react';
import { api } from '../../api/client.ts';
import { useDoc } from '../context.ts';

/** So often it is asked for the sequence, ms: it is changed elsewhere. */
const EVERY_MS = 30_000;

interface Neighbour {
  id: string;
  shot: Shot;
}
export interface OpenShot {
  sequence: { id: string; document: Sequence };
  /** What is said of this shot; nothing where this is the setup that the shots follow. */
  shot?: Shot;
  previous?: Neighbour;
  next?: Neighbour;
}

/** The sequence that this setup belongs to; nothing where it is of none. */
export function useShot(): OpenShot | undefined {
  const id = useDoc((d) => d.id);
  const { data } = useQuery({ queryKey: ['sequence-of', id], queryFn: () => api.sequenceOf(id), refetchInterval: EVERY_MS });
  if (!data) return undefined;
  const { shots } = data.document,
    order = orderOf(shots),
    at = order.indexOf(id);
  if (at < 0) return { sequence: data };
  const neighbour = (of: number): Neighbour | undefined =>
    order[of] === undefined ? undefined : { id: order[of], shot: shots.items[order[of]]! };
  const previous = neighbour(at - 1),
    next = neighbour(at + 1);
  return { sequence: data, shot: shots.items[id]!, ...(previous ? { previous } : {}), ...(next ? { next } : {}) };
}

/** This setup, though not at every move of a hand, and the one that it follows as it stands in it; nothing until that is known. */
export function useFollowed() {
  const setup = useDeferredValue(useDoc((d) => d.setup));
  const { follows } = setup;
  const base = useQuery({
    queryKey: ['setup-at', follows?.setup, follows?.revision],
    queryFn: () => api.setupAt(follows!.setup, follows!.revision),
    enabled: follows !== undefined,
    staleTime: Infinity,
  });
  return { setup, base: base.data?.document, error: base.error };
}
