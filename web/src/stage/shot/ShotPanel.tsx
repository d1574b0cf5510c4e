// What the open shot departs in from its sequence, and what jumps from its neighbours.
import {
  departuresOf,
  describePatch,
  invertPatch,
  jumpsBetween,
  keptReading,
  pushedUp,
  returned,
  type Departure,
  type KeptReading,
  type Patch,
  type Setup,
} from '@plinket/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { ArrowUpToLine, Undo2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { anyhow } from '../../api/anyhow.ts';
import { api } from '../../api/client.ts';
import { useDoc, useStage, useView, useViewOf } from '../context.ts';
import { Panel } from '../Panel.tsx';
import { ForAll, type Raising } from './ForAll.tsx';
import { useMatching } from './matching.ts';
import { useFollowed, useShot, type OpenShot } from './shot.ts';
import { newId } from '../../parts/new-id.ts';

function Row({ of, back, raise }: { of: Departure; back(): void; raise(): void }) {
  const value = (v: unknown): string =>
    v === undefined ? 'none' : typeof v === 'object' ? '…' : String(typeof v === 'number' ? Number(v.toFixed(3)) : v);
  return (
    <li className="flex h-7 items-center gap-2 border-b hairline" data-testid="departure">
      <span className="min-w-0 flex-1 truncate" title={of.path.join(' ▸ ')}>
        {of.words}
      </span>
      <span className="quiet shrink-0 text-2xs" title="The sequence’s value, and this shot’s">
        {value(of.there)} → {value(of.here)}
      </span>
      <button className="btn btn-ghost btn-xs" onClick={back} title="As the sequence has it">
        <Undo2 size={12} /> return
      </button>
      <button className="btn btn-ghost btn-xs" onClick={raise} title="Make it the sequence’s: which shots that touches is told first">
        <ArrowUpToLine size={12} /> for all shots …
      </button>
    </li>
  );
}

/** Jumps against a neighbour, by the reading of its latest proof. */
function Against({
  code,
  there,
  here,
  tolerance,
  match,
  busy,
}: {
  code: string;
  there: KeptReading | undefined;
  here: KeptReading | undefined;
  tolerance: OpenShot['sequence']['document']['tolerance'];
  match?: (() => void) | undefined;
  busy: boolean;
}) {
  const jumps = here && there ? jumpsBetween(there, here, tolerance) : undefined;
  return (
    <section className="min-w-0" data-testid={`against-${code}`}>
      <h3 className="flex items-center gap-2">
        <span className="font-semibold">Against {code}</span>
        {match && there && (
          <button
            className="btn btn-xs"
            disabled={busy || !here}
            onClick={match}
            title="Key, brightness and ratio as there: shown in the picture first"
          >
            Match to it
          </button>
        )}
      </h3>
      {jumps?.length ? (
        <ul>
          {jumps.map((j) => (
            <li key={j.kind} className="truncate text-warning" title={j.words}>
              {j.words}
            </li>
          ))}
        </ul>
      ) : (
        <p className="quiet">{!there ? 'its latest proof has no reading' : !here ? 'no face is read here yet' : 'nothing jumps'}</p>
      )}
    </section>
  );
}

function OpenPanel({ open }: { open: OpenShot & Required<Pick<OpenShot, 'shot'>> }) {
  const { doc } = useStage();
  const queries = useQueryClient();
  const { sequence, previous, next } = open;
  const setup = useDoc((d) => d.setup);
  const { reading, seen } = useViewOf('reading', 'seen');
  const { setup: settled, base, error } = useFollowed();
  const departures = base && departuresOf(base, settled);
  const { match, busy } = useMatching();
  const [raising, setRaising] = useState<Raising>();
  const shots = useQuery({ queryKey: ['shots', sequence.id], queryFn: () => api.shots(sequence.id) });
  const readOf = (id: string | undefined) => shots.data?.shots.find((s) => s.id === id)?.proof?.reading;
  const here = reading?.reading && keptReading(setup, reading.reading, seen && seen.wish >= reading.wish ? seen.seen : undefined);

  const back = (d: Departure) => {
    try {
      doc.getState().change(returned(base!, setup, d));
    } catch (e) {
      toast.error(`It was not returned: ${(e as Error).message}`);
    }
  };
  const raise = async (d: Departure) => {
    try {
      const patch = pushedUp(base!, setup, d);
      const { seen, hidden } = await api.touched(sequence.id, patch);
      const others = (ids: string[]) => ids.filter((shot) => shot !== doc.getState().id);
      setRaising({ words: describePatch(base!, patch) || d.words, patch, seen: others(seen), hidden: others(hidden) });
    } catch (e) {
      toast.error(`It cannot be made the sequence’s: ${(e as Error).message}`);
    }
  };
  const send = async (patch: Patch): Promise<Setup> => {
    const id = sequence.document.setup;
    const { revision } = await api.setup(id);
    const record = await anyhow(
      revision,
      (of) => api.patchSetup(id, { id: newId(), revision: of, patch }),
      () => api.setup(id),
    );
    await queries.invalidateQueries({ queryKey: ['shots', sequence.id] });
    return record.document;
  };
  const make = async ({ words, patch }: Raising) => {
    setRaising(undefined);
    try {
      await doc.settled();
      const inverse = invertPatch(base!, patch);
      await send(patch);
      toast(`The sequence has it now: ${words}`, {
        duration: 10_000,
        action: {
          label: 'Undo',
          onClick: () => void send(inverse).catch((e: Error) => toast.error(`The sequence was not changed back: ${e.message}`)),
        },
      });
    } catch (e) {
      toast.error(`The sequence was not changed: ${(e as Error).message}`);
    }
  };
  return (
    <Panel
      name={`Shot ${open.shot.code}`}
      of="shot"
      tools={
        <p className="quiet min-w-0 flex-1 truncate">
          What it departs in from {sequence.document.name}; all else is the sequence’s and changes with it.
        </p>
      }
    >
      <div
        className="grid max-h-56 grid-cols-[minmax(0,1fr)_minmax(0,22rem)] gap-6 overflow-auto p-3"
        tabIndex={0}
        role="group"
        aria-label="Departures and neighbours"
      >
        <div>
          {raising && <ForAll raising={raising} sequence={sequence} make={() => void make(raising)} leave={() => setRaising(undefined)} />}
          {error ? (
            <p className="text-error">What it follows cannot be shown: {error.message}</p>
          ) : departures?.length ? (
            <ul aria-label="Departures">
              {departures.map((d) => (
                <Row key={d.path.join('/')} of={d} back={() => back(d)} raise={() => void raise(d)} />
              ))}
            </ul>
          ) : (
            <p className="quiet">
              {departures ? 'None: it is lit as its sequence. Whatever you change here departs from it.' : 'Being looked for …'}
            </p>
          )}
        </div>
        <div className="flex flex-col gap-3">
          {previous && (
            <Against
              code={previous.shot.code}
              there={readOf(previous.id)}
              here={here}
              tolerance={sequence.document.tolerance}
              busy={busy}
              match={() => match(previous.shot.code, readOf(previous.id)!)}
            />
          )}
          {next && (
            <Against code={next.shot.code} there={readOf(next.id)} here={here} tolerance={sequence.document.tolerance} busy={busy} />
          )}
        </div>
      </div>
    </Panel>
  );
}

/** The panel, while it is open and this setup is a shot. */
export function ShotPanel() {
  const shown = useView((v) => v.panel) === 'shot';
  const open = useShot();
  return shown && open?.shot ? <OpenPanel open={{ ...open, shot: open.shot }} /> : null;
}
