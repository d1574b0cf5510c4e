import type { Proof, ProofChange } from '@plinket/contract';
import { partsThatDiffer, SETUP_PARTS, type Setup, type SetupPart } from '@plinket/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Pin as PinIcon, Trash2, X } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { CheckOf } from '../parts/Fields.tsx';
import { KeptText } from '../parts/KeptText.tsx';
import { useRemoval } from '../parts/removal.ts';
import { restoreProof } from './restore.ts';
import { useWall, useWallState } from './context.ts';

const PART_WORDS: { [part in (typeof SETUP_PARTS)[number]]: string } = {
  lights: 'all lights and flags',
  characters: 'characters',
  stage: 'stage',
  camera: 'camera and exposure',
  look: 'look',
  turntable: 'turntable',
};
const partWords = (part: SetupPart, { lights }: Setup): string =>
  SETUP_PARTS.some((p) => p === part)
    ? PART_WORDS[part as (typeof SETUP_PARTS)[number]]
    : `only ${lights.items[part.slice('light/'.length)]?.name ?? part}`;

/** What of a proof can be had back: whole, or the parts in which its setup differs today. */
function Restore({ proof }: { proof: Proof }) {
  const queries = useQueryClient();
  const [parts, setParts] = useState<ReadonlySet<SetupPart>>(new Set());
  const [busy, setBusy] = useState(false);
  const now = useQuery({ queryKey: ['setup', 'now', proof.setupId], queryFn: () => api.setup(proof.setupId), refetchOnMount: 'always' });
  const differ = now.data ? partsThatDiffer(now.data.document, proof.document) : [];
  const chosen = [...parts].filter((p) => differ.includes(p));
  const refresh = () => queries.invalidateQueries({ queryKey: ['setup', 'now', proof.setupId] });
  const restore = (some?: readonly SetupPart[]) => {
    setBusy(true);
    restoreProof(proof, some)
      .then(async (done) => {
        await refresh();
        if (!done) return toast(`${proof.setupName} is as in ${proof.name} already.`);
        setParts(new Set());
        toast(`${proof.setupName}: ${some ? some.map((p) => partWords(p, proof.document)).join(', ') : 'all'} from ${proof.name}`, {
          duration: 10_000,
          action: {
            label: 'Undo',
            onClick: () =>
              void done
                .undo()
                .then(refresh)
                .catch((error: Error) => toast.error(`It was not undone: ${error.message}`)),
          },
        });
      })
      .catch((error: Error) => toast.error(`${proof.name} was not restored: ${error.message}`))
      .finally(() => setBusy(false));
  };
  const branch = () => {
    setBusy(true);
    const name = `${proof.setupName.slice(0, 90)}, ${proof.name}`.slice(0, 120);
    api
      .createSetup({ ...proof.document, name })
      .then(async (record) => {
        await queries.invalidateQueries({ queryKey: ['setups'] });
        toast(`${record.document.name} is a setup of its own`);
      })
      .catch((error: Error) => toast.error(`No setup was made: ${error.message}`))
      .finally(() => setBusy(false));
  };
  return (
    <section className="flex flex-col gap-1" aria-label="Have it back">
      <h3 className="caps quiet">Have it back</h3>
      {now.isError ? (
        <p className="quiet">Its setup is not there any more; a new one can be made of it.</p>
      ) : differ.length === 0 ? (
        <p className="quiet">{now.data ? 'Its setup is as in this proof.' : 'Its setup is being asked for …'}</p>
      ) : (
        <>
          <fieldset className="flex flex-col">
            <legend className="quiet text-2xs">Its setup differs today in</legend>
            {differ.map((part) => (
              <CheckOf key={part} value={part} chosen={parts} onChosen={setParts} words={partWords(part, proof.document)} />
            ))}
          </fieldset>
          <div className="flex flex-wrap gap-1">
            <button className="btn btn-xs" disabled={busy || chosen.length === 0} onClick={() => restore(chosen)}>
              Restore these
            </button>
            <button className="btn btn-xs" disabled={busy} onClick={() => restore()}>
              Restore all
            </button>
          </div>
        </>
      )}
      <button className="btn btn-xs self-start" disabled={busy} onClick={branch}>
        New setup from this
      </button>
    </section>
  );
}

