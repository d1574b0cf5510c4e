import type { Hand } from '@plinket/contract';
import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { rectSortingStrategy, SortableContext, sortableKeyboardCoordinates } from '@dnd-kit/sortable';
import { FIRST_FRAME, orderChange, orderOf, SHOT_STATES, type Jump, type Patch, type Shot } from '@plinket/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { ChartSpline, Lightbulb, Plus, Redo2, Send, Trash2, Undo2, type LucideIcon } from 'lucide-react';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { toast } from 'sonner';
import { useStore } from 'zustand';
import { api } from '../api/client.ts';
import { sequenceOf } from '../lab/sendable.ts';
import { SendJob } from '../lab/SendJob.tsx';
import { useGlimpses } from '../glimpse/Glimpse.tsx';
import { CardGrid } from '../parts/CardGrid.tsx';
import { Empty } from '../parts/Empty.tsx';
import { KeptText } from '../parts/KeptText.tsx';
import { PageHeader } from '../parts/PageHeader.tsx';
import { useRemoval } from '../parts/removal.ts';
import { SearchBox } from '../parts/SearchBox.tsx';
import { Along } from './Along.tsx';
import { insideWords } from './inside.ts';
import { jumpsOf, nextCode, type Standing } from './jumps.ts';
import { ProductionChoice } from './ProductionChoice.tsx';
import { ShotCard } from './ShotCard.tsx';
import { BOARD_PICTURES, rememberedPictures, rememberPictures, type BoardPictures } from './board-pictures.ts';
import { ShotLists } from './ShotLists.tsx';
import { Tolerances } from './Tolerances.tsx';
import type { SequenceStore } from './store.ts';
import { useSequence, useStanding } from './useSequence.ts';

/** Room that a shot's card takes, px. */
const CARD = { least: 232, gap: { x: 24, y: 18 }, below: 120 };
/** Frames of a new shot: a hundred. */
const NEW_FRAMES = { first: FIRST_FRAME, last: FIRST_FRAME + 99 };

/** Which shots are shown: words of code, brief, notes and characters; a state; only those that jump. */
interface Filter {
  words: string;
  state: string;
  jumping: boolean;
}

const ALL: Filter = { words: '', state: '', jumping: false };

function isShown(shot: Shot, standing: Standing | undefined, jumps: readonly Jump[] | undefined, filter: Filter): boolean {
  const text = [shot.code, shot.brief, shot.notes, ...(standing?.characters ?? [])].join(' ').toLowerCase();
  return (
    text.includes(filter.words.trim().toLowerCase()) &&
    (!filter.state || shot.state === filter.state) &&
    (!filter.jumping || (jumps?.length ?? 0) > 0)
  );
}

/** A step back or forth. */
function Step({ name, icon: Icon, words, take }: { name: 'Undo' | 'Redo'; icon: LucideIcon; words: string | undefined; take(): void }) {
  return (
    <button
      className="btn btn-ghost btn-sm btn-square"
      disabled={words === undefined}
      aria-label={name}
      title={words === undefined ? `Nothing to ${name.toLowerCase()}` : `${name}: ${words}`}
      onClick={take}
    >
      <Icon size={15} />
    </button>
  );
}

/** Opens a sequence by its address. */
export function SequencePage() {
  const { id = '' } = useParams();
  const { opened, others, store } = useSequence(id);
  if (store) return <Board key={id} id={id} store={store} others={others} />;
  return (
    <Empty title={opened.isError ? 'This sequence is not here' : 'Opening the sequence …'}>
      {opened.isError ? opened.error.message : opened.failureCount > 0 && 'The server or its database does not answer; trying again.'}
    </Empty>
  );
}

const items = (of: Record<string, object | null>): Patch => ({ shots: { items: of } }) as unknown as Patch;
const SAVE_WORDS = { idle: 'saved', sending: 'saving …', offline: 'not saved yet, trying again' } as const;

