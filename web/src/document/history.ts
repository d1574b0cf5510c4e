import { applyPatch, describePatch, diff, invertPatch, isEmptyPatch, type Patch, type Setup } from '@plinket/core';

/** One step that can be undone: the patches both ways, and what it did in words. */
export interface Step {
  patch: Patch;
  inverse: Patch;
  words: string;
  /** Changes of one gesture (a drag, a held key) are one step. */
  gesture: string | undefined;
}

/** What a step did; one without words would seem to be none. */
const wordsOf = (setup: Setup, patch: Patch): string => describePatch(setup, patch) || 'a change';

/** The document with its past and future, as plain data. */
export interface History {
  setup: Setup;
  undo: Step[];
  redo: Step[];
}

/** Applies a patch as a step; joins it to the last step when both are one gesture, however slow. An empty change is no step. */
export function take(history: History, patch: Patch, gesture?: string): History {
  const inverse = invertPatch(history.setup, patch);
  const setup = applyPatch(history.setup, patch);
  if (isEmptyPatch(patch) || JSON.stringify(setup) === JSON.stringify(history.setup)) return history;
  const last = history.undo.at(-1);
  if (last && gesture !== undefined && last.gesture === gesture) {
    // by the documents at both ends: patches alone cannot say that a thing was taken away and another put in its place
    const before = applyPatch(history.setup, last.inverse);
    const whole = diff(before, setup),
      back = diff(setup, before);
    // a hand that came back to where it began, or took its drag back, did nothing
    if (isEmptyPatch(whole)) return { setup, undo: history.undo.slice(0, -1), redo: [] };
    return {
      setup,
      undo: [...history.undo.slice(0, -1), { patch: whole, inverse: back, words: wordsOf(before, whole), gesture }],
      redo: [],
    };
  }
  return { setup, undo: [...history.undo, { patch, inverse, words: wordsOf(history.setup, patch), gesture }], redo: [] };
}

/** One step back; also answers the patch that does it, to be saved like any other. */
export function stepBack(history: History): { history: History; patch: Patch; words: string } | undefined {
  const step = history.undo.at(-1);
  if (!step) return undefined;
  return {
    history: { setup: applyPatch(history.setup, step.inverse), undo: history.undo.slice(0, -1), redo: [...history.redo, step] },
    patch: step.inverse,
    words: step.words,
  };
}

/** One step forward again. */
export function stepForward(history: History): { history: History; patch: Patch; words: string } | undefined {
  const step = history.redo.at(-1);
  if (!step) return undefined;
  return {
    history: {
      setup: applyPatch(history.setup, step.patch),
      undo: [...history.undo, { ...step, gesture: undefined }],
      redo: history.redo.slice(0, -1),
    },
    patch: step.patch,
    words: step.words,
  };
}

/** Leaves the last step out: it can no longer be taken back. */
export const dropUndo = (history: History): History => ({ ...history, undo: history.undo.slice(0, -1) });
/** Leaves the next step out: it can no longer be taken again. */
export const dropRedo = (history: History): History => ({ ...history, redo: history.redo.slice(0, -1) });
