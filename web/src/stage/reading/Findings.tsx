import { findingWords, seenWords } from '@plinket/core';
import { Check } from 'lucide-react';
import { useDoc, useStage, useView } from '../context.ts';
import { usePlacing, usePreview } from './placing.ts';

/** Findings that nobody has accepted yet. */
export function useOpenFindings() {
  const findings = useView((v) => v.seen?.findings),
    ofSet = useView((v) => v.setSeen?.findings);
  const accepted = useDoc((d) => d.setup.accepted);
  return [...(findings ?? []), ...(ofSet ?? [])].filter((f) => !accepted?.[f.id]);
}

/** What an experienced eye would point at: outlined, mended in one step, or left. */
export function Findings({ nameOf }: { nameOf: (id: string) => string }) {
  const { doc, view } = useStage();
  const seen = useView((v) => v.seen),
    setSeen = useView((v) => v.setSeen);
  const subjects = useDoc((d) => d.setup.subjects);
  const called = (id: string) => subjects.items[id]?.name ?? nameOf(id);
  const accepted = useDoc((d) => d.setup.accepted) ?? {};
  const open = useOpenFindings();
  const show = usePreview();
  const { ask } = usePlacing();
  const left = Object.keys(accepted).length;
  if (!seen && !setSeen)
    return (
      <p className="quiet pt-1" role="status">
        The picture is measured once it is calm enough.
      </p>
    );
  return (
    <div className="min-h-0 flex-1 overflow-y-auto" data-testid="findings">
      <ul>
        {open.map((f) => {
          const { says, leave, mend } = findingWords(f, called);
          return (
            <li
              key={f.id}
              className="flex items-baseline gap-1.5 border-b hairline py-1 leading-snug"
              onMouseEnter={() => view.setState({ pointed: f.cells, dots: f.dots })}
              onMouseLeave={() => view.setState({ pointed: undefined, dots: undefined })}
            >
              <span className="min-w-0 flex-1">{says}</span>
              {(f.mend ?? f.ask) && (
                <button
                  className="btn btn-xs h-6"
                  title={mend}
                  onClick={() => {
                    view.setState({ pointed: undefined, dots: undefined });
                    if (f.ask) ask({ kind: 'pattern', ...f.ask }, f.light);
                    else show({ patch: f.mend!, reached: true, text: `${mend}.` });
                  }}
                >
                  Mend
                </button>
              )}
              <button
                className="btn btn-xs h-6"
                title={leave}
                onClick={() => {
                  view.setState({ pointed: undefined, dots: undefined });
                  doc.getState().change({ accepted: { [f.id]: true } });
                }}
              >
                Leave
              </button>
            </li>
          );
        })}
      </ul>
      {open.length === 0 && (
        <p className="flex items-center gap-1 pt-1">
          <Check size={12} /> Nothing to point at.
        </p>
      )}
      {left > 0 && (
        <button className="quiet pt-1 underline" onClick={() => doc.getState().change({ accepted: null })}>
          {left} left as {left === 1 ? 'it is' : 'they are'}; ask again
        </button>
      )}
      <ul className="quiet pt-1.5 leading-snug" data-testid="seen">
        {(seen ? seenWords(seen.seen) : []).map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </div>
  );
}
