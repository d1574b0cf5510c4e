// Kits that this setup is tied to: what changed in them since is offered, and taken over only where it is wished.
import type { KitRecord } from '@plinket/contract';
import { diff, kitOf, offerOf, type Kit, type Offer, type Patch, type Setup, type Tie } from '@plinket/core';
import { useQueries, useQueryClient } from '@tanstack/react-query';
import { useRef } from 'react';
import { toast } from 'sonner';
import { api, ApiProblem } from '../../api/client.ts';
import { changeKit } from '../../kits/changing.ts';
import { KITS } from '../../kits/words.ts';
import { useGestures } from '../../parts/gestures.ts';
import { letters } from '../../parts/letters.ts';
import { useDoc, useStage } from '../context.ts';
import { leavePreview } from '../reading/placing.ts';
import { seenHere } from './shown.ts';

/** How often kits that a setup is tied to are asked for, ms. */
const EVERY_MS = 60_000;

/** How a tie stands: the kit is as it was, has changed, or is gone. */
export interface TieState {
  id: string;
  tie: Tie;
  /** The kit as it is, and as it was taken over: only where it has changed. */
  changed: { then: Kit; now: Kit; revision: number } | undefined;
  gone: boolean;
}

/** Every kit that this setup is tied to, and what became of it. */
export function useTies(): TieState[] {
  const ties = useDoc((d) => d.setup.ties);
  const list = Object.entries(ties ?? {}).filter(([, { offers }]) => offers);
  const now = useQueries({
    queries: list.map(([id]) => ({ queryKey: [...KITS, id], queryFn: () => api.kit(id), refetchInterval: EVERY_MS, staleTime: 5000 })),
  });
  const then = useQueries({
    queries: list.map(([id, { revision }], i) => ({
      queryKey: [...KITS, id, 'at', revision],
      queryFn: () => api.kitAt(id, revision),
      enabled: (now[i]?.data?.revision ?? 0) > revision,
      staleTime: Infinity,
    })),
  });
  return list.map(([id, tie], i): TieState => {
    const record = now[i]?.data,
      was = then[i]?.data;
    const changed =
      record && was && record.revision > tie.revision ? { then: was.document, now: record.document, revision: record.revision } : undefined;
    const error = now[i]?.error;
    return { id, tie, changed, gone: error instanceof ApiProblem && (error.problem.status === 404 || error.problem.status === 410) };
  });
}

/** What can be done about a tie. */
export function useTying() {
  const stage = useStage();
  const queries = useQueryClient();
  const newGesture = useGestures();
  // ids of what comes new are the same as long as one offer is looked at
  const own = useRef(letters());
  const offer = (setup: Setup, id: string, { then, now, revision }: NonNullable<TieState['changed']>): Offer =>
    offerOf(setup, id, then, now, revision, own.current);
  const change = (patch: Patch) => stage.doc.getState().change(patch);
  return {
    offer,
    /** Shows the offer in the picture, to be kept or left. */
    show(id: string, changed: NonNullable<TieState['changed']>): void {
      leavePreview(stage);
      const { patch, words, left } = offer(stage.doc.getState().setup, id, changed),
        gesture = newGesture();
      stage.doc.getState().change(patch, gesture);
      const not = left.length ? ` Locked or not here: ${left.join(', ')}.` : '';
      stage.view.setState({
        preview: { gesture, text: `${changed.now.name}: ${words || 'nothing that is seen'}.${not}`, reached: left.length === 0 },
      });
    },
    /** Stays as it is here, and is not asked again until the kit changes once more. */
    leave: (id: string, { revision }: NonNullable<TieState['changed']>): void => change({ ties: { [id]: { revision } } }),
    untie: (id: string): void => change({ ties: { [id]: { offers: false } } }),
    tie: (id: string, tie: Tie): void => change({ ties: { [id]: tie } }),
    /** Makes of the kit what stands here in its place; other setups that are tied to it are offered the difference. */
    async takeAnew(record: KitRecord): Promise<void> {
      const { setup } = stage.doc.getState(),
        { id, document: before } = record,
        tie = setup.ties![id]!;
      const { name } = before;
      try {
        const taken = kitOf(setup, tie.parts, { ...before, ...(await seenHere(stage, tie.parts.includes('rig'))) }, tie.ids);
        const kit: Kit = { ...taken.kit, parts: { ...before.parts, ...taken.kit.parts } };
        const { revision } = await changeKit(record, diff(before, kit));
        change({ ties: { [id]: diff(tie, { ...tie, name, revision, ids: taken.ids }) } });
        await queries.invalidateQueries({ queryKey: KITS });
        toast(`${name} is as here now${taken.left.length ? `, without ${taken.left.join('; ')}` : ''}`, {
          duration: 10_000,
          action: {
            label: 'Undo',
            onClick: () =>
              void changeKit({ id, revision }, diff(kit, before))
                .then(() => queries.invalidateQueries({ queryKey: KITS }))
                .catch((error: Error) => toast.error(`${name} was not changed back: ${error.message}`)),
          },
        });
      } catch (error) {
        toast.error(`${name} was not taken anew: ${(error as Error).message}`);
      }
    },
  };
}
