import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { SHOT_STATES, type Jump, type Shot } from '@plinket/core';
import { GripVertical, Trash2 } from 'lucide-react';
import { memo, type CSSProperties, type KeyboardEvent } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { KeptText } from '../parts/KeptText.tsx';
import type { Glimpses } from '../glimpse/glimpses.ts';
import { framesTyped, type Standing } from './jumps.ts';
import type { BoardPictures } from './board-pictures.ts';
import { ShotFrame } from './ShotFrame.tsx';

interface Props {
  id: string;
  /** Where it stands on the board. */
  at: CSSProperties;
  shot: Shot;
  standing: Standing | undefined;
  jumps: readonly Jump[] | undefined;
  chosen: boolean;
  /** What is shown of it. */
  pictures: BoardPictures;
  glimpses: Glimpses;
  fps: number;
  /** Who has it open now, in words. */
  inside: string;
  change(id: string, to: Partial<Shot>, words: string): void;
  choose(id: string, range: boolean): void;
  move(id: string, by: number): void;
  remove(id: string): void;
}

/** What a shot departs in, in one line. */
function Departures({ standing }: { standing: Standing | undefined }) {
  const told = standing?.departures ?? [];
  return (
    <p className="truncate text-2xs text-base-content/70" title={told.join('\n')} data-testid="departures">
      {standing?.gone ? 'its setup was thrown away' : told.length ? told.join(' · ') : 'as its sequence'}
    </p>
  );
}

/** A shot on the board: its latest proof, what is said of it, and what jumps from the one before. */
export const ShotCard = memo(function ShotCard({
  id,
  at,
  shot,
  standing,
  jumps,
  chosen,
  pictures,
  glimpses,
  fps,
  inside,
  change,
  choose,
  move,
  remove,
}: Props) {
  const { setNodeRef, attributes, listeners, transform, transition, isDragging } = useSortable({ id });
  const [worst] = jumps ?? [];
  const keys = (e: KeyboardEvent) => {
    // in a field arrows are the field's
    if (!e.altKey || (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight')) return;
    e.preventDefault();
    move(id, e.key === 'ArrowLeft' ? -1 : 1);
  };
  return (
    <li
      ref={setNodeRef}
      style={{ ...at, transform: CSS.Translate.toString(transform), transition }}
      className={isDragging ? 'z-10 opacity-80' : ''}
      data-testid={`shot-${shot.code}`}
      onKeyDown={keys}
    >
      {worst && (
        <span
          className="absolute top-0 -left-3.5 h-full w-1 rounded bg-warning"
          title={`Against the shot before: ${jumps!.map((j) => j.words).join('; ')}`}
          aria-hidden
        />
      )}
      <div
        className={`rounded border bg-white p-2 focus-within:border-base-content hover:border-base-content ${chosen ? 'border-base-content' : 'hairline'}`}
      >
        <Link to={`/shot/${id}`} className="block" aria-label={`Open ${shot.code}`}>
          <div className="grid aspect-video place-items-center overflow-hidden bg-[oklch(24%_0_0)] text-white/60">
            {pictures !== 'proofs' ? (
              <ShotFrame id={id} shot={shot} standing={standing} which={pictures} fps={fps} glimpses={glimpses} />
            ) : standing?.proof ? (
              <img
                src={api.blobUrl(standing.proof.picture)}
                alt=""
                className="h-full w-full object-contain"
                loading="lazy"
                draggable={false}
              />
            ) : (
              'no proof yet'
            )}
          </div>
        </Link>
        {inside && (
          <span
            className="absolute top-4 left-4 max-w-40 truncate rounded-sm bg-black/70 px-1 text-2xs text-white"
            title={`Open: ${inside}`}
            data-testid="inside"
          >
            {inside}
          </span>
        )}
        <div className="mt-1.5 flex items-center gap-1">
          <label className="grid size-6 shrink-0 cursor-pointer place-items-center">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              aria-label={`Choose ${shot.code}`}
              checked={chosen}
              onChange={() => undefined}
              onClick={(e) => choose(id, e.shiftKey)}
            />
          </label>
          <KeptText
            value={shot.code}
            name={`Code of ${shot.code}`}
            most={60}
            needed
            className="min-w-0 flex-1 border-transparent bg-transparent px-1 font-semibold"
            change={(code) => change(id, { code }, `renamed ${shot.code}`)}
          />
          <KeptText
            value={`${shot.first}–${shot.last}`}
            name={`Frames of ${shot.code}`}
            most={20}
            needed
            className="w-24 shrink-0 border-transparent bg-transparent px-1 text-right"
            change={(text) => {
              const frames = framesTyped(text);
              if (frames) change(id, frames, `frames of ${shot.code}`);
              else toast.error(`“${text}” are no frames: they are said as 1001–1125, the first not after the last.`);
            }}
          />
        </div>
        <div className="flex items-center gap-1">
          <select
            className="h-6 min-w-0 flex-1 rounded-sm bg-transparent text-2xs"
            aria-label={`State of ${shot.code}`}
            value={shot.state}
            onChange={(e) => change(id, { state: e.target.value as Shot['state'] }, `${shot.code}: ${e.target.value}`)}
          >
            {SHOT_STATES.map((s) => (
              <option key={s}>{s}</option>
            ))}
          </select>
          {standing?.behind && (
            <span className="text-2xs text-base-content/70" title="The sequence has changed since this shot was opened">
              behind
            </span>
          )}
          <button
            className="btn btn-ghost btn-xs btn-square cursor-grab touch-none"
            aria-label={`Move ${shot.code}`}
            title="Drag, or Alt and an arrow, to move it"
            {...attributes}
            {...listeners}
          >
            <GripVertical size={14} />
          </button>
          <button
            className="btn btn-ghost btn-xs btn-square"
            aria-label={`Take ${shot.code} out`}
            title="Take it out of the sequence"
            onClick={() => remove(id)}
          >
            <Trash2 size={14} />
          </button>
        </div>
        <Departures standing={standing} />
        <p
          className={`truncate text-2xs ${worst ? 'font-semibold text-[oklch(45%_0.12_60)]' : 'text-base-content/70'}`}
          title={jumps?.map((j) => j.words).join('\n')}
          data-testid="jump"
        >
          {worst
            ? `jumps: ${worst.words}${jumps!.length > 1 ? `, ${jumps!.length - 1} more` : ''}`
            : jumps
              ? 'goes on from the shot before'
              : '\u00a0'}
        </p>
        <KeptText
          value={shot.brief}
          name={`Brief of ${shot.code}`}
          placeholder="what is the light for?"
          most={240}
          className="w-full border-transparent bg-transparent px-1"
          change={(brief) => change(id, { brief }, `brief of ${shot.code}`)}
        />
      </div>
    </li>
  );
});
