// Balance after rendering: levels, colours, on and off, and look of pictures that are finished. No ray is traced.
import type { Job } from '@plinket/contract';
import type { Balance } from '@plinket/core';
import { useQueryClient } from '@tanstack/react-query';
import { Download, Redo2, Send, Undo, Undo2 } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { labApi } from '../../api/lab.ts';
import { PageHeader } from '../../parts/PageHeader.tsx';
import { save } from '../../parts/save.ts';
import { jobTitle } from '../words.ts';
import { writeBack } from './back.ts';
import { isUnchanged, UNCHANGED, useBalance } from './history.ts';
import { LookFields } from './Look.tsx';
import { useGrade, type Gradable } from './useGrade.ts';
import { Voices } from './Voices.tsx';

/** Sends a job's frames out again under a balance. */
function Export({ job, frames, disabled, balance }: { job: Job; frames: number; disabled: boolean; balance: Balance }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [busy, setBusy] = useState(false);
  const out = () => {
    setBusy(true);
    const { name, quality, outputs, template, priority } = job;
    labApi
      .send({
        name,
        source: { kind: 'balance', job: job.id, balance },
        quality,
        outputs: outputs.png ? { png: outputs.png, exr: false, passes: [] } : { png: 16, exr: false, passes: [] },
        template,
        priority,
      })
      .then(async (sent) => {
        await queries.invalidateQueries({ queryKey: ['lab'] });
        return navigate(`/lab/${sent.id}`);
      })
      .catch((error: Error) => {
        toast.error(`Nothing was sent: ${error.message}`);
        setBusy(false);
      });
  };
  const back = () =>
    void writeBack(job, balance)
      .then((n) =>
        toast(n ? `${n} setup${n === 1 ? '' : 's'} changed; each has it as one step of its history.` : 'The setups say that already.'),
      )
      .catch((error: Error) => toast.error(`The setups were not changed: ${error.message}`));
  return (
    <>
      {job.source.kind !== 'kits' && (
        <button
          className="btn btn-sm"
          disabled={disabled}
          onClick={back}
          title="Changes the light of the setups in the same way, as a step that can be undone there"
        >
          Into the setup{job.source.kind === 'turn' ? '' : 's'}
        </button>
      )}
      <button
        className="btn btn-primary btn-sm"
        disabled={disabled || busy}
        onClick={out}
        title="All finished frames as a version of their own; no ray is traced"
      >
        <Send size={14} /> Export {frames === 1 ? 'the frame' : `${frames} frames`}
      </button>
    </>
  );
}

/** A picture under a balance, its lights and its look; of a job one frame of all, which are all meant. */
export function Room({ frames, job, at, go }: { frames: readonly Gradable[]; job?: Job; at: number; go(to: number): void }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { steps, change, undo, redo } = useBalance(`plinket-balance-${job?.id ?? frames[at]?.label}`);
  const [solo, setSolo] = useState<readonly string[]>([]);
  const [before, setBefore] = useState(false);
  const frame = frames[at];
  const shown = useMemo(() => (before ? { balance: UNCHANGED, solo } : { balance: steps.now, solo }), [steps.now, solo, before]);
  const { setup, failed, size, ms } = useGrade(frame, shown, canvas);
  useEffect(() => {
    const typing = (e: KeyboardEvent) => (e.target as HTMLElement).matches('input:not([type=checkbox]), textarea, select');
    const down = (e: KeyboardEvent) => {
      if (typing(e)) return;
      const key = e.key.toLowerCase();
      if ((e.ctrlKey || e.metaKey) && (key === 'z' || key === 'y')) {
        e.preventDefault();
        if (key === 'y' || e.shiftKey) redo();
        else undo();
      } else if (e.key === ' ' && !(e.target as HTMLElement).matches('button')) {
        e.preventDefault();
        setBefore(true);
      }
    };
    const up = (e: KeyboardEvent) => e.key === ' ' && setBefore(false);
    window.addEventListener('keydown', down);
    window.addEventListener('keyup', up);
    return () => {
      window.removeEventListener('keydown', down);
      window.removeEventListener('keyup', up);
    };
  }, [undo, redo]);
  const savePng = () =>
    canvas.current?.toBlob((png) => {
      if (png && frame) save(png, `${frame.label.replace(/\.exr$/i, '')}.png`);
    }, 'image/png');
  const same = isUnchanged(steps.now);
  return (
    <div className="flex h-full flex-col">
      <PageHeader title={job ? jobTitle(job) : 'Balance'}>
        {job && (
          <Link className="btn btn-ghost btn-sm" to={`/lab/${job.id}`}>
            <Undo size={14} /> To the job
          </Link>
        )}
        <button className="btn btn-ghost btn-sm btn-square" aria-label="Undo" disabled={!steps.past.length} onClick={undo}>
          <Undo2 size={15} />
        </button>
        <button className="btn btn-ghost btn-sm btn-square" aria-label="Redo" disabled={!steps.future.length} onClick={redo}>
          <Redo2 size={15} />
        </button>
        <button
          className="btn btn-sm"
          disabled={same}
          onClick={() => change(() => UNCHANGED)}
          title="Hold the space bar to see it as it was rendered"
        >
          As rendered
        </button>
        {job ? (
          <Export job={job} frames={frames.length} disabled={same || !setup} balance={steps.now} />
        ) : (
          <button className="btn btn-primary btn-sm" disabled={!setup} onClick={savePng}>
            <Download size={14} /> PNG
          </button>
        )}
      </PageHeader>
      <main className="flex min-h-0 flex-1">
        <section className="flex min-w-0 flex-1 flex-col bg-neutral" aria-label="The picture">
          <div className="grid min-h-0 flex-1 grid-rows-[minmax(0,1fr)] place-items-center p-4">
            {failed && (
              <p role="alert" className="max-w-md text-center text-neutral-content">
                {frame?.label} cannot be balanced: {failed}
              </p>
            )}
            <canvas
              ref={canvas}
              hidden={failed !== undefined}
              aria-label={frame?.label}
              data-testid="graded"
              data-ready={setup !== undefined && size !== undefined}
              className="h-full max-h-full w-full max-w-full object-contain"
            />
          </div>
          <div className="flex h-6 items-center gap-3 px-4 text-2xs text-neutral-content" role="status">
            <span>{frame?.label}</span>
            {size && (
              <span>
                {size.width} × {size.height}
              </span>
            )}
            {before && <b>as rendered</b>}
            {solo.length > 0 && <b>{solo.length === 1 ? 'one light alone' : `${solo.length} lights alone`}</b>}
            {ms !== undefined && <span data-testid="graded-ms">{ms.toFixed(0)} ms, no ray</span>}
            {!setup && !failed && <span>Opening …</span>}
          </div>
          {frames.length > 1 && (
            <label className="flex h-8 items-center gap-3 px-4 text-2xs text-neutral-content">
              frame
              <input
                type="range"
                className="range range-xs flex-1"
                min={0}
                max={frames.length - 1}
                value={at}
                aria-label="Frame in view"
                aria-valuetext={frame?.label}
                onChange={(e) => go(Number(e.target.value))}
              />
              {at + 1} of {frames.length}
            </label>
          )}
        </section>
        <aside className="flex w-96 shrink-0 flex-col gap-4 overflow-y-auto border-l hairline p-4" aria-label="Balance" tabIndex={0}>
          {setup && (
            <>
              <LookFields setup={setup} balance={steps.now} change={change} />
              <Voices setup={setup} balance={steps.now} solo={solo} change={change} hear={setSolo} />
            </>
          )}
        </aside>
      </main>
    </div>
  );
}
