import { Redo2, Undo2 } from 'lucide-react';
import { useEffect } from 'react';
import { toast } from 'sonner';
import { useStore } from 'zustand';
import type { DocumentStore } from '../document/store.ts';
import type { SyncState } from '../document/sync.ts';

const SAVE_WORDS: { [state in SyncState]: string } = {
  idle: 'saved',
  waiting: 'saving …',
  sending: 'saving …',
  offline: 'not saved yet, trying again',
  refused: 'saved, but for what was refused',
};

/** How saving goes, and the way back and forth: what the headers of all pages of an open document have. */
export function DocumentTools({ doc }: { doc: DocumentStore }) {
  const save = useStore(doc, (d) => d.save),
    reason = useStore(doc, (d) => d.saveReason);
  const undo = useStore(doc, (d) => d.undoSteps.at(-1)?.words),
    redo = useStore(doc, (d) => d.redoSteps.at(-1)?.words);
  return (
    <>
      <span
        className={`caps ${save === 'offline' ? 'text-warning' : 'quiet'}`}
        role="status"
        data-testid="save-state"
        data-state={save}
        title={reason}
      >
        {SAVE_WORDS[save]}
      </span>
      <button
        className="btn btn-ghost btn-sm btn-square"
        disabled={!undo}
        title={undo ? `Undo ${undo}` : 'Nothing to undo'}
        aria-label="Undo"
        onClick={() => doc.getState().undo()}
      >
        <Undo2 size={15} />
      </button>
      <button
        className="btn btn-ghost btn-sm btn-square"
        disabled={!redo}
        title={redo ? `Do again ${redo}` : 'Nothing to do again'}
        aria-label="Redo"
        onClick={() => doc.getState().redo()}
      >
        <Redo2 size={15} />
      </button>
    </>
  );
}

/** What the document has to say (a change that the server did not take, with field and reason) is said once. */
export function Notices({ doc }: { doc: DocumentStore }) {
  const notice = useStore(doc, (d) => d.notice);
  useEffect(() => {
    if (notice) toast.error(notice.text);
  }, [notice]);
  return null;
}
