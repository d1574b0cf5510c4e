import type { KitRecord } from '@plinket/contract';
import { fitFill, fitPattern, partsOf } from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { Download, Trash2, X } from 'lucide-react';
import { useNavigate } from 'react-router';
import { api } from '../api/client.ts';
import { KeptText } from '../parts/KeptText.tsx';
import { useRemoval } from '../parts/removal.ts';
import { when } from '../parts/when.ts';
import { useChangingKit } from './changing.ts';
import { KitPlan } from './KitPlan.tsx';
import { KITS, lightLines, PART_WORDS, shownWords, tagsOf } from './words.ts';

/** Setups that a kit can be put on from here: those worked on last. */
const SETUPS = 40;

/** What of it was seen on whom. */
function Seen({ kit: { shown } }: { kit: KitRecord['document'] }) {
  return (
    <ul className="grid grid-cols-3 gap-1.5" aria-label="Seen on">
      {shown.map((s) => (
        <li key={s.on} className="min-w-0">
          {s.picture && <img src={api.blobUrl(s.picture)} alt={`On ${s.on}`} className="w-full rounded-sm" />}
          <span className="block truncate text-2xs" title={s.on}>
            {s.on}
          </span>
          <span className="quiet block text-2xs leading-tight">{shownWords(s)}</span>
        </li>
      ))}
    </ul>
  );
}

/** What became of it, the latest first. */
function Became({ record }: { record: KitRecord }) {
  const { data } = useQuery({ queryKey: [...KITS, record.id, 'history', record.revision], queryFn: () => api.kitHistory(record.id) });
  if (!data?.items.length) return null;
  return (
    <section>
      <h3 className="caps quiet">What became of it</h3>
      <ol className="text-2xs">
        {data.items.slice(0, 6).map((i) => (
          <li key={i.revision} className="truncate" title={i.words}>
            {i.words} <span className="quiet">{when(new Date(i.at), new Date())}</span>
          </li>
        ))}
      </ol>
    </section>
  );
}

/** The kit in hand: what is said of it, what it holds, where it can go. */
export function KitLeaf({ id, close }: { id: string; close(): void }) {
  const { data: record, error } = useQuery({ queryKey: [...KITS, id], queryFn: () => api.kit(id), staleTime: 30_000 });
  const setups = useQuery({ queryKey: ['setups', 'for kits'], queryFn: () => api.setups({ limit: SETUPS }) });
  const changing = useChangingKit();
  const removal = useRemoval(KITS);
  const navigate = useNavigate();
  const kit = record?.document;
  return (
    <aside
      aria-label={kit ? `About ${kit.name}` : 'A kit'}
      className="flex w-72 shrink-0 flex-col gap-2.5 overflow-y-auto border-l hairline bg-base-100 p-3"
      tabIndex={0}
    >
      {error && <p role="alert">This kit is not here: {error.message}</p>}
      {record && kit && (
        <>
          <div className="flex items-center gap-1">
            <KeptText
              value={kit.name}
              name="Name of the kit"
              placeholder="its name"
              most={120}
              needed
              className="min-w-0 flex-1 font-semibold"
              change={(name) => changing(record, { name })}
            />
            <button className="btn btn-ghost btn-xs btn-square" aria-label={`Put ${kit.name} out of hand`} onClick={close}>
              <X size={14} />
            </button>
          </div>
          <textarea
            key={`${id} ${kit.brief}`}
            rows={2}
            className="textarea textarea-xs min-h-0 w-full shrink-0 resize-none"
            aria-label="What the kit is for"
            placeholder="what it is for, in a line"
            maxLength={240}
            defaultValue={kit.brief}
            onBlur={(e) => e.target.value.trim() !== kit.brief && changing(record, { brief: e.target.value.trim() })}
          />
          <Seen kit={kit} />
          <label className="flex items-center gap-2">
            <span className="quiet shrink-0">Put it on</span>
            <select
              className="select select-xs min-w-0 flex-1"
              aria-label="Put it on a setup"
              value=""
              onChange={(e) => e.target.value && void navigate(`/setup/${e.target.value}`, { state: { kit: id } })}
            >
              <option value="">a setup …</option>
              {setups.data?.items.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name}
                </option>
              ))}
            </select>
          </label>
          <section className="flex gap-3">
            <div className="min-w-0 flex-1">
              <h3 className="caps quiet">It holds and replaces</h3>
              <p>
                {partsOf(kit)
                  .map((p) => PART_WORDS[p])
                  .join(', ')}
              </p>
              <ul className="text-2xs">
                {lightLines(kit).map((line) => (
                  <li key={line}>{line}</li>
                ))}
              </ul>
              {(fitPattern(kit) ?? fitFill(kit)) !== undefined && (
                <p className="quiet text-2xs">To be fitted it needs a face with its landmarks.</p>
              )}
            </div>
            <KitPlan kit={kit} />
          </section>
          <KeptText
            value={kit.tags.join(', ')}
            name="Tags of the kit"
            placeholder="tags, by commas"
            most={400}
            className="w-full shrink-0"
            change={(text) => changing(record, { tags: tagsOf(text) })}
          />
          <textarea
            key={`${id} ${kit.notes}`}
            className="textarea textarea-xs min-h-20 w-full shrink-0"
            aria-label="Notes of the kit"
            placeholder="notes"
            maxLength={4000}
            defaultValue={kit.notes}
            onBlur={(e) => e.target.value !== kit.notes && changing(record, { notes: e.target.value })}
          />
          <Became record={record} />
          <div className="mt-auto flex gap-1">
            <a className="btn btn-xs" href={api.kitFileUrl(id)} download>
              <Download size={12} aria-hidden /> Give it away (.plinket)
            </a>
            <span className="flex-1" />
            <button
              className="btn btn-ghost btn-xs"
              onClick={() =>
                void removal(
                  kit.name,
                  () => api.removeKit(id).then(close),
                  () => api.restoreKit(id),
                )
              }
            >
              <Trash2 size={12} aria-hidden /> Throw away
            </button>
          </div>
        </>
      )}
    </aside>
  );
}
