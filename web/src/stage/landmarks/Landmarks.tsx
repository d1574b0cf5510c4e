import { LANDMARK_NAMES, otherSide, type Subject } from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { Check, FlipHorizontal2, Minus } from 'lucide-react';
import { lazy, Suspense, useEffect, useState } from 'react';
import { toast } from 'sonner';
import type { HeadReport } from '../../engine/messages.ts';
import { useStage, useView } from '../context.ts';
import { ASKED, confirm, confirmAll, confirmed, landmarksPatch, leaveOut, mirrorOver, put, startMarking, type Marking } from './marking.ts';

const HeadView = lazy(() => import('./HeadView.tsx').then(({ HeadView: component }) => ({ default: component })));

const CAPITAL = (words: string): string => words[0]!.toUpperCase() + words.slice(1);

/** The list of landmarks; the one that is asked for is marked, any other can be asked for again. */
function List({ marking, ask }: { marking: Marking; ask(name: Marking['now']): void }) {
  return (
    <ol className="min-h-0 flex-1 overflow-auto" data-testid="landmark-list">
      {LANDMARK_NAMES.map((name) => {
        const { state } = marking.marks[name];
        return (
          <li key={name}>
            <button
              className={`flex w-full items-center gap-2 rounded-sm px-1 py-[3px] text-left ${name === marking.now ? 'bg-warning text-black' : 'hover:bg-base-300'}`}
              aria-current={name === marking.now ? 'step' : undefined}
              data-state={state}
              data-testid={`landmark-${name}`}
              onClick={() => ask(name)}
            >
              <span className="w-3.5 shrink-0">
                {state === 'confirmed' ? <Check size={13} /> : state === 'absent' ? <Minus size={13} /> : '·'}
              </span>
              <span className={`truncate ${state === 'absent' ? 'line-through opacity-60' : ''}`}>
                {CAPITAL(ASKED[name].words.split(/[:,]/)[0]!)}
              </span>
            </button>
          </li>
        );
      })}
    </ol>
  );
}

/** Marking one head, landmark by landmark. */
function Marker({ id, subject, report, close }: { id: string; subject: Subject; report: HeadReport; close(): void }) {
  const { doc } = useStage();
  const { head } = subject;
  const [marking, setMarking] = useState(() => startMarking(subject.landmarks, report.given, report.proposed));
  const [both, setBoth] = useState(true);
  const { now } = marking;
  const other = now && otherSide(now);
  const keep = (m: Marking) => {
    const points = confirmed(m);
    if (!Object.keys(points).length) return close();
    doc.getState().change(landmarksPatch(id, subject, points));
    toast(`${Object.keys(points).length} landmarks of ${subject.name} are kept`, {
      action: { label: 'Undo', onClick: () => doc.getState().undo() },
    });
    close();
  };
  const left = LANDMARK_NAMES.filter((n) => marking.marks[n].state === 'proposed').length;

  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey) return;
      const act = { Enter: confirm, Delete: leaveOut, m: (m: Marking) => mirrorOver(m, head) }[e.key];
      if (e.key === 'Escape') close();
      // a button that has the focus is pressed by Enter as ever
      else if (act && !(e.key === 'Enter' && e.target instanceof HTMLButtonElement)) setMarking(act);
      else return;
      e.preventDefault();
      e.stopPropagation();
    };
    // before the Stage's own keys
    window.addEventListener('keydown', key, true);
    return () => window.removeEventListener('keydown', key, true);
  }, [head, close]);

  return (
    <div className="grid h-[560px] grid-cols-[minmax(0,1fr)_250px] gap-4">
      <div className="relative min-h-0 cursor-crosshair bg-[oklch(30%_0_0)]" data-testid="head-view">
        <Suspense fallback={<p className="quiet p-4">opening the head …</p>}>
          <HeadView report={report} head={head} marking={marking} onPoint={(p) => setMarking((m) => put(m, p, both ? head : undefined))} />
        </Suspense>
        <p
          className="pointer-events-none absolute inset-x-2 top-2 rounded bg-warning px-2 py-1 text-center text-xs font-semibold text-black"
          role="status"
        >
          {now
            ? `${LANDMARK_NAMES.indexOf(now) + 1} of ${LANDMARK_NAMES.length}: the ${ASKED[now].words}`
            : 'All are answered. Keep them, or go back to one.'}
        </p>
      </div>
      <div className="flex min-h-0 flex-col gap-2">
        <List marking={marking} ask={(name) => setMarking((m) => ({ ...m, now: name }))} />
        <label
          className="flex items-center gap-2"
          title="A landmark that is put on one side is put on the other too, until that is confirmed"
        >
          <input type="checkbox" className="checkbox checkbox-xs" checked={both} onChange={(e) => setBoth(e.target.checked)} />
          Left and right together
        </label>
        <div className="grid grid-cols-2 gap-1.5">
          <button
            className="btn btn-sm btn-primary col-span-2"
            disabled={!now || !marking.marks[now].point}
            autoFocus
            data-testid="landmark-confirm"
            onClick={() => setMarking(confirm)}
          >
            It is there <kbd className="kbd kbd-xs">Enter</kbd>
          </button>
          <button className="btn btn-sm" disabled={!now} data-testid="landmark-absent" title="Delete" onClick={() => setMarking(leaveOut)}>
            It has none
          </button>
          <button
            className="btn btn-sm"
            disabled={!other || !marking.marks[other].point}
            data-testid="landmark-mirror"
            title="M"
            onClick={() => setMarking((m) => mirrorOver(m, head))}
          >
            <FlipHorizontal2 size={13} /> Mirror
          </button>
        </div>
        <div className="flex justify-end gap-1.5 border-t hairline pt-2">
          <button className="btn btn-sm" onClick={close}>
            Leave it
          </button>
          <button className="btn btn-sm" data-testid="landmarks-keep" onClick={() => keep(left ? confirmAll(marking) : marking)}>
            {left ? `Confirm ${left === LANDMARK_NAMES.length ? 'all' : `the other ${left}`}, keep` : 'Keep them'}
          </button>
        </div>
      </div>
    </div>
  );
}

/** The dialog in which a character's landmarks are picked, mirrored and confirmed. */
export function Landmarks() {
  const { engine, view, doc } = useStage();
  const id = useView((v) => v.marking);
  const subject = id === undefined ? undefined : doc.getState().setup.subjects.items[id];
  const report = useQuery({
    queryKey: ['head', subject?.asset, subject?.head],
    queryFn: () => engine.head(subject!.asset, subject!.name, subject!.head),
    enabled: subject !== undefined,
    gcTime: 0,
  });
  if (!subject || id === undefined) return null;
  const close = () => view.setState({ marking: undefined });
  return (
    <dialog open className="modal modal-open" aria-label={`Landmarks of ${subject.name}`}>
      <div className="modal-box max-w-[900px] border hairline p-4">
        <h2 className="mb-2 text-base font-semibold">
          Landmarks of {subject.name}{' '}
          <span className="quiet text-xs font-normal">click on the head to correct; drag to turn it. Left is the figure’s own left.</span>
        </h2>
        {report.isPending && <p role="status">Looking at the head …</p>}
        {report.isError && (
          <div role="alert">
            <p className="mb-3">The head cannot be shown: {report.error.message}</p>
            <button className="btn btn-sm" onClick={close}>
              Close
            </button>
          </div>
        )}
        {report.data && <Marker key={id} id={id} subject={subject} report={report.data} close={close} />}
      </div>
    </dialog>
  );
}
