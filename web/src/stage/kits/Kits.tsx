import { KIT_PARTS, partsOf, type Kit, type KitPart } from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { PackagePlus, Search, Trash2 } from 'lucide-react';
import { useDeferredValue, useRef, useState } from 'react';
import { api } from '../../api/client.ts';
import { CheckOf } from '../../parts/Fields.tsx';
import { useRemoval } from '../../parts/removal.ts';
import { useView } from '../context.ts';
import { Panel } from '../Panel.tsx';
import { KeepKit, KITS } from './KeepKit.tsx';
import { KitPlan } from './KitPlan.tsx';
import { fitOf, usePutting, type Putting } from './putting.ts';
import { chosenParts, PART_WORDS, partWords, showsWords } from './words.ts';

/** Width of a card and the room between two, px. */
const CARD = 320,
  GAP = 12;

interface CardProps {
  id: string;
  name: string;
  parts: ReadonlySet<KitPart>;
  how: Putting['how'];
  busy: boolean;
  put: (kit: Kit, wish: Putting) => void;
}

function Card({ id, name, parts, how, busy, put }: CardProps) {
  const { data, error } = useQuery({ queryKey: [...KITS, id], queryFn: () => api.kit(id), staleTime: Infinity });
  const removal = useRemoval(KITS);
  const kit = data?.document;
  const of = kit ? chosenParts(parts, partsOf(kit)) : [];
  const shows = kit ? showsWords(kit) : '';
  return (
    <article className="flex h-28 gap-3 rounded border hairline bg-base-200 p-2" aria-label={name} data-testid={`kit-${name}`}>
      {kit ? <KitPlan kit={kit} /> : <i className="size-21 shrink-0 rounded bg-base-300" />}
      <div className="flex min-w-0 flex-1 flex-col">
        <div className="flex items-center gap-1">
          <h3 className="min-w-0 flex-1 truncate font-semibold" title={name}>
            {name}
          </h3>
          <button
            className="btn btn-ghost btn-xs btn-square size-6"
            aria-label={`Throw ${name} away`}
            onClick={() =>
              void removal(
                name,
                () => api.removeKit(id),
                () => api.restoreKit(id),
              )
            }
          >
            <Trash2 className="size-3.5" aria-hidden />
          </button>
        </div>
        <p className="quiet line-clamp-2 text-2xs leading-snug" title={kit?.brief}>
          {error ? `It cannot be shown: ${error.message}` : kit?.brief}
        </p>
        <p className="quiet truncate text-2xs" title={kit?.notes}>
          {kit && [partWords(kit), shows].filter(Boolean).join(' · ')}
        </p>
        <div className="mt-auto flex gap-1">
          <button
            className="btn btn-xs bg-base-300"
            disabled={!kit || of.length === 0 || busy}
            aria-label={`Put ${name} on`}
            onClick={() => kit && put(kit, { parts: of, how, fit: false })}
          >
            Put on
          </button>
          {kit && fitOf(kit) && of.includes('rig') && (
            <button
              className="btn btn-xs bg-base-300"
              disabled={busy}
              aria-label={`Put ${name} on, fitted to this face`}
              title={`Put on, then moved until this face shows ${shows}`}
              onClick={() => put(kit, { parts: of, how, fit: true })}
            >
              and fit to this face
            </button>
          )}
        </div>
      </div>
    </article>
  );
}

/** The kits side by side: only those in sight are asked for. */
function Strip({ kits, ...given }: { kits: readonly { id: string; name: string }[] } & Omit<CardProps, 'id' | 'name'>) {
  'use no memo'; // the virtualizer is one object that changes within
  const scroller = useRef<HTMLUListElement>(null);
  const along = useVirtualizer({
    count: kits.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => CARD + GAP,
    horizontal: true,
    overscan: 1,
  });
  return (
    <ul ref={scroller} className="relative h-34 overflow-x-auto" tabIndex={0} aria-label={`${kits.length} kits that are kept`}>
      <li aria-hidden style={{ width: along.getTotalSize() + GAP, height: 1 }} />
      {along.getVirtualItems().map(({ index, start }) => (
        <li key={kits[index]!.id} className="absolute top-3" style={{ left: start + GAP, width: CARD }}>
          <Card id={kits[index]!.id} name={kits[index]!.name} {...given} />
        </li>
      ))}
    </ul>
  );
}

function OpenKits() {
  const [find, setFind] = useState('');
  const search = useDeferredValue(find.trim());
  const [parts, setParts] = useState<ReadonlySet<KitPart>>(new Set(KIT_PARTS));
  const [how, setHow] = useState<Putting['how']>('replace');
  const [keeping, setKeeping] = useState(false);
  const { put, busy } = usePutting();
  const list = useQuery({ queryKey: [...KITS, 'list', search], queryFn: () => api.kits({ limit: 200, ...(search ? { search } : {}) }) });
  const kits = list.data?.items;
  return (
    <Panel
      name="Kits"
      of="kits"
      tools={
        <>
          <label className="input input-xs flex w-48 items-center gap-1.5">
            <Search size={12} aria-hidden />
            <input value={find} onChange={(e) => setFind(e.target.value)} placeholder="Find a kit" aria-label="Find a kit" />
          </label>
          <fieldset className="flex min-w-0 items-center gap-3 whitespace-nowrap">
            <legend className="sr-only">What of a kit is taken</legend>
            <span className="quiet">take its</span>
            {KIT_PARTS.map((part) => (
              <CheckOf
                key={part}
                value={part}
                chosen={parts}
                onChosen={setParts}
                words={PART_WORDS[part]}
                name={`Take its ${PART_WORDS[part]}`}
              />
            ))}
          </fieldset>
          <select
            className="select select-xs h-6 min-h-0 w-44 py-0"
            aria-label="What becomes of the lights that are here"
            value={how}
            onChange={(e) => setHow(e.target.value as Putting['how'])}
          >
            <option value="replace">instead of what is here</option>
            <option value="merge">beside what is here</option>
          </select>
          <span className="flex-1" />
          <button className="btn btn-xs" aria-pressed={keeping} onClick={() => setKeeping(!keeping)}>
            <PackagePlus size={13} aria-hidden /> Keep this setup as a kit
          </button>
        </>
      }
    >
      {keeping && <KeepKit done={() => setKeeping(false)} />}
      {kits?.length ? (
        <Strip kits={kits} parts={parts} how={how} busy={busy} put={put} />
      ) : (
        <p className="quiet px-3 py-8 text-center">
          {list.error
            ? `The kits cannot be shown: ${list.error.message}`
            : !kits
              ? 'The kits are being asked for …'
              : search
                ? `No kit is called “${search}”, nor says so.`
                : 'No kit is kept yet. Keep this setup, or a part of it, as one: it goes under any other head, at its size.'}
        </p>
      )}
    </Panel>
  );
}

/** The kits, while they are open: over the lower part, so that the face stays in sight. */
export function Kits() {
  return useView((v) => v.panel) === 'kits' ? <OpenKits /> : null;
}
