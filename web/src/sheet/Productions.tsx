// Productions and their sequences on the first screen.
import type { ProductionRecord, Productions as Board } from '@plinket/contract';
import { emptySetup, FIRST_RANK, PRODUCTION_VERSION, SEQUENCE_VERSION, TOLERANCE, type Setup } from '@plinket/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { anyhow } from '../api/anyhow.ts';
import { api } from '../api/client.ts';
import { KeptText } from '../parts/KeptText.tsx';
import { useRemoval } from '../parts/removal.ts';

type Sequence = Board['sequences'][number];
type Production = Board['productions'][number];

/** Setups that a sequence can begin with. */
const MOST_SETUPS = 100;

/** One sequence: pictures of its first shots in their order, and how far they have come. */
function Row({ of: s }: { of: Sequence }) {
  const states = Object.entries(s.states).map(([state, n]) => `${n} ${state}`);
  return (
    <li data-testid={`sequence-${s.name}`}>
      <Link
        to={`/sequence/${s.id}`}
        className="flex items-center gap-3 rounded border hairline bg-white p-2 hover:border-base-content"
        aria-label={`Open ${s.name}`}
      >
        <div className="w-44 min-w-0 shrink-0">
          <h3 className="truncate font-semibold">{s.name}</h3>
          <p className="quiet truncate">{s.brief ? `“${s.brief}”` : 'no brief'}</p>
          <p className="truncate text-2xs text-base-content/70">
            {s.shots ? [`${s.shots} ${s.shots === 1 ? 'shot' : 'shots'}`, ...states].join(' · ') : 'no shots yet'}
          </p>
        </div>
        <div className="flex min-w-0 flex-1 gap-1.5 overflow-hidden">
          {s.pictures.map((picture, i) => (
            <img
              key={i}
              src={api.blobUrl(picture)}
              alt=""
              className="aspect-video h-16 shrink-0 bg-[oklch(24%_0_0)] object-contain"
              loading="lazy"
            />
          ))}
        </div>
      </Link>
    </li>
  );
}

/** What a sequence begins with: a copy of a setup, or a black stage. */
function NewSequence({ production, done }: { production: string | undefined; done(): void }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [busy, setBusy] = useState(false);
  const setups = useQuery({ queryKey: ['setups', 'loose', 'choice'], queryFn: () => api.setups({ loose: 'true', limit: MOST_SETUPS }) });
  const make = async (form: FormData) => {
    const name = String(form.get('name') ?? '').trim(),
      from = String(form.get('from') ?? '');
    setBusy(true);
    try {
      const light: Setup = from ? (await api.setup(from)).document : emptySetup(name);
      const { id: setup } = await api.createSetup({ ...light, name: `${name}, its light`.slice(0, 120) });
      const { id } = await api.createSequence({
        schemaVersion: SEQUENCE_VERSION,
        name,
        brief: '',
        notes: '',
        ...(production ? { production } : {}),
        rank: FIRST_RANK,
        setup,
        tolerance: TOLERANCE,
        shots: { items: {} },
      });
      await queries.invalidateQueries({ queryKey: ['board'] });
      await navigate(`/sequence/${id}`);
    } catch (error) {
      toast.error(`No sequence was made: ${(error as Error).message}`);
      setBusy(false);
    }
  };
  return (
    <form
      className="mt-2 flex items-center gap-2 rounded border hairline bg-white p-2"
      aria-label="New sequence"
      action={(form) => void make(form)}
      onKeyDown={(e) => e.key === 'Escape' && done()}
    >
      <input
        className="input input-sm w-56"
        name="name"
        aria-label="Name of the new sequence"
        placeholder="its name"
        required
        maxLength={100}
        autoFocus
      />
      <label className="flex min-w-0 items-center gap-2">
        <span className="quiet shrink-0">lit as</span>
        <select className="select select-sm w-56" name="from" aria-label="What the sequence is lit as">
          <option value="">a black stage</option>
          {setups.data?.items.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
      </label>
      <button className="btn btn-primary btn-sm" disabled={busy}>
        Make it
      </button>
      <button type="button" className="btn btn-ghost btn-sm" onClick={done}>
        Leave
      </button>
    </form>
  );
}

/** What is said of a production. */
function Head({ of: { id, revision, name, brief } }: { of: Production }) {
  const queries = useQueryClient();
  const removal = useRemoval(['board']);
  const change = (patch: { name?: string; brief?: string }) => {
    anyhow<ProductionRecord>(
      revision,
      (known) => api.patchProduction(id, known, patch),
      () => api.production(id),
    )
      .catch((error: Error) => toast.error(`${name} was not changed: ${error.message}`))
      .finally(() => void queries.invalidateQueries({ queryKey: ['board'] }));
  };
  const remove = () =>
    void removal(
      name,
      () => api.removeProduction(id),
      () => api.restoreProduction(id),
    );
  return (
    <>
      <KeptText
        value={name}
        name={`Name of ${name}`}
        most={120}
        needed
        className="field-sizing-content w-auto min-w-32 border-transparent bg-transparent px-1 text-base font-semibold"
        change={(next) => change({ name: next })}
      />
      <KeptText
        value={brief}
        name={`Brief of ${name}`}
        placeholder="what is it about?"
        most={240}
        className="min-w-40 flex-1 border-transparent bg-transparent px-1"
        change={(next) => change({ brief: next })}
      />
      <button className="btn btn-ghost btn-xs btn-square" aria-label={`Throw ${name} away`} title="Its sequences stay" onClick={remove}>
        <Trash2 size={14} />
      </button>
    </>
  );
}

function Section({ production, sequences }: { production: Production | undefined; sequences: readonly Sequence[] }) {
  const [making, setMaking] = useState(false);
  return (
    <section className="px-8 pt-6" aria-label={production?.name ?? 'Sequences of no production'}>
      <div className="mb-2 flex items-center gap-2">
        {production ? <Head of={production} /> : <h2 className="flex-1 text-base font-semibold">Sequences of no production</h2>}
        <button className="btn btn-ghost btn-sm" onClick={() => setMaking(true)}>
          <Plus size={14} /> Sequence
        </button>
      </div>
      {sequences.length > 0 && (
        <ul className="flex flex-col gap-2">
          {sequences.map((s) => (
            <Row key={s.id} of={s} />
          ))}
        </ul>
      )}
      {making && <NewSequence production={production?.id} done={() => setMaking(false)} />}
    </section>
  );
}

/** Makes a production, to be named where it stands. */
export function NewProduction() {
  const queries = useQueryClient();
  const make = () =>
    void api
      .createProduction({ schemaVersion: PRODUCTION_VERSION, name: 'New production', brief: '', notes: '', fps: 24 })
      .then(() => queries.invalidateQueries({ queryKey: ['board'] }))
      .catch((error: Error) => toast.error(`No production was made: ${error.message}`));
  return (
    <button className="btn btn-ghost btn-sm" onClick={make}>
      New production
    </button>
  );
}

/** All productions, then sequences that belong to none. */
export function Productions() {
  const { data } = useQuery({ queryKey: ['board'], queryFn: () => api.board() });
  if (!data) return null;
  const known = new Set(data.productions.map((p) => p.id));
  const free = data.sequences.filter((s) => !s.production || !known.has(s.production));
  const ranked = (of: Sequence[]) => [...of].sort((a, b) => (a.rank < b.rank ? -1 : 1));
  return (
    <>
      {data.productions.map((p) => (
        <Section key={p.id} production={p} sequences={ranked(data.sequences.filter((s) => s.production === p.id))} />
      ))}
      {free.length > 0 && <Section production={undefined} sequences={free} />}
    </>
  );
}
