import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api } from '../api/client.ts';
import { Empty } from '../parts/Empty.tsx';
import { Mark } from '../parts/Mark.tsx';

/** All setups as a board of their latest proofs. */
export function CallSheetPage() {
  const setups = useQuery({ queryKey: ['setups'], queryFn: api.setups, retry: 20, retryDelay: 1500 });
  return (
    <div data-theme="sheet" className="min-h-full bg-base-100 text-base-content">
      <header className="flex h-14 items-center gap-2 border-b hairline px-8">
        <Mark />
        <h1 className="quiet ml-3">Call sheet</h1>
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
      {setups.data?.length === 0 && <Empty title="No setups yet">Start the server on an empty database and the demo is brought in.</Empty>}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(220px,1fr))] gap-6 p-8">
        {setups.data?.map((s) => (
          <li key={s.id}>
            <Link to={`/setup/${s.id}`} className="block rounded border hairline bg-white p-3 hover:border-base-content">
              <div className="grid aspect-[4/5] place-items-center overflow-hidden bg-[oklch(37%_0_0)] text-white/60">
                {s.picture ? <img src={api.blobUrl(s.picture)} alt="" className="h-full w-full object-cover" /> : 'no proof yet'}
              </div>
              <h2 className="mt-2 truncate font-semibold">{s.name}</h2>
              <p className="quiet truncate">{s.brief ? `“${s.brief}”` : 'no brief'}</p>
              <p className="quiet mt-1 text-2xs">
                revision {s.revision} · {new Date(s.updatedAt).toLocaleString()}
              </p>
            </Link>
          </li>
        ))}
      </ul>
    </div>
  );
}
