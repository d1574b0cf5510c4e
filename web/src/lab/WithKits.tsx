// Which kits a character is rendered under, and which other setups' characters are, too.
import type { ListWish, SetupList } from '@plinket/contract';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import { api } from '../api/client.ts';
import { SearchBox } from '../parts/SearchBox.tsx';

/** What was chosen to go with it: kits to be put on it, and other setups whose characters they are put on, too. */
export interface With {
  kits: readonly string[];
  setups: readonly string[];
}

/** Most that a list shows; more are found by words. */
const SHOWN = 60;

/** A list whose items are chosen; those that are chosen stay so while other words are looked for. */
function Choices({
  name,
  list,
  without,
  chosen,
  choose,
}: {
  name: string;
  list(wish: ListWish): Promise<SetupList>;
  without?: string;
  chosen: readonly string[];
  choose(ids: readonly string[]): void;
}) {
  const [typed, setTyped] = useState('');
  const search = useDeferredValue(typed.trim());
  const asked = useQuery({ queryKey: ['choices', name, search], queryFn: () => list({ search, limit: SHOWN }) });
  const items = (asked.data?.items ?? []).filter((i) => i.id !== without);
  const all = items.length > 0 && items.every((i) => chosen.includes(i.id));
  return (
    <fieldset className="min-w-0 flex-1">
      <legend className="quiet text-2xs">
        {name}, {chosen.length} chosen
      </legend>
      <div className="flex items-center gap-1">
        <SearchBox value={typed} onChange={setTyped} name={`Find ${name}`} placeholder="name or tag" className="input-xs min-w-0 flex-1" />
        <button
          type="button"
          className="btn btn-ghost btn-xs"
          disabled={items.length === 0}
          onClick={() =>
            choose(all ? chosen.filter((c) => !items.some((i) => i.id === c)) : [...new Set([...chosen, ...items.map((i) => i.id)])])
          }
        >
          {all ? 'None' : 'All'}
        </button>
      </div>
      <ul className="mt-1 h-28 overflow-y-auto" tabIndex={0} aria-label={name}>
        {items.map(({ id, name: called }) => (
          <li key={id}>
            <label className="flex h-6 items-center gap-1.5">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={chosen.includes(id)}
                onChange={(e) => choose(e.target.checked ? [...chosen, id] : chosen.filter((c) => c !== id))}
              />
              <span className="truncate">{called}</span>
            </label>
          </li>
        ))}
        {asked.isSuccess && items.length === 0 && <li className="quiet">None is called that.</li>}
        {asked.isError && <li className="text-warning">{asked.error.message}</li>}
      </ul>
    </fieldset>
  );
}

/** @param under the setup that is sent */
export function WithKits({ under, chosen, choose }: { under: string; chosen: With; choose(chosen: With): void }) {
  return (
    // Enter in a search looks, and sends nothing
    <div
      className="flex gap-3 border-b hairline py-1"
      data-testid="with-kits"
      onKeyDown={(e) => e.key === 'Enter' && (e.target as HTMLElement).matches('input[type=search]') && e.preventDefault()}
    >
      <Choices name="kits" list={api.kits} chosen={chosen.kits} choose={(kits) => choose({ ...chosen, kits })} />
      <Choices
        name="also characters of"
        list={(wish) => api.setups({ ...wish, loose: 'true' })}
        without={under}
        chosen={chosen.setups}
        choose={(setups) => choose({ ...chosen, setups })}
      />
    </div>
  );
}
