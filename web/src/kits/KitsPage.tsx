import type { Kit } from '@plinket/core';
import { useQueries, useQueryClient } from '@tanstack/react-query';
import { FileUp } from 'lucide-react';
import { useDeferredValue, useEffect, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { SearchBox } from '../parts/SearchBox.tsx';
import { useFileDrop } from '../parts/drop.ts';
import { Empty } from '../parts/Empty.tsx';
import { PageHeader } from '../parts/PageHeader.tsx';
import { UNTIL_THERE, usePages } from '../parts/pages.ts';
import { KitLeaf } from './KitLeaf.tsx';
import { KitPlan } from './KitPlan.tsx';
import { KITS, partWords, shownWords, showsWords } from './words.ts';

/** Kits asked for at once. */
const PAGE = 60;
/** What kits are looked for by, beside words of one's own: tags of those that ship. */
const BY: [string, string[]][] = [
  ['Pattern', ['loop', 'closed triangle', 'split', 'butterfly', 'clamshell', 'under', 'rim', 'flat']],
  ['Lights', ['one light', 'two lights', 'three lights', 'four lights']],
  ['For', ['stage', 'turntable', 'sun', 'night', 'eye light', 'catalogue']],
];

interface CardProps {
  name: string;
  kit: Kit | undefined;
  /** Why it cannot be shown. */
  error: Error | null;
  on: string;
  chosen: boolean;
  choose(): void;
}

function Card({ name, kit, error, on, chosen, choose }: CardProps) {
  const shown = kit?.shown.find((s) => s.on === on && s.picture) ?? kit?.shown.find((s) => s.picture);
  return (
    <li>
      <button
        className={`flex w-full flex-col overflow-hidden rounded-sm border text-left ${chosen ? 'border-base-content bg-base-300' : 'hairline bg-base-200 hover:bg-base-300/60'}`}
        aria-pressed={chosen}
        onClick={choose}
        data-testid={`kit-${name}`}
      >
        <span className="grid h-44 w-full place-items-center overflow-hidden bg-[oklch(24%_0_0)]">
          {shown?.picture ? (
            <img src={api.blobUrl(shown.picture)} alt="" loading="lazy" className="h-44 w-full object-cover object-[50%_30%]" />
          ) : (
            kit && <KitPlan kit={kit} />
          )}
        </span>
        <span className="block w-full px-2 py-1.5">
          <span className="block truncate font-semibold">{name}</span>
          <span className="quiet block truncate text-2xs" title={error?.message}>
            {error
              ? 'It cannot be shown.'
              : kit && [partWords(kit), (shown && shownWords(shown)) || showsWords(kit)].filter(Boolean).join(' · ')}
          </span>
        </span>
      </button>
    </li>
  );
}

/** Most of those that kits were seen on who can be chosen. */
const MOST_SEEN = 4;

/** On whom most of some kits were seen. */
function seenOn(kits: readonly Kit[]): string[] {
  const counts = new Map<string, number>();
  for (const { on } of kits.flatMap((k) => k.shown)) counts.set(on, (counts.get(on) ?? 0) + 1);
  return [...counts]
    .sort((a, b) => b[1] - a[1])
    .slice(0, MOST_SEEN)
    .map(([on]) => on);
}

/** Brings kits in from files. */
function useBringing(chosen: (id: string) => void) {
  const queries = useQueryClient();
  const [busy, setBusy] = useState(false);
  const bring = async (files: readonly File[]) => {
    setBusy(true);
    for (const file of files)
      try {
        if (file.size === 0) throw new Error('it is empty');
        const { id, document } = await api.addKitFile(file);
        chosen(id);
        toast(`${document.name} is on the shelf`);
      } catch (error) {
        toast.error(`${file.name} was not brought in: ${(error as Error).message}`, { duration: 15_000 });
      }
    setBusy(false);
    await queries.invalidateQueries({ queryKey: KITS });
  };
  return { busy, bring };
}

/** The shelf of kits: looked through on one head, kept in order, given away and brought in. Which one is in hand stands in the address. */
export function KitsPage() {
  const [params, setParams] = useSearchParams();
  const inHand = params.get('kit') ?? undefined;
  const choose = (id: string | undefined) => setParams(id === undefined ? {} : { kit: id }, { replace: true });
  const [typed, setTyped] = useState('');
  const search = useDeferredValue(typed.trim());
  const kits = usePages([...KITS, 'list', search], (cursor) => api.kits({ search, cursor, limit: PAGE }), UNTIL_THERE);
  const records = useQueries({
    queries: (kits.items ?? []).map(({ id }) => ({ queryKey: [...KITS, id], queryFn: () => api.kit(id), staleTime: 30_000 })),
  });
  const seen = seenOn(records.flatMap(({ data }) => (data ? [data.document] : [])));
  const [wishedOn, setOn] = useState<string>();
  const on = wishedOn ?? seen[0] ?? '';
  const input = useRef<HTMLInputElement>(null);
  const { busy, bring } = useBringing(choose);
  const over = useFileDrop((files) => void bring(files));
  useEffect(() => {
    document.title = 'Kits – Plinket';
    return () => void (document.title = 'Plinket');
  }, []);
  return (
    <div className={`flex h-full min-w-[1000px] flex-col overflow-hidden ${over ? 'ring-2 ring-primary ring-inset' : ''}`}>
      <PageHeader title="Kits">
        {seen.length > 0 && (
          <>
            <span className="quiet" id="seen-on">
              seen on
            </span>
            <div className="join" role="group" aria-labelledby="seen-on">
              {seen.map((who) => (
                <button
                  key={who}
                  className={`btn join-item btn-sm ${who === on ? 'btn-primary' : ''}`}
                  aria-pressed={who === on}
                  onClick={() => setOn(who)}
                >
                  {who}
                </button>
              ))}
            </div>
          </>
        )}
        <button className="btn btn-sm" disabled={busy} title="Or drop .plinket files anywhere here" onClick={() => input.current?.click()}>
          <FileUp size={14} aria-hidden /> {busy ? 'Reading …' : 'Bring a kit in'}
        </button>
        <input
          ref={input}
          type="file"
          accept=".plinket,.zip"
          multiple
          className="hidden"
          aria-label="Kits as files"
          data-testid="kit-input"
          onChange={(e) => {
            const files = [...(e.target.files ?? [])];
            e.target.value = '';
            void bring(files);
          }}
        />
      </PageHeader>
      <main className="flex min-h-0 flex-1">
        <aside
          aria-label="What is looked for"
          className="flex w-44 shrink-0 flex-col gap-3 overflow-y-auto border-r hairline bg-base-100 p-2"
        >
          <SearchBox value={typed} onChange={setTyped} name="Find kits by words" placeholder="name, use, tag" />
          {BY.map(([what, tags]) => (
            <section key={what}>
              <h2 className="caps quiet pb-0.5">{what}</h2>
              <ul>
                {tags.map((tag) => (
                  <li key={tag}>
                    <button
                      className={`block min-h-6 w-full rounded-sm px-1.5 text-left ${typed === tag ? 'bg-base-content text-base-100' : 'hover:bg-base-300'}`}
                      aria-pressed={typed === tag}
                      onClick={() => setTyped(typed === tag ? '' : tag)}
                    >
                      {tag}
                    </button>
                  </li>
                ))}
              </ul>
            </section>
          ))}
        </aside>
        <section aria-label="Shelf of kits" className="min-h-0 min-w-0 flex-1 overflow-y-auto bg-base-100 p-3" tabIndex={0}>
          <ul className="grid grid-cols-[repeat(auto-fill,minmax(150px,1fr))] gap-3">
            {kits.items?.map(({ id, name }, i) => (
              <Card
                key={id}
                name={name}
                kit={records[i]?.data?.document}
                error={records[i]?.error ?? null}
                on={on}
                chosen={id === inHand}
                choose={() => choose(id === inHand ? undefined : id)}
              />
            ))}
          </ul>
          {kits.hasNextPage && (
            <button className="btn mx-auto mt-3 block btn-sm" disabled={kits.isFetchingNextPage} onClick={() => void kits.fetchNextPage()}>
              {kits.isFetchingNextPage ? 'Asking for more …' : 'More'}
            </button>
          )}
          {kits.items?.length === 0 && (
            <Empty title={search ? `No kit is called “${search}”, nor says so` : 'No kit is kept yet'}>
              {search
                ? 'Names, uses and tags are searched.'
                : 'On the Stage, K keeps a setup, or a part of it, as a kit: it goes under any other head, at its size.'}
            </Empty>
          )}
          {kits.isPending && <Empty title="Asking for the kits …">{''}</Empty>}
          {kits.isError && <Empty title="The kits cannot be shown">{kits.error.message}</Empty>}
        </section>
        {inHand !== undefined && <KitLeaf key={inHand} id={inHand} close={() => choose(undefined)} />}
      </main>
    </div>
  );
}
