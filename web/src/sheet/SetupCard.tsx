import type { SetupSummary } from '@plinket/contract';
import { useQueryClient } from '@tanstack/react-query';
import { Copy, Pencil, Trash2, type LucideIcon } from 'lucide-react';
import { useState, type KeyboardEvent } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { when } from '../parts/when.ts';
import { copyName } from './beginnings.ts';
import { newId } from '../parts/new-id.ts';

/** The name while it is changed: Enter keeps it, Escape leaves it. */
function NameField({ name, onDone }: { name: string; onDone(name: string | undefined): void }) {
  const [text, setText] = useState(name);
  const keys = (e: KeyboardEvent) => {
    if (e.key === 'Enter') onDone(text.trim() || undefined);
    if (e.key === 'Escape') onDone(undefined);
  };
  return (
    <input
      className="input input-xs mt-1.5 w-full font-semibold"
      aria-label="Name of the setup"
      data-testid="card-name"
      autoFocus
      maxLength={120}
      value={text}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => onDone(text.trim() || undefined)}
      onKeyDown={keys}
    />
  );
}

/** A setup as a card: its latest proof, and what changed last. */
export function SetupCard({ setup: s, now, onRemove }: { setup: SetupSummary; now: Date; onRemove(): void }) {
  const queries = useQueryClient();
  const [naming, setNaming] = useState(false);
  const refresh = () => queries.invalidateQueries({ queryKey: ['setups'] });
  const trying = (work: Promise<unknown>, failed: string) =>
    work.then(refresh).catch((error: Error) => toast.error(`${failed}: ${error.message}`));
  const rename = (name: string | undefined) => {
    setNaming(false);
    if (name === undefined || name === s.name) return;
    void trying(api.patchSetup(s.id, { id: newId(), revision: s.revision, patch: { name } }), `${s.name} keeps its name`);
  };
  const duplicate = () =>
    void trying(
      api.setup(s.id).then(({ document }) => api.createSetup({ ...document, name: copyName(document.name) })),
      `${s.name} was not copied`,
    );
  const actions: [LucideIcon, string, () => void][] = [
    [Pencil, `Rename ${s.name}`, () => setNaming(true)],
    [Copy, `Duplicate ${s.name}`, duplicate],
    [Trash2, `Throw ${s.name} away`, onRemove],
  ];
  return (
    <li className="group relative" data-testid="setup-card">
      <div className="rounded border hairline bg-white p-3 focus-within:border-base-content hover:border-base-content">
        <Link to={`/setup/${s.id}`} className="block" aria-label={`Open ${s.name}`}>
          <div className="grid aspect-[4/5] place-items-center overflow-hidden bg-[oklch(37%_0_0)] text-white/60">
            {s.picture ? <img src={api.blobUrl(s.picture)} alt="" className="h-full w-full object-cover" loading="lazy" /> : 'no proof yet'}
          </div>
          {!naming && <h2 className="mt-2 truncate font-semibold">{s.name}</h2>}
        </Link>
        {naming && <NameField name={s.name} onDone={rename} />}
        <p className="quiet truncate" title={s.brief}>
          {s.brief ? `“${s.brief}”` : 'no brief'}
        </p>
        <p className="mt-1 truncate text-2xs text-base-content/70" data-testid="card-change">
          {s.change ? `${s.change}, ` : 'new, '}
          {when(new Date(s.updatedAt), now)}
        </p>
      </div>
      <div className="absolute top-4 right-4 flex gap-0.5 rounded bg-white/85 opacity-0 group-focus-within:opacity-100 group-hover:opacity-100">
        {actions.map(([Icon, label, act]) => (
          <button key={label} className="btn btn-ghost btn-xs btn-square" aria-label={label} title={label} onClick={act}>
            <Icon size={14} />
          </button>
        ))}
      </div>
    </li>
  );
}
