import type { AcceptedChange, Hand, SetupRecord } from '@plinket/contract';
import {
  applyPatch,
  choicePatch,
  describePatch,
  diff,
  isEmptyPatch,
  parseSetup,
  spreadToTwins,
  valueAt,
  type Conflict,
  type Patch,
  type Setup,
} from '@plinket/core';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { api } from '../api/client.ts';
import { dropRedo, dropUndo, stepBack, stepForward, take, type History, type Step } from './history.ts';
import type { Company } from './live.ts';
import { Holder } from './holder.ts';
import { Sync, type SyncPorts, type SyncState, type Unsent } from './sync.ts';
import { broughtUpToDate, type UnsentShelf } from './unsent.ts';
import { newId } from '../parts/new-id.ts';

/** Something that the artist must hear; each is said once. */
export interface Notice {
  text: string;
}

/** A value that two changed at once: what each made of it, and what both made it of. */
export interface AtOdds extends Conflict {
  /** Names the place. */
  key: string;
  by: string | undefined;
  base: Setup;
}

/** What a side of what is at odds does, in words. */
export const oddsWords = ({ base, path, ...sides }: AtOdds, side: 'mine' | 'theirs'): string =>
  describePatch(base, choicePatch(base, path, sides[side])) || 'as it was';

/** The open setup: document, past and future, and how saving goes. */
export interface DocumentState {
  id: string;
  setup: Setup;
  /** Who else has it, or another shot of its sequence, open, and which lights they have in hand. */
  others: Hand[];
  undoSteps: Step[];
  redoSteps: Step[];
  save: SyncState;
  saveReason: string | undefined;
  notice: Notice | undefined;
  /** What others changed at the same moment as this page, the latest last, until it is decided. */
  atOdds: AtOdds[];
  /** Changes the document; changes of one gesture that follow each other are one step of undo. */
  change(patch: Patch, gesture?: string): void;
  /** Takes back what a gesture has done so far, as if it had never been. */
  takeBack(gesture: string): void;
  /** Puts the one or the other of what is at odds into the setup, as one step of undo; `settleOdds` leaves it at what stands. */
  decide(key: string, side: 'mine' | 'theirs'): void;
  settleOdds(key: string): void;
  undo(): string | undefined;
  redo(): string | undefined;
}

export type DocumentStore = StoreApi<DocumentState> & {
  close(): void;
  settled(): Promise<void>;
  /** Says to the others which lights are in hand here, and in which sequence. */
  hold(lights: readonly string[], sequence?: string): void;
};

/** Hears of others' changes to a setup from a revision on; answers what ends it. */
export type Listening = (id: string, revision: () => number, hear: (change: AcceptedChange) => void, company: Company) => () => void;

const isSetup = (value: unknown): boolean => {
  try {
    parseSetup(value);
    return true;
  } catch {
    return false;
  }
};

/** Calls back after a while, unless what it answers is called before. */
export const after = (ms: number, then: () => void): (() => void) => {
  const timer = setTimeout(then, ms);
  return () => clearTimeout(timer);
};

/** What earlier visits left, where it still leads to a setup. */
function fitting(left: readonly Unsent[], document: Setup): Unsent[] | undefined {
  try {
    return broughtUpToDate(left, document);
  } catch {
    return undefined;
  }
}

/** Why a step can no longer be taken: others have changed what it needs. */
const impossible = (words: string, verb: string): string => `“${words}” can no longer be ${verb}: what it changed is gone.`;

