import type { SyncState } from '../document/sync.ts';

/** How saving goes, in words. */
export const SAVE_WORDS: { [state in SyncState]: string } = {
  idle: 'saved',
  waiting: 'saving …',
  sending: 'saving …',
  offline: 'not saved yet, trying again',
  refused: 'saved, but for what was refused',
};
