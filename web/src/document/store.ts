import type { SetupRecord } from '@plinket/contract';
import { applyPatch, spreadToTwins, type Patch, type Setup } from '@plinket/core';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { api } from '../api/client.ts';
import { stepBack, stepForward, take, type Step } from './history.ts';
import { Sync, type SaveState } from './sync.ts';

/** The open setup: document, past and future, and how saving goes. */
export interface DocumentState {
  id: string;
  setup: Setup;
  undoSteps: Step[];
  redoSteps: Step[];
  save: SaveState;
  saveReason: string | undefined;
  refused: string | undefined;
  /** Changes the document; changes with the same gesture in quick succession are one step of undo. */
  change(patch: Patch, gesture?: string): void;
  undo(): string | undefined;
  redo(): string | undefined;
}

export type DocumentStore = StoreApi<DocumentState> & { close(): void; settled(): Promise<void> };

const keyOf = (id: string): string => `plinket:unsent:${id}`;

function unsentOf(id: string): Patch | undefined {
  try {
    const kept = localStorage.getItem(keyOf(id));
    return kept ? (JSON.parse(kept) as Patch) : undefined;
  } catch {
    return undefined;
  }
}

/** Opens a setup for work. Changes that an earlier visit could not send are applied and sent first. */
export function openDocument(record: SetupRecord): DocumentStore {
  const left = unsentOf(record.id);
  const store = createStore<DocumentState>((set, get) => {
    const history = () => ({ setup: get().setup, undo: get().undoSteps, redo: get().redoSteps });
    return {
      id: record.id,
      setup: left ? applyPatch(record.document, left) : record.document,
      undoSteps: [],
      redoSteps: [],
      save: 'saved',
      saveReason: undefined,
      refused: undefined,
      change(wish, gesture) {
        const patch = spreadToTwins(get().setup, wish);
        const next = take(history(), patch, gesture, performance.now());
        if (next.setup === get().setup) return;
        set({ setup: next.setup, undoSteps: next.undo, redoSteps: next.redo, refused: undefined });
        sync.add(patch);
      },
      undo() {
        const step = stepBack(history());
        if (!step) return undefined;
        set({ setup: step.history.setup, undoSteps: step.history.undo, redoSteps: step.history.redo });
        sync.add(step.patch);
        return step.words;
      },
      redo() {
        const step = stepForward(history());
        if (!step) return undefined;
        set({ setup: step.history.setup, undoSteps: step.history.undo, redoSteps: step.history.redo });
        sync.add(step.patch);
        return step.words;
      },
    };
  });
  const sync: Sync = new Sync(record, {
    send: (revision, patch) => api.patchSetup(record.id, revision, patch),
    keep: (patch) => {
      if (patch) localStorage.setItem(keyOf(record.id), JSON.stringify(patch));
      else localStorage.removeItem(keyOf(record.id));
    },
    onState: (save, saveReason) => store.setState({ save, saveReason }),
    onRebased: (setup) => store.setState({ setup, undoSteps: [], redoSteps: [] }),
    onRefused: (refused) => store.setState({ refused }),
    wait: (ms) => new Promise((resolve) => setTimeout(resolve, ms)),
  });
  if (left) sync.add(left);
  return Object.assign(store, { close: () => sync.stop(), settled: () => sync.settled() });
}