/** Opens a setup for work. Changes that earlier visits could not send are applied and sent first. */
export function openDocument(record: SetupRecord, shelf: UnsentShelf, live?: Listening): DocumentStore {
  const store = createStore<DocumentState>((set, get) => {
    const history = (): History => ({ setup: get().setup, undo: get().undoSteps, redo: get().redoSteps });
    const show = ({ setup, undo, redo }: History): void => set({ setup, undoSteps: undo, redoSteps: redo });
    /** Takes the nearest step that still does something and leads to a setup; one that others have made impossible is said. */
    const walk = (step: typeof stepBack, leave: typeof dropUndo, verb: string): string | undefined => {
      for (let from = history(); ;) {
        const next = step(from);
        if (!next) {
          show(from);
          return undefined;
        }
        const does = !isEmptyPatch(diff(from.setup, next.history.setup));
        if (does && isSetup(next.history.setup)) {
          show(next.history);
          sync.add(next.patch);
          return next.words;
        }
        if (does) say(impossible(next.words, verb));
        from = leave(from);
      }
    };
    const did = (wish: Patch, gesture?: string): void => {
      const patch = spreadToTwins(get().setup, wish);
      const next = take(history(), patch, gesture);
      if (next.setup === get().setup) return;
      show(next);
      sync.add(patch);
    };
    return {
      id: record.id,
      setup: record.document,
      others: [],
      undoSteps: [],
      redoSteps: [],
      save: 'idle',
      saveReason: undefined,
      notice: undefined,
      atOdds: [],
      change(wish, gesture) {
        did(wish, gesture);
        // a hand that goes on changes what it has made of it
        const { atOdds, setup } = get();
        if (atOdds.length)
          set({ atOdds: atOdds.map((o) => (valueAt(wish, o.path) === undefined ? o : { ...o, mine: valueAt(setup, o.path) })) });
      },
      takeBack(gesture) {
        if (get().undoSteps.at(-1)?.gesture !== gesture) return;
        const next = stepBack(history());
        if (!next) return;
        show({ ...next.history, redo: [] });
        sync.add(next.patch);
      },
      decide(key, side) {
        const odds = get().atOdds.find((o) => o.key === key);
        if (!odds) return;
        const patch = choicePatch(get().setup, odds.path, odds[side]);
        if (isSetup(applyPatch(get().setup, patch))) did(patch);
        else say(`“${oddsWords(odds, side)}” does not fit the setup any more.`);
      },
      settleOdds: (key) => set({ atOdds: get().atOdds.filter((o) => o.key !== key) }),
      undo: () => walk(stepBack, dropUndo, 'undone'),
      redo: () => walk(stepForward, dropRedo, 'done again'),
    };
  });
  const say = (text: string): void => store.setState({ notice: { text } });
  shelf.onFailure = () => say('This browser keeps nothing for this page: what is not saved yet would be lost by a reload. Saving goes on.');
  const ports: SyncPorts = {
    send: (change) => api.patchSetup(record.id, change),
    fetch: () => api.setup(record.id),
    keep: (unsent) => shelf.keep(unsent),
    onState: (save, saveReason) => store.setState({ save, saveReason }),
    onRebased: (setup) => store.setState({ setup }),
    onConflict: (found, base, by) => {
      const { atOdds } = store.getState();
      const now = found.map((c) => {
        const key = c.path.join('/');
        // theirs may come in several changes: both sides are told from where they parted
        return { ...c, by, key, base: atOdds.find((o) => o.key === key)?.base ?? base };
      });
      store.setState({ atOdds: [...atOdds.filter((o) => !now.some((n) => n.key === o.key)), ...now] });
    },
    onRefused: (reason) => say(`A change was not kept: ${reason}`),
    newId,
    after,
  };
  const left = fitting(shelf.left, record.document);
  const sync = new Sync(record, ports, left);
  if (left) {
    store.setState({ setup: sync.document() });
    sync.resume();
  } else {
    shelf.setAside();
    say('Changes of an earlier visit do not fit this setup any more; they were left out.');
  }
  const holder = new Holder((holding) => api.hold(record.id, holding), after);
  const deaf = live?.(
    record.id,
    () => sync.revision,
    (change) => sync.hear(change),
    { client: holder.client, hear: (others) => store.setState({ others }), answered: () => holder.say() },
  );
  const nudge = (): void => sync.nudge();
  window.addEventListener('online', nudge);
  return Object.assign(store, {
    close: () => {
      window.removeEventListener('online', nudge);
      sync.stop();
      holder.stop();
      deaf?.();
      shelf.close();
    },
    settled: () => sync.settled(),
    hold: (lights: readonly string[], sequence?: string) => holder.hold(lights, sequence),
  });
}
