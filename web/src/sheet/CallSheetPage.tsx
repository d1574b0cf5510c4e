import type { SetupSummary } from '@plinket/contract';
import { keepPreviousData } from '@tanstack/react-query';
import { Search, Trash2 } from 'lucide-react';
import { useDeferredValue, useState } from 'react';
import { Link } from 'react-router';
import { api } from '../api/client.ts';
import { Empty } from '../parts/Empty.tsx';
import { Mark } from '../parts/Mark.tsx';
import { usePages } from '../parts/pages.ts';
import { useRemoval } from '../parts/removal.ts';

const PAGE = 30;

/** All setups as a board of their latest proofs. */
export function CallSheetPage() {
  const [typed, setTyped] = useState('');
  const search = useDeferredValue(typed.trim());
  const setups = usePages(['setups', search], (cursor) => api.setups({ search, cursor, limit: PAGE }), {
    retry: 20,
    retryDelay: 1500,
    placeholderData: keepPreviousData,
  });
  const removal = useRemoval(['setups']);
  return (
    <div data-theme="sheet" className="min-h-full bg-base-100 text-base-content">
      <header className="flex h-14 items-center gap-2 border-b hairline px-8">
        <Mark />
        <h1 className="quiet ml-3">Call sheet</h1>
        <label className="input input-sm ml-auto w-64">
          <Search size={14} aria-hidden />
          <input
            type="search"
            aria-label="Find setups by name or brief"
            placeholder="name or brief"
            value={typed}
            maxLength={200}
            onChange={(e) => setTyped(e.target.value)}
          />
        </label>
      </header>
      {setups.isPending && (
        <Empty title="Asking for the setups …">
          {setups.failureCount > 0 && 'The server or its database does not answer; trying again.'}
        </Empty>
      )}
      {setups.isError && (
        <Empty
          title="The setups cannot be shown"
          action={
            <button className="btn btn-sm" onClick={() => void setups.refetch()}>
              Try again
            </button>
          }
        >
          {setups.error.message}
        </Empty>
      )}
      {setups.items?.length === 0 &&
        (search === '' ? (
          <Empty title="No setups yet">What was thrown away can be had back for a month; the demo is brought into an empty database.</Empty>
        ) : (
          <Empty
            title={`Nothing is called “${search}”`}
            action={
              <button className="btn btn-sm" onClick={() => setTyped('')}>
                Show all
              </button>
            }
          >
            Names and briefs are searched.
          </Empty>
        ))}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(220px,1fr))] gap-6 p-8">
        {setups.items?.map((s) => (
          <SetupCard
            key={s.id}
            setup={s}
            onRemove={() =>
              void removal(
                s.name,
                () => api.removeSetup(s.id),
                () => api.restoreSetup(s.id),
              )
            }
          />
        ))}
      </ul>
      {setups.hasNextPage && (
        <div className="flex justify-center pb-10">
          <button className="btn btn-sm" disabled={setups.isFetchingNextPage} onClick={() => void setups.fetchNextPage()}>
            {setups.isFetchingNextPage ? 'Asking for more …' : 'Show more'}
          </button>
        </div>
      )}
    </div>
  );
}

function SetupCard({ setup: s, onRemove }: { setup: SetupSummary; onRemove: () => void }) {
  return (
    <li className="group relative" data-testid="setup-card">
      <Link to={`/setup/${s.id}`} className="block rounded border hairline bg-white p-3 hover:border-base-content">
        <div className="grid aspect-[4/5] place-items-center overflow-hidden bg-[oklch(37%_0_0)] text-white/60">
          {s.picture ? <img src={api.blobUrl(s.picture)} alt="" className="h-full w-full object-cover" loading="lazy" /> : 'no proof yet'}
        </div>
        <h2 className="mt-2 truncate pr-6 font-semibold">{s.name}</h2>
        <p className="quiet truncate">{s.brief ? `“${s.brief}”` : 'no brief'}</p>
        <p className="quiet mt-1 text-2xs">
          revision {s.revision} · {new Date(s.updatedAt).toLocaleString()}
        </p>
      </Link>
      <button
        className="btn btn-ghost btn-xs btn-square absolute right-2 bottom-2 opacity-0 group-focus-within:opacity-100 group-hover:opacity-100"
        aria-label={`Throw ${s.name} away`}
        title={`Throw ${s.name} away`}
        onClick={onRemove}
      >
        <Trash2 size={14} />
      </button>
    </li>
  );
}
