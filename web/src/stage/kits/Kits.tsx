import type { KitRecord } from '@plinket/contract';
import { fitFill, fitPattern, KIT_PARTS, partsOf, type KitPart } from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { LayoutGrid, PackagePlus, RefreshCw, Search, Trash2 } from 'lucide-react';
import { useDeferredValue, useRef, useState } from 'react';
import { Link } from 'react-router';
import { api } from '../../api/client.ts';
import { CheckOf } from '../../parts/Fields.tsx';
import { useRemoval } from '../../parts/removal.ts';
import { useDoc, useView } from '../context.ts';
import { Panel } from '../Panel.tsx';
import { KitPlan } from '../../kits/KitPlan.tsx';
import { KeepKit } from './KeepKit.tsx';
import { usePutting, useSentKit, type Putting } from './putting.ts';
import { Ties } from './Ties.tsx';
import { useTying } from './ties.ts';
import { chosenParts, KITS, PART_WORDS, partWords, showsWords } from '../../kits/words.ts';

/** Width of a card and the room between two, px. */
const CARD = 320,
  GAP = 12;

interface CardProps {
  id: string;
  name: string;
  parts: ReadonlySet<KitPart>;
  how: Putting['how'];
  tied: boolean;
  busy: boolean;
  put: (kit: KitRecord, wish: Putting) => void;
}

function Card({ id, name, parts, how, tied, busy, put }: CardProps) {
  const { data, error } = useQuery({ queryKey: [...KITS, id], queryFn: () => api.kit(id), staleTime: 30_000 });
  const removal = useRemoval(KITS);
  const tie = useDoc((d) => d.setup.ties?.[id]);
  const { takeAnew } = useTying();
  const kit = data?.document;
  const picture = kit?.shown.find((s) => s.picture)?.picture;
  const of = kit ? chosenParts(parts, partsOf(kit)) : [];
  const shows = kit ? showsWords(kit) : '';
  return (
    <article className="flex h-28 gap-3 rounded border hairline bg-base-200 p-2" aria-label={name} data-testid={`kit-${name}`}>
      {picture ? (
        <img src={api.blobUrl(picture)} alt="" className="h-full w-17 shrink-0 rounded object-cover" />
      ) : kit ? (
        <KitPlan kit={kit} />
      ) : (
        <i className="size-21 shrink-0 rounded bg-base-300" />
      )}
      <div className="flex min-w-0 flex-1 flex-col">
        <div className="flex items-center gap-1">
          <h3 className="min-w-0 flex-1 truncate font-semibold" title={name}>
            {name}
          </h3>
          {tie?.offers && data && (
            <button
              className="btn btn-ghost btn-xs btn-square size-6"
              aria-label={`Take ${name} anew from this setup`}
              title="Take it anew from this setup: others that are tied to it are offered the difference"
              onClick={() => void takeAnew(data)}
            >
              <RefreshCw className="size-3.5" aria-hidden />
            </button>
          )}
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
            onClick={() => data && put(data, { parts: of, how, fit: false, tied })}
          >
            Put on
          </button>
          {kit && (fitPattern(kit) || fitFill(kit)) && of.includes('rig') && (
            <button
              className="btn btn-xs bg-base-300"
              disabled={busy}
              aria-label={`Put ${name} on, fitted to this face`}
              title={`Put on, then moved until this face shows ${shows}`}
              onClick={() => put(data!, { parts: of, how, fit: true, tied })}
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
  const [keeping, setKeeping] = useState(false),
    [tied, setTied] = useState(false);
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
          <fieldset className="flex items-center gap-3 whitespace-nowrap">
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
          <label
            className="flex items-center gap-1.5 whitespace-nowrap"
            title="What changes in the kit later is offered here as a difference"
          >
            <input type="checkbox" className="checkbox checkbox-xs" checked={tied} onChange={(e) => setTied(e.target.checked)} />
            stay tied
          </label>
          <span className="flex-1" />
          <Link
            className="btn btn-xs btn-square"
            to="/kits"
            aria-label="The shelf of kits"
            title="The shelf of kits: pictures, notes, files"
          >
            <LayoutGrid size={13} aria-hidden />
          </Link>
          <button className="btn btn-xs" aria-pressed={keeping} onClick={() => setKeeping(!keeping)}>
            <PackagePlus size={13} aria-hidden /> Keep this setup as a kit
          </button>
        </>
      }
    >
      <Ties />
      {keeping && <KeepKit done={() => setKeeping(false)} />}
      {kits?.length ? (
        <Strip kits={kits} parts={parts} how={how} tied={tied} busy={busy} put={put} />
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
  useSentKit();
  return useView((v) => v.panel) === 'kits' ? <OpenKits /> : null;
}
