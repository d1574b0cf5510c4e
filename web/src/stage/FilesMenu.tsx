import { ChevronDown, X } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { usePreview } from './reading/placing.ts';
import { useStage } from './context.ts';

/** What became of a file, line by line. */
interface Report {
  title: string;
  lines: string[];
}

/** What a file did not carry over: nothing is lost without a word. */
function FileReport({ title, lines, close }: Report & { close(): void }) {
  return (
    <dialog open className="modal modal-open" aria-label={title} onClick={close} data-testid="file-report">
      <div className="modal-box max-w-lg border hairline" onClick={(e) => e.stopPropagation()}>
        <h2 className="flex items-center gap-2 pb-2 text-base font-semibold">
          <span className="flex-1">{title}</span>
          <button className="btn btn-ghost btn-xs btn-square" aria-label="Close" autoFocus onClick={close}>
            <X size={14} />
          </button>
        </h2>
        <ul className="max-h-80 list-disc overflow-y-auto pl-5" tabIndex={0} aria-label="What became of it">
          {lines.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      </div>
    </dialog>
  );
}

/** .usda out and in: for other renderers, and from them. */
function useUsd(tell: (report: Report) => void) {
  const { doc, engine, save } = useStage();
  const show = usePreview();
  const write = () => {
    const { setup } = doc.getState();
    void engine
      .writeUsd(setup)
      .then(({ text, report }) => {
        save(new Blob([text], { type: 'text/plain' }), `${setup.name}.usda`);
        tell({ title: 'Written. USD has no words for:', lines: report });
      })
      .catch((error: Error) => toast.error(`No .usda: ${error.message}`));
  };
  const read = async (file: File) => {
    try {
      const { patch, lights, camera, changed, left } = await engine.readUsd(doc.getState().setup, await file.text());
      const what = `${lights} light${lights === 1 ? '' : 's'}${camera ? ' and the camera' : ''} of ${file.name}`;
      if (Object.keys(patch).length === 0) toast(`${what}: all is as it was.`);
      else show({ patch, text: `${what}.`, reached: true });
      if (changed.length + left.length)
        tell({
          title: `${file.name}: what was changed or left`,
          lines: [...changed.map((c) => `Changed: ${c}.`), ...left.map((l) => `Left: ${l}.`)],
        });
    } catch (error) {
      toast.error(`${file.name} was not read: ${(error as Error).message}`);
    }
  };
  return { write, read };
}

/** Everything that goes out as a file, and lights that come in. */
export function FilesMenu() {
  const { lightingPlan, downloadContactSheet, view } = useStage();
  const [open, setOpen] = useState(false);
  const [report, setReport] = useState<Report>();
  const input = useRef<HTMLInputElement>(null);
  const { write, read } = useUsd(setReport);
  useEffect(() => {
    if (!open) return;
    const close = (e: KeyboardEvent) => {
      if (e.key === 'Escape') setOpen(false);
    };
    // what lies half under the menu is out of reach of pointer and keyboard until it is closed
    const rest = document.querySelector('main');
    rest?.toggleAttribute('inert', true);
    window.addEventListener('keydown', close);
    return () => {
      rest?.toggleAttribute('inert', false);
      window.removeEventListener('keydown', close);
    };
  }, [open]);
  const items: [string, string, () => void][] = [
    [
      'Transparent PNG …',
      'The figure, the shadows on what catches them, or both',
      () => view.setState({ sheet: 'stage', stageLeaf: 'catcher' }),
    ],
    ['Contact sheet of shares', 'Every light alone and all together', downloadContactSheet],
    [
      'Lighting plan as PDF',
      'PLAN and SIDE to scale, every light with its numbers, the picture: one page to print',
      () => lightingPlan('pdf'),
    ],
    ['Lighting plan as SVG', 'The same as a drawing', () => lightingPlan('svg')],
    ['Scene as .usda', 'Lights with their links, camera, meshes and surfaces for other renderers', write],
    ['Lights from .usda …', 'Lights, camera and links that somebody else wrote', () => input.current?.click()],
  ];
  return (
    <div className="relative -ml-3">
      <button
        className="btn btn-sm btn-square"
        aria-label="More files"
        title="More files"
        aria-expanded={open}
        aria-haspopup="menu"
        onClick={() => setOpen(!open)}
      >
        <ChevronDown size={14} />
      </button>
      {/* a press beside an open menu closes it and does nothing else */}
      {open && <div className="fixed inset-0 z-30" aria-hidden onPointerDown={() => setOpen(false)} />}
      {open && (
        <ul role="menu" className="absolute right-0 z-40 mt-1 w-56 rounded border hairline bg-base-100 py-1 shadow-lg" aria-label="Files">
          {items.map(([label, title, run]) => (
            <li key={label} role="none">
              <button
                role="menuitem"
                className="block w-full px-3 py-1 text-left hover:bg-base-300"
                title={title}
                onClick={() => {
                  setOpen(false);
                  run();
                }}
              >
                {label}
              </button>
            </li>
          ))}
        </ul>
      )}
      <input
        ref={input}
        type="file"
        accept=".usda"
        className="hidden"
        aria-label="Lights from .usda"
        data-testid="usd-input"
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = '';
          if (file) void read(file);
        }}
      />
      {report && report.lines.length > 0 && <FileReport {...report} close={() => setReport(undefined)} />}
    </div>
  );
}