function Board({ id, store, others }: { id: string; store: SequenceStore; others: readonly Hand[] }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const standing = useStanding(id);
  const { document, undo, redo, save } = useStore(store.state);
  const change = useCallback((patch: Patch, words: string) => store.change(patch, words), [store]);
  const production = useQuery({
    queryKey: ['production', document.production],
    queryFn: () => api.production(document.production!),
    enabled: document.production !== undefined,
  });
  const [sending, setSending] = useState<readonly string[]>(),
    [along, setAlong] = useState(false),
    [pictures, setPictures] = useState(rememberedPictures);
  const glimpses = useGlimpses();
  const base = useQuery({
    queryKey: ['setup', document.setup],
    queryFn: () => api.setup(document.setup),
    enabled: sending !== undefined || along,
  });
  const fps = production.data?.document.fps ?? 24;
  const removal = useRemoval(['board']);
  const [filter, setFilter] = useState<Filter>(ALL);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [adding, setAdding] = useState(false);
  const last = useRef<string>(undefined);
  const byId = useMemo(() => new Map(standing.data?.shots.map((s) => [s.id, s])), [standing.data]);
  const jumps = useMemo(() => jumpsOf(document, byId), [document, byId]);
  const order = orderOf(document.shots);
  const shown = order.filter((shot) => isShown(document.shots.items[shot]!, byId.get(shot), jumps.get(shot), filter));

  const changeShot = useCallback((shot: string, to: Partial<Shot>, words: string) => change(items({ [shot]: to }), words), [change]);
  const place = (shot: string, to: number) => {
    const next = order.filter((s) => s !== shot);
    next.splice(Math.max(0, Math.min(next.length, to)), 0, shot);
    const moved = orderChange(document.shots, next);
    if (Object.keys(moved).length) change(items(moved), `moved ${document.shots.items[shot]!.code}`);
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
    const codes = shots.map((s) => document.shots.items[s]!.code);
    change(
      items(Object.fromEntries(shots.map((s) => [s, null]))),
      `took ${codes.length > 3 ? `${codes.length} shots` : codes.join(', ')} out`,
    );
    setChosen(new Set());
  };
  const add = async () => {
    setAdding(true);
    const code = nextCode(order.map((s) => document.shots.items[s]!.code));
    try {
      store.know(await api.addShots(id, { shots: [{ code, ...NEW_FRAMES, state: 'to light', brief: '', notes: '' }] }));
      await queries.invalidateQueries({ queryKey: ['shots', id] });
    } catch (error) {
      toast.error(`No shot was added: ${(error as Error).message}`);
    } finally {
      setAdding(false);
    }
  };

  // undo and redo by keyboard, but not from within a field
  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || (e.target as HTMLElement).matches('input:not([type=checkbox]), textarea')) return;
      const key = e.key.toLowerCase();
      if (key !== 'z' && key !== 'y') return;
      e.preventDefault();
      if (key === 'y' || e.shiftKey) store.redo();
      else store.undo();
    };
    window.addEventListener('keydown', keys);
    return () => window.removeEventListener('keydown', keys);
  }, [store]);

  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const dropped = ({ active, over }: DragEndEvent) => {
    if (over && active.id !== over.id) place(String(active.id), order.indexOf(String(over.id)));
  };

  const picked = order.filter((s) => chosen.has(s));
  return (
    <div data-theme="sheet" className="flex h-full flex-col bg-base-100 text-base-content">
      <PageHeader title={production.data?.document.name ?? 'Sequence'}>
        <span className={`caps ${save === 'offline' ? 'text-warning' : 'quiet'}`} role="status" data-testid="save-state" data-state={save}>
          {SAVE_WORDS[save]}
        </span>
        <Step name="Undo" icon={Undo2} words={undo.at(-1)?.words} take={() => store.undo()} />
        <Step name="Redo" icon={Redo2} words={redo.at(-1)?.words} take={() => store.redo()} />
        <ShotLists id={id} store={store} fps={fps} />
        <Link className="btn btn-sm" to={`/setup/${document.setup}`} title="The setup that all its shots follow">
          <Lightbulb size={14} /> Light of the sequence
        </Link>
        <button
          className="btn btn-sm"
          disabled={order.length === 0}
          onClick={() => setSending([])}
          title="Have its shots rendered by the Lab"
        >
          <Send size={14} /> Send to the Lab
        </button>
        <button className="btn btn-primary btn-sm" disabled={adding} onClick={() => void add()}>
          <Plus size={14} /> Add shot
        </button>
      </PageHeader>
      {sending && (
        <SendJob
          name={document.name}
          sendables={[sequenceOf(id, document, sending)]}
          like={base.data?.document}
          leave={() => setSending(undefined)}
        />
      )}
      <main className="flex min-h-0 flex-1 flex-col pt-4">
        <div className="mx-8 mb-4 flex flex-wrap items-center gap-2">
          <KeptText
            value={document.name}
            name="Name of the sequence"
            most={120}
            needed
            className="field-sizing-content w-auto min-w-40 border-transparent bg-transparent px-1 text-lg font-semibold"
            change={(name) => change({ name }, 'renamed')}
          />
          <ProductionChoice of={document.production} change={(to) => change({ production: to } as Patch, 'in another production')} />
          <KeptText
            value={document.brief}
            name="Brief of the sequence"
            placeholder="what is its light for?"
            most={240}
            className="min-w-28 flex-1 border-transparent bg-transparent px-1"
            change={(brief) => change({ brief }, 'brief')}
          />
          <SearchBox
            value={filter.words}
            onChange={(words) => setFilter((f) => ({ ...f, words }))}
            name="Find shots by words"
            placeholder="code, brief, character"
            className="input-xs w-36"
          />
          <select
            className="select select-xs w-24"
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
          <select
            className="select select-xs w-28"
            aria-label="Pictures of the shots"
            title="Of their latest proofs, or as they are now, drawn while you wait"
            value={pictures}
            onChange={(e) => {
              const which = e.target.value as BoardPictures;
              setPictures(which);
              rememberPictures(which);
            }}
          >
            {BOARD_PICTURES.map((p) => (
              <option key={p} value={p}>
                {p === 'proofs' ? 'latest proofs' : `${p} frames`}
              </option>
            ))}
          </select>
          <button
            className="btn btn-ghost btn-xs"
            aria-expanded={along}
            disabled={order.length === 0}
            title="A value of the light along the shots, as a curve"
            onClick={() => setAlong((a) => !a)}
          >
            <ChartSpline size={14} /> Along
          </button>
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
        {along && base.data && <Along id={id} document={document} setup={base.data.document} leave={() => setAlong(false)} />}
        {picked.length > 0 && (
          <div
            className="mx-8 mb-3 flex items-center gap-2 rounded border hairline bg-white px-3 py-1.5"
            role="group"
            aria-label="Chosen shots"
          >
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
            <button className="btn btn-xs" onClick={() => setSending(picked)}>
              Send to the Lab
            </button>
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
              <button className="btn btn-sm" onClick={() => setFilter(ALL)}>
                Show all
              </button>
            }
          />
        ) : (
          <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
            <SortableContext items={shown} strategy={rectSortingStrategy}>
              <CardGrid
                items={shown}
                size={CARD}
                label="Shots in their order"
                className="px-8 pt-1"
                card={(shot, at) => (
                  <ShotCard
                    key={shot}
                    id={shot}
                    at={at}
                    shot={document.shots.items[shot]!}
                    standing={byId.get(shot)}
                    inside={insideWords(others, shot)}
                    jumps={jumps.get(shot)}
                    chosen={chosen.has(shot)}
                    pictures={pictures}
                    glimpses={glimpses}
                    fps={fps}
                    change={changeShot}
                    choose={choose}
                    move={(s, by) => place(s, order.indexOf(s) + by)}
                    remove={(s) => takeOut([s])}
                  />
                )}
              />
            </SortableContext>
          </DndContext>
        )}
      </main>
    </div>
  );
}
