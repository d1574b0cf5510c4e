import type { ProofSummary } from '@plinket/contract';
import { KEY_PATTERNS, patternName } from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { X } from 'lucide-react';
import { useDeferredValue, useState } from 'react';
import { api } from '../api/client.ts';
import { SearchBox } from '../parts/SearchBox.tsx';
import { UNTIL_THERE, usePages } from '../parts/pages.ts';
import { when } from '../parts/when.ts';
import { MOST } from './wall.ts';

/** Proofs asked for at once. */
const PAGE = 60;

interface ShelfProps {
  /** Those on the wall, in their order. */
  on: readonly string[];
  onToggle(id: string): void;
  /** Only those of one setup. */
  setup: string | undefined;
  onSetup(id: string | undefined): void;
}

function Item({ proof, place, full, onToggle }: { proof: ProofSummary; place: number; full: boolean; onToggle(): void }) {
  const there = place >= 0;
  return (
    <li>
      <button
        className={`relative block w-full rounded-sm border p-1 text-left ${there ? 'border-base-content bg-base-300' : 'hairline hover:bg-base-300/50'} disabled:opacity-40`}
        aria-pressed={there}
        aria-label={`${proof.name} of ${proof.setupName}`}
        title={there ? 'Take it off the wall' : full ? `${MOST} are on the wall: take one off first` : 'Put it on the wall'}
        disabled={!there && full}
        onClick={onToggle}
      >
        <span className="grid h-20 place-items-center overflow-hidden bg-[oklch(37%_0_0)]">
          <img src={api.blobUrl(proof.picture)} alt="" loading="lazy" className="max-h-20 max-w-full" />
        </span>
        {there && (
          <span className="absolute top-1 left-1 grid size-5 place-items-center rounded-sm bg-base-content font-bold text-base-100">
            {place + 1}
          </span>
        )}
        <span className="mt-0.5 block truncate text-2xs font-semibold">{proof.name}</span>
        <span className="quiet block truncate text-2xs" title={proof.setupName}>
          {proof.setupName}
        </span>
        <span className="quiet block truncate text-2xs">{when(new Date(proof.createdAt), new Date())}</span>
      </button>
    </li>
  );
}

/** All proofs, to be found and put on the wall. */
export function Shelf({ on, onToggle, setup, onSetup }: ShelfProps) {
  const [typed, setTyped] = useState('');
  const search = useDeferredValue(typed.trim());
  const [pattern, setPattern] = useState(''),
    [character, setCharacter] = useState(''),
    [kit, setKit] = useState('');
  const wish = {
    search,
    ...(pattern ? { pattern } : {}),
    ...(character ? { character } : {}),
    ...(kit ? { kit } : {}),
    ...(setup ? { setup } : {}),
  };
  const proofs = usePages(['proofs', 'all', wish], (cursor) => api.allProofs({ ...wish, cursor, limit: PAGE }), UNTIL_THERE);
  const cast = useQuery({ queryKey: ['assets', 'names'], queryFn: () => api.assets({ limit: 200 }) });
  const kits = useQuery({ queryKey: ['kits', 'names'], queryFn: () => api.kits({ limit: 200 }) });
  const of = useQuery({ queryKey: ['setup', 'name', setup], queryFn: () => api.setup(setup!), enabled: setup !== undefined });
  const narrowed = search !== '' || pattern !== '' || character !== '' || kit !== '' || setup !== undefined;
  return (
    <aside aria-label="Shelf of proofs" className="flex w-56 shrink-0 flex-col border-r hairline bg-base-100">
      <div className="flex flex-col gap-1.5 border-b hairline p-2">
        <SearchBox value={typed} onChange={setTyped} name="Find proofs by words" placeholder="name, notes, setup, character" />
        <div className="flex gap-1.5">
          <select
            className="select select-xs min-w-0 flex-1"
            aria-label="Pattern of the face"
            value={pattern}
            onChange={(e) => setPattern(e.target.value)}
          >
            <option value="">any pattern</option>
            {KEY_PATTERNS.map((p) => (
              <option key={p} value={p}>
                {patternName(p)}
              </option>
            ))}
          </select>
          <select
            className="select select-xs min-w-0 flex-1"
            aria-label="Character"
            value={character}
            onChange={(e) => setCharacter(e.target.value)}
          >
            <option value="">anyone</option>
            {cast.data?.items.map((a) => (
              <option key={a.sha256} value={a.sha256}>
                {a.name}
              </option>
            ))}
          </select>
        </div>
        <select className="select select-xs w-full" aria-label="Kit that was put on" value={kit} onChange={(e) => setKit(e.target.value)}>
          <option value="">any kit, or none</option>
          {kits.data?.items.map((k) => (
            <option key={k.id} value={k.id}>
              {k.name}
            </option>
          ))}
        </select>
        {setup !== undefined && (
          <button className="btn btn-xs justify-between" onClick={() => onSetup(undefined)} title="Show those of all setups">
            <span className="truncate">of {of.data?.document.name ?? 'one setup'}</span> <X size={12} aria-hidden />
          </button>
        )}
      </div>
      <ul className="grid min-h-0 flex-1 grid-cols-2 content-start gap-1.5 overflow-y-auto p-2" tabIndex={0} aria-label="Proofs">
        {proofs.items?.map((p) => (
          <Item key={p.id} proof={p} place={on.indexOf(p.id)} full={on.length >= MOST} onToggle={() => onToggle(p.id)} />
        ))}
        {proofs.hasNextPage && (
          <li className="col-span-2">
            <button className="btn btn-xs w-full" disabled={proofs.isFetchingNextPage} onClick={() => void proofs.fetchNextPage()}>
              {proofs.isFetchingNextPage ? 'Asking for more …' : 'Older'}
            </button>
          </li>
        )}
        {proofs.items?.length === 0 && (
          <li className="quiet col-span-2 py-6 text-center">
            {narrowed ? 'No proof is like that.' : 'No proof is kept yet: on the Stage, P keeps the picture with all its numbers.'}
          </li>
        )}
        {proofs.isPending && <li className="quiet col-span-2 py-6 text-center">The proofs are being asked for …</li>}
        {proofs.isError && <li className="col-span-2 py-6 text-center">The proofs cannot be shown: {proofs.error.message}</li>}
      </ul>
    </aside>
  );
}
