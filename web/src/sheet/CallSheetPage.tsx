import { useDeferredValue, useState } from 'react';
import { Link } from 'react-router';
import { api } from '../api/client.ts';
import { SearchBox } from '../parts/SearchBox.tsx';
import { Empty } from '../parts/Empty.tsx';
import { Mark } from '../parts/Mark.tsx';
import { UNTIL_THERE, usePages } from '../parts/pages.ts';
import { useRemoval } from '../parts/removal.ts';
import { WhoAmI } from '../people/WhoAmI.tsx';
import { Beginnings } from './Beginnings.tsx';
import { NewProduction, Productions } from './Productions.tsx';
import { SetupCard } from './SetupCard.tsx';

const PAGE = 30;

/** Productions with their sequences, and all other setups as a board of their latest proofs. */
export function CallSheetPage() {
  const [typed, setTyped] = useState('');
  const search = useDeferredValue(typed.trim());
  const setups = usePages(['setups', search], (cursor) => api.setups({ search, cursor, limit: PAGE, loose: 'true' }), UNTIL_THERE);
  const removal = useRemoval(['setups']);
  const empty = setups.items?.length === 0 && search === '';
  const now = new Date();
  return (
    <div data-theme="sheet" className="min-h-full bg-base-100 text-base-content">
      <header className="flex h-14 items-center gap-2 border-b hairline px-8">
        <Mark />
        <h1 className="quiet ml-3">Call sheet</h1>
        <div className="ml-auto" />
        <Link className="btn btn-ghost btn-sm" to="/kits">
          Kits
        </Link>
        <Link className="btn btn-ghost btn-sm" to="/lab">
          Lab
        </Link>
        <Link className="btn btn-ghost btn-sm" to="/proofs">
          Proofs
        </Link>
        <NewProduction />
        {!empty && <Beginnings large={false} />}
        <SearchBox
          value={typed}
          onChange={setTyped}
          name="Find setups by name or brief"
          placeholder="name or brief"
          className="input-sm w-56"
        />
        <WhoAmI />
      </header>
      {search === '' && <Productions />}
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
          <Empty title="Begin with a setup" action={<Beginnings large />}>
            From black with a stand-in, on a stage that is ready, or with a character of your own: drop its file here.
          </Empty>
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
            now={now}
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
