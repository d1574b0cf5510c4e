import { useDoc, useStage, useView } from '../context.ts';
import { leavePreview } from './placing.ts';

/** Says what a placing did while its result is shown, and asks whether it is kept. */
export function Preview() {
  const stage = useStage();
  const preview = useView((v) => v.preview);
  // once something else was done, or it was undone, there is nothing to decide any more
  const stands = useDoc((d) => preview !== undefined && d.undoSteps.at(-1)?.gesture === preview.gesture);
  if (!preview || !stands) return null;
  const { sides, gesture } = preview;
  const look = (at: 0 | 1) => {
    if (!sides || sides.at === at) return;
    stage.doc.getState().change(sides.to[at], gesture);
    stage.view.setState({ preview: { ...preview, sides: { ...sides, at } } });
  };
  return (
    <div
      className="absolute inset-x-3 bottom-2 z-10 flex items-center gap-2 rounded bg-base-100/95 px-3 py-1.5 text-xs shadow-lg"
      role="status"
      data-testid="preview"
    >
      <p className={`max-h-24 min-w-0 flex-1 overflow-y-auto leading-snug ${preview.reached ? '' : 'text-warning'}`}>{preview.text}</p>
      {sides && (
        <div className="join" role="group" aria-label="Looked at">
          {sides.words.map((words, side) => (
            <button
              key={words}
              className={`btn join-item btn-xs ${sides.at === side ? 'bg-base-content text-base-100' : ''}`}
              aria-pressed={sides.at === side}
              onClick={() => look(side as 0 | 1)}
            >
              {words}
            </button>
          ))}
        </div>
      )}
      <button className="btn btn-primary btn-xs" onClick={() => stage.view.setState({ preview: undefined })}>
        Keep
      </button>
      <button className="btn btn-xs" onClick={() => leavePreview(stage)}>
        Leave
      </button>
    </div>
  );
}
