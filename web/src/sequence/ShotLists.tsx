// Shot lists in and out: what a file would change is told before anything is.
import { compareShots, orderOf, SHOT_LISTS, writeShotList, type ShotList, type ShotReport } from '@plinket/core';
import { useQueryClient } from '@tanstack/react-query';
import { Download, FileUp } from 'lucide-react';
import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { useStore } from 'zustand';
import { api } from '../api/client.ts';
import { useFileDrop } from '../parts/drop.ts';
import { save } from '../parts/save.ts';
import { readList } from './read-list.ts';
import { listPatch } from './list-patch.ts';
import type { SequenceStore } from './store.ts';

interface Read {
  file: string;
  list: ShotList;
  report: ShotReport;
}

const counted = (n: number, what: string): string => `${n} ${what}`;

function Lines({ title, lines }: { title: string; lines: readonly string[] }) {
  if (!lines.length) return null;
  return (
    <section className="mb-2">
      <h3 className="quiet text-2xs">{title}</h3>
      <ul className="max-h-32 overflow-auto" tabIndex={0}>
        {lines.map((line, i) => (
          <li key={i}>{line}</li>
        ))}
      </ul>
    </section>
  );
}

/** What a shot list changes, to be taken or left. */
function Report({ read, take, leave }: { read: Read; take(missing: boolean): void; leave(): void }) {
  const [out, setOut] = useState(false);
  const { added, changed, missing, same } = read.report;
  const nothing = !added.length && !changed.length && !(out && missing.length);
  return (
    <dialog open className="modal modal-open" aria-label={`Shot list ${read.file}`} onKeyDown={(e) => e.key === 'Escape' && leave()}>
      <div className="modal-box w-120" data-testid="list-report">
        <h2 className="mb-2 text-base font-semibold">{read.file}</h2>
        <p className="mb-2">
          {[
            counted(added.length, 'new'),
            counted(changed.length, 'changed'),
            counted(missing.length, 'not in the list'),
            counted(same, 'the same'),
          ].join(' · ')}
        </p>
        <Lines title="new" lines={added.map((s) => `${s.code}: ${s.first}–${s.last}`)} />
        <Lines title="changed" lines={changed.map((s) => `${s.code}: ${s.words.join(', ')}`)} />
        <Lines title="not in the list" lines={missing.map((s) => s.code)} />
        <Lines title="left out of the file" lines={read.list.notes} />
        {missing.length > 0 && (
          <label className="flex h-6 items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-xs" checked={out} onChange={(e) => setOut(e.target.checked)} />
            take out those that are not in the list
          </label>
        )}
        <div className="mt-3 flex justify-end gap-2">
          <button className="btn btn-sm" autoFocus onClick={leave}>
            Leave it
          </button>
          <button className="btn btn-primary btn-sm" disabled={nothing} onClick={() => take(out)}>
            Take it over
          </button>
        </div>
      </div>
    </dialog>
  );
}

export function ShotLists({ id, store, fps }: { id: string; store: SequenceStore; fps: number }) {
  const { document } = useStore(store.state);
  const queries = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const [read, setRead] = useState<Read>();
  const [busy, setBusy] = useState(false);
  const bring = async (files: File[]) => {
    const [file] = files;
    if (!file) return;
    try {
      setBusy(true);
      const list = await readList(file, fps);
      setRead({ file: file.name, list, report: compareShots(store.state.getState().document, list.shots) });
    } catch (error) {
      toast.error((error as Error).message, { duration: 20_000 });
    } finally {
      setBusy(false);
    }
  };
  const over = useFileDrop((files) => void bring(files));
  const take = async (out: boolean) => {
    const { report, file } = read!;
    setRead(undefined);
    setBusy(true);
    try {
      const { added } = report;
      if (added.length) {
        store.know(await api.addShots(id, { shots: added.map(({ at: _, ...shot }) => shot) }));
        await queries.invalidateQueries({ queryKey: ['shots', id] });
      }
      store.change(listPatch(store.state.getState().document, report, out), file);
      toast(`${file} was taken over`);
    } catch (error) {
      toast.error(`${file} was not taken over: ${(error as Error).message}`);
    } finally {
      setBusy(false);
    }
  };
  const give = (kind: (typeof SHOT_LISTS)[number]) =>
    save(new Blob([writeShotList(kind, document, fps)], { type: 'text/plain' }), `${document.name}.${kind}`);
  return (
    <>
      <button
        className="btn btn-sm"
        disabled={busy}
        onClick={() => input.current?.click()}
        title="CSV, EDL or OpenTimelineIO: what it changes is told first"
      >
        <FileUp size={14} /> Shot list
      </button>
      <input
        ref={input}
        type="file"
        hidden
        accept=".csv,.tsv,.txt,.edl,.otio,.json"
        data-testid="list-input"
        onChange={(e) => {
          void bring([...(e.target.files ?? [])]);
          e.target.value = '';
        }}
      />
      <div className="join" role="group" aria-label="Shot list as a file">
        {SHOT_LISTS.map((kind) => (
          <button key={kind} className="btn join-item btn-sm" disabled={orderOf(document.shots).length === 0} onClick={() => give(kind)}>
            <Download size={14} /> {kind.toUpperCase()}
          </button>
        ))}
      </div>
      {over && (
        <div className="pointer-events-none fixed inset-0 z-50 grid place-items-center bg-base-100/85 text-lg font-semibold">
          Let go to read this shot list
        </div>
      )}
      {read && <Report read={read} take={(out) => void take(out)} leave={() => setRead(undefined)} />}
    </>
  );
}
