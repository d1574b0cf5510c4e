import { changesOf } from '@plinket/core';
import { ChevronLeft, ChevronRight, Split } from 'lucide-react';
import { Link } from 'react-router';
import { openOrShut, useStage } from '../context.ts';
import { FrameChoice } from './FrameChoice.tsx';
import { useFollowed, useShot, type OpenShot } from './shot.ts';

function Neighbour({ of, way }: { of: OpenShot['previous']; way: 'before' | 'after' }) {
  const Icon = way === 'before' ? ChevronLeft : ChevronRight;
  if (!of) return <span className="size-6" aria-hidden />;
  return (
    <Link
      className="btn btn-ghost btn-xs btn-square"
      to={`/shot/${of.id}`}
      aria-label={`The shot ${way}: ${of.shot.code}`}
      title={`The shot ${way}: ${of.shot.code}`}
    >
      <Icon size={14} />
    </Link>
  );
}

/** The way from the sequence to this shot, its neighbours, and how many departures it has. */
export function ShotWay() {
  const { view } = useStage();
  const open = useShot();
  const { setup, base } = useFollowed();
  if (!open) return null;
  const { sequence, shot, previous, next } = open,
    count = base && changesOf(base, setup).length;
  return (
    <nav className="flex items-center gap-1" aria-label="Sequence">
      <Link className="max-w-36 truncate rounded px-1 hover:bg-base-300" to={`/sequence/${sequence.id}`} title="The board of the sequence">
        {sequence.document.name}
      </Link>
      <span className="quiet">▸</span>
      {shot ? (
        <>
          <Neighbour of={previous} way="before" />
          <b data-testid="shot-code" title={`${shot.first}–${shot.last}, ${shot.state}`}>
            {shot.code}
          </b>
          <Neighbour of={next} way="after" />
          <FrameChoice shot={shot} production={sequence.document.production} />
          <button
            className="btn btn-ghost btn-xs"
            onClick={() => view.setState(openOrShut('shot'))}
            title="What this shot departs in from its sequence, and what jumps from its neighbours"
          >
            <Split size={13} /> {count ?? '…'} {count === 1 ? 'departure' : 'departures'}
          </button>
        </>
      ) : (
        <b title="What changes here changes in every shot that does not depart in it">light of all shots</b>
      )}
    </nav>
  );
}
