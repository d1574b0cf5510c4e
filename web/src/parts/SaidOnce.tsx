// A word that lets somebody or something in: it is shown once, to be copied, and is not told again.
import type { ReactNode } from 'react';
import { toast } from 'sonner';

/** Copies a text. @throws Error where this browser does not, as on a page that is not secure */
async function copy(text: string): Promise<void> {
  // older browsers, and pages over plain HTTP, have no clipboard
  const clipboard = navigator.clipboard as Clipboard | undefined;
  if (!clipboard) throw new Error('no clipboard');
  await clipboard.writeText(text);
}

export function SaidOnce({
  name,
  title,
  said,
  testId,
  leave,
  children,
}: {
  name: string;
  title: string;
  /** What is copied. */
  said: string;
  testId: string;
  leave(): void;
  children: ReactNode;
}) {
  return (
    <dialog open className="modal modal-open" aria-label={name} onKeyDown={(e) => e.key === 'Escape' && leave()}>
      <div className="modal-box w-140">
        <h2 className="mb-2 text-base font-semibold">{title}</h2>
        <p className="mb-2">{children}</p>
        <code className="block rounded bg-base-300 p-2 text-2xs break-all select-all" data-testid={testId}>
          {said}
        </code>
        <div className="mt-3 flex justify-end gap-2">
          <button
            className="btn btn-sm"
            onClick={() =>
              void copy(said).then(
                () => toast('Copied.'),
                () => toast.error('This browser does not copy here; mark it and copy it by hand.'),
              )
            }
          >
            Copy
          </button>
          <button className="btn btn-primary btn-sm" autoFocus onClick={leave}>
            Done
          </button>
        </div>
      </div>
    </dialog>
  );
}
