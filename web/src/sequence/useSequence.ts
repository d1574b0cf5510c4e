// One sequence: what is said of it, how its shots stand, changes that are shown at once, and the way back from them.
import type { SequenceRecord } from '@plinket/contract';
import { applyPatch, invertPatch, type Patch } from '@plinket/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { anyhow } from '../api/anyhow.ts';
import { api } from '../api/client.ts';
import { browserPorts, listen } from '../document/live.ts';
import { after } from '../document/store.ts';
import { UNTIL_THERE } from '../parts/pages.ts';
import { useSaying } from '../parts/saying.ts';

/** So often it is asked how the shots stand, ms: their own changes are not told here. */
const EVERY_MS = 15_000;
/** Most steps that can be taken back. */
const STEPS = 100;

export const sequenceKey = (id: string) => ['sequence', id] as const;
export const shotsKey = (id: string) => ['shots', id] as const;

interface Step {
  words: string;
  patch: Patch;
}

export function useSequence(id: string) {
  const queries = useQueryClient();
  const say = useSaying();
  const sequence = useQuery({ queryKey: sequenceKey(id), queryFn: () => api.sequence(id), ...UNTIL_THERE });
  const standing = useQuery({
    queryKey: shotsKey(id),
    queryFn: () => api.shots(id),
    refetchInterval: EVERY_MS,
    refetchOnWindowFocus: true,
  });
  const [undo, setUndo] = useState<Step[]>([]),
    [redo, setRedo] = useState<Step[]>([]);
  const record = sequence.data;

  // others' changes
  const revision = useRef(1);
  useEffect(() => {
    if (record) revision.current = record.revision;
  }, [record]);
  const known = record !== undefined;
  useEffect(() => {
    if (!known) return;
    return listen(
      `sequences/${id}`,
      () => revision.current,
      (heard) => {
        if (heard.revision <= revision.current) return;
        void queries.invalidateQueries({ queryKey: sequenceKey(id) });
        void queries.invalidateQueries({ queryKey: shotsKey(id) });
      },
      browserPorts(after),
    );
  }, [id, known, queries]);

  const send = (patch: Patch): void => {
    if (!record) return;
    say<SequenceRecord>({
      name: record.document.name,
      key: sequenceKey(id),
      lists: ['board'],
      after: (now) => ({ ...now, document: applyPatch(now.document, patch) }),
      send: () =>
        anyhow(
          queries.getQueryData<SequenceRecord>(sequenceKey(id))?.revision ?? record.revision,
          (of) => api.patchSequence(id, of, patch),
          () => api.sequence(id),
        ),
    });
  };
  /** Changes the sequence: one step that can be taken back. */
  const change = (patch: Patch, words: string): void => {
    if (!record) return;
    const inverse = invertPatch(record.document, patch);
    setUndo((steps) => [...steps, { words, patch: inverse }].slice(-STEPS));
    setRedo([]);
    send(patch);
  };
  const step = (from: Step[], take: typeof setUndo, give: typeof setRedo): void => {
    const last = from.at(-1);
    if (!last || !record) return;
    take(from.slice(0, -1));
    const inverse = invertPatch(record.document, last.patch);
    give((steps) => [...steps, { words: last.words, patch: inverse }]);
    send(last.patch);
  };
  return {
    sequence,
    standing,
    change,
    undo: { words: undo.at(-1)?.words, take: () => step(undo, setUndo, setRedo) },
    redo: { words: redo.at(-1)?.words, take: () => step(redo, setRedo, setUndo) },
    refresh: () =>
      Promise.all([queries.invalidateQueries({ queryKey: sequenceKey(id) }), queries.invalidateQueries({ queryKey: shotsKey(id) })]),
  };
}
