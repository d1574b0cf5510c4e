import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { rectSortingStrategy, SortableContext, sortableKeyboardCoordinates } from '@dnd-kit/sortable';
import { orderChange, orderOf, SHOT_STATES, type Patch, type Shot } from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { Lightbulb, Plus, Redo2, Trash2, Undo2 } from 'lucide-react';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { Empty } from '../parts/Empty.tsx';
import { KeptText } from '../parts/KeptText.tsx';
import { PageHeader } from '../parts/PageHeader.tsx';
import { useRemoval } from '../parts/removal.ts';
import { SearchBox } from '../parts/SearchBox.tsx';
import { jumpsOf, nextCode } from './jumps.ts';
import { ShotCard } from './ShotCard.tsx';
import { ShotLists } from './ShotLists.tsx';
import { Tolerances } from './Tolerances.tsx';
import { useSequence } from './useSequence.ts';

/** Frames of a new shot. Common practice, no source. */
const NEW_FRAMES = { first: 1001, last: 1100 };

/** Which shots are shown: words of code, brief, notes and characters; a state; only those that jump. */
interface Filter {
  words: string;
  state: string;
  jumping: boolean;
}

export function SequencePage() {
  const { id = '' } = useParams();
  const navigate = useNavigate();
  const { sequence, standing, change, undo, redo, refresh } = useSequence(id);
  const record = sequence.data,
    document = record?.document;
  const production = useQuery({
    queryKey: ['production', document?.production],
    queryFn: () => api.production(document!.production!),
    enabled: document?.production !== undefined,
  });
  const fps = production.data?.document.fps ?? 24;
  const removal = useRemoval(['board']);
  const [filter, setFilter] = useState<Filter>({ words: '', state: '', jumping: false });
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [adding, setAdding] = useState(false);
  const last = useRef<string>(undefined);
  const byId = useMemo(() => new Map(standing.data?.shots.map((s) => [s.id, s])), [standing.data]);
  const jumps = useMemo(() => (document ? jumpsOf(document, byId) : new Map<string, []>()), [document, byId]);
  const order = document ? orderOf(document.shots) : [];
  const shown = order.filter((shot) => {
    const s = document!.shots.items[shot]!,
      words = filter.words.trim().toLowerCase();
    const text = [s.code, s.brief, s.notes, ...(byId.get(shot)?.characters ?? [])].join(' ').toLowerCase();
    return text.includes(words) && (!filter.state || s.state === filter.state) && (!filter.jumping || (jumps.get(shot)?.length ?? 0) > 0);
  });

  const items = (of: Record<string, object | null>): Patch => ({ shots: { items: of } }) as unknown as Patch;
  const changeShot = useCallback((shot: string, to: Partial<Shot>, words: string) => change(items({ [shot]: to }), words), [change]);
  const place = (shot: string, to: number) => {
    const next = order.filter((s) => s !== shot);
    next.splice(Math.max(0, Math.min(next.length, to)), 0, shot);
    const moved = orderChange(document!.shots, next);
    if (Object.keys(moved).length) change(items(moved), `moved ${document!.shots.items[shot]!.code}`);
  };
  const choose = (shot: string, range: boolean) => {
    const from = last.current === undefined ? -1 : shown.indexOf(last.current),
      to = shown.indexOf(shot);
    setChosen((now) => {
      const next = new Set(now);
      if (range && from >= 0) for (const s of shown.slice(Math.min(from, to), Math.max(from, to) + 1)) next.add(s);
      else if (!next.delete(shot)) next.add(shot);
      return next;
    });
    last.current = shot;
  };
  const takeOut = (shots: readonly string[]) => {
    const codes = shots.map((s) => document!.shots.items[s]!.code);
    change(
      items(Object.fromEntries(shots.map((s) => [s, null]))),
      `took ${codes.length > 3 ? `${codes.length} shots` : codes.join(', ')} out`,
    );
    setChosen(new Set());
  };
  const add = async () => {
    setAdding(true);
    const code = nextCode(order.map((s) => document!.shots.items[s]!.code));
    try {
      await api.addShots(id, { shots: [{ code, ...NEW_FRAMES, state: 'to light', brief: '', notes: '' }] });
      await refresh();
    } catch (error) {
      toast.error(`No shot was added: ${(error as Error).message}`);
    } finally {
      setAdding(false);
    }
  };

  // undo and redo by keyboard, but not from within a field
  const steps = useRef({ undo, redo });
  useEffect(() => {
    steps.current = { undo, redo };
  });
  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || (e.target as HTMLElement).matches('input:not([type=checkbox]), textarea')) return;
      const key = e.key.toLowerCase();
      if (key !== 'z' && key !== 'y') return;
      e.preventDefault();
      (key === 'y' || e.shiftKey ? steps.current.redo : steps.current.undo).take();
    };
    window.addEventListener('keydown', keys);
    return () => window.removeEventListener('keydown', keys);
  }, []);

  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const dropped = ({ active, over }: DragEndEvent) => {
    if (over && active.id !== over.id) place(String(active.id), order.indexOf(String(over.id)));
  };

  if (!record || !document)
    return (
      <Empty title={sequence.isError ? 'This sequence is not here' : 'Opening the sequence …'}>
        {sequence.isError
          ? sequence.error.message
          : sequence.failureCount > 0 && 'The server or its database does not answer; trying again.'}
      </Empty>
    );
  const picked = order.filter((s) => chosen.has(s));
  return (
    <div data-theme="sheet" className="min-h-full bg-base-100 text-base-content">
      <PageHeader title={production.data?.document.name ?? 'Sequence'}>
        <button
          className="btn btn-ghost btn-sm btn-square"
          disabled={!undo.words}
          aria-label="Undo"
          title={undo.words ? `Undo ${undo.words}` : 'Nothing to undo'}
          onClick={undo.take}
        >
          <Undo2 size={15} />
        </button>
        <button
          className="btn btn-ghost btn-sm btn-square"
          disabled={!redo.words}
          aria-label="Redo"
          title={redo.words ? `Do again ${redo.words}` : 'Nothing to do again'}
          onClick={redo.take}
        >
          <Redo2 size={15} />
        </button>
        <ShotLists record={record} fps={fps} change={change} />
        <Link className="btn btn-sm" to={`/setup/${document.setup}`} title="The setup that all its shots follow">
          <Lightbulb size={14} /> Light of the sequence
        </Link>
        <button className="btn btn-primary btn-sm" disabled={adding} onClick={() => void add()}>
          <Plus size={14} /> Add shot
        </button>
      </PageHeader>
      <main className="px-8 py-5">
        <div className="mb-4 flex flex-wrap items-center gap-2">
          <KeptText
            value={document.name}
            name="Name of the sequence"
            most={120}
            needed
            className="field-sizing-content min-w-40 border-transparent px-1 text-lg font-semibold"
            change={(name) => change({ name }, 'renamed')}
          />
          <KeptText
            value={document.brief}
            name="Brief of the sequence"
            placeholder="what is its light for?"
            most={240}
            className="min-w-40 flex-1 border-transparent px-1"
            change={(brief) => change({ brief }, 'brief')}
          />
          <SearchBox
            value={filter.words}
            onChange={(words) => setFilter((f) => ({ ...f, words }))}
            name="Find shots by words"
            placeholder="code, brief, character"
            className="input-xs w-44"
          />
          <select
            className="select select-xs w-28"
            aria-label="Only shots in a state"
            value={filter.state}
            onChange={(e) => setFilter((f) => ({ ...f, state: e.target.value }))}
          >
            <option value="">any state</option>
            {SHOT_STATES.map((s) => (
              <option key={s}>{s}</option>
            ))}
          </select>
          <label className="flex h-6 items-center gap-1.5">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={filter.jumping}
              onChange={(e) => setFilter((f) => ({ ...f, jumping: e.target.checked }))}
            />
            only jumps
          </label>
          <Tolerances of={document.tolerance} change={(tolerance) => change({ tolerance }, 'tolerances')} />
          <button
            className="btn btn-ghost btn-xs btn-square"
            aria-label="Throw the sequence away"
            title="Throw the sequence away"
            onClick={() =>
              void removal(
                document.name,
                () => api.removeSequence(id),
                () => api.restoreSequence(id),
              ).then(() => navigate('/'))
            }
          >
            <Trash2 size={14} />
          </button>
        </div>
        {picked.length > 0 && (
          <div className="mb-3 flex items-center gap-2 rounded border hairline bg-white px-3 py-1.5" role="group" aria-label="Chosen shots">
            <b>{picked.length} chosen</b>
            <select
              className="select select-xs w-32"
              aria-label="State of the chosen shots"
              value=""
              onChange={(e) =>
                change(
                  items(Object.fromEntries(picked.map((s) => [s, { state: e.target.value }]))),
                  `${picked.length} shots: ${e.target.value}`,
                )
              }
            >
              <option value="">state …</option>
              {SHOT_STATES.map((s) => (
                <option key={s}>{s}</option>
              ))}
            </select>
            <button className="btn btn-xs" onClick={() => takeOut(picked)}>
              Take out
            </button>
            <button className="btn btn-ghost btn-xs" onClick={() => setChosen(new Set())}>
              None
            </button>
          </div>
        )}
        {order.length === 0 ? (
          <Empty
            title="No shots yet"
            action={
              <button className="btn btn-primary btn-sm" onClick={() => void add()}>
                Add the first
              </button>
            }
          >
            A shot begins with the light of the sequence. Or bring in a shot list: CSV, EDL, OpenTimelineIO.
          </Empty>
        ) : shown.length === 0 ? (
          <Empty
            title="No shot is like that"
            action={
              <button className="btn btn-sm" onClick={() => setFilter({ words: '', state: '', jumping: false })}>
                Show all
              </button>
            }
          />
        ) : (
          <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
            <SortableContext items={shown} strategy={rectSortingStrategy}>
              <ul className="grid grid-cols-[repeat(auto-fill,minmax(232px,1fr))] gap-x-6 gap-y-5" aria-label="Shots in their order">
                {shown.map((shot) => (
                  <ShotCard
                    key={shot}
                    id={shot}
                    shot={document.shots.items[shot]!}
                    standing={byId.get(shot)}
                    jumps={jumps.get(shot)}
                    chosen={chosen.has(shot)}
                    change={changeShot}
                    choose={choose}
                    move={(s, by) => place(s, order.indexOf(s) + by)}
                    remove={(s) => takeOut([s])}
                  />
                ))}
              </ul>
            </SortableContext>
          </DndContext>
        )}
      </main>
    </div>
  );
}