interface LeafProps {
  proof: Proof;
  onChange(change: ProofChange): void;
  onOff(): void;
}

/** The proof in hand: what is said of it, its pins, and what can be had back of it. */
export function Leaf({ proof, onChange, onOff }: LeafProps) {
  const wall = useWall();
  const pinning = useWallState((w) => w.pinning);
  const removal = useRemoval(['proofs']);
  return (
    <aside
      aria-label={`About ${proof.name}`}
      className="flex w-60 shrink-0 flex-col gap-3 overflow-y-auto border-l hairline bg-base-100 p-3"
    >
      <div className="flex items-center gap-1">
        <KeptText
          value={proof.name}
          name="Name of the proof"
          most={120}
          needed
          className="min-w-0 flex-1 font-semibold"
          change={(name) => onChange({ name })}
        />
        <button className="btn btn-ghost btn-xs btn-square" aria-label={`Take ${proof.name} off the wall`} onClick={onOff}>
          <X size={14} />
        </button>
      </div>
      <p className="text-2xs">
        <Link className="underline" to={`/setup/${proof.setupId}`}>
          {proof.setupName}
        </Link>
        <br />
        <span className="quiet">
          {new Date(proof.createdAt).toLocaleString()}, {proof.width} × {proof.height}
        </span>
      </p>
      <textarea
        key={`${proof.id} ${proof.notes}`}
        className="textarea textarea-xs min-h-16 w-full"
        aria-label="Notes"
        placeholder="notes"
        maxLength={4000}
        defaultValue={proof.notes}
        onBlur={(e) => e.target.value !== proof.notes && onChange({ notes: e.target.value })}
      />
      <section className="flex flex-col gap-1" aria-label="Pins">
        <div className="flex items-center justify-between">
          <h3 className="caps quiet">Pins</h3>
          <button className="btn btn-xs" aria-pressed={pinning} onClick={() => wall.setState({ pinning: !pinning })}>
            <PinIcon size={12} aria-hidden /> {pinning ? 'Click on the picture' : 'Add a pin'}
          </button>
        </div>
        <ol className="flex flex-col gap-1">
          {proof.pins.map((pin, i) => (
            <li key={`${i} ${pin.text}`} className="flex items-center gap-1">
              <span className="w-4 text-center font-bold">{i + 1}</span>
              <input
                className="input input-xs min-w-0 flex-1"
                aria-label={`Words of pin ${i + 1}`}
                defaultValue={pin.text}
                maxLength={240}
                autoFocus={pin.text === NEW_PIN && i === proof.pins.length - 1}
                onFocus={(e) => e.target.select()}
                onBlur={(e) => {
                  const text = e.target.value.trim() || NEW_PIN;
                  if (text !== pin.text) onChange({ pins: proof.pins.map((p, k) => (k === i ? { ...p, text } : p)) });
                }}
                onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
              />
              <button
                className="btn btn-ghost btn-xs btn-square"
                aria-label={`Take pin ${i + 1} out`}
                onClick={() => onChange({ pins: proof.pins.filter((_, k) => k !== i) })}
              >
                <X size={12} />
              </button>
            </li>
          ))}
        </ol>
      </section>
      <Restore key={proof.id} proof={proof} />
      <button
        className="btn btn-ghost btn-xs mt-auto self-start"
        onClick={() =>
          void removal(
            proof.name,
            () => api.removeProof(proof.id).then(onOff),
            () => api.restoreProof(proof.id),
          )
        }
      >
        <Trash2 size={12} aria-hidden /> Throw it away
      </button>
    </aside>
  );
}

/** What a pin says until words are given to it. */
export const NEW_PIN = 'look here';
