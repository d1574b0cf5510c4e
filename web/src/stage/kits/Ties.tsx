import { Link2, X } from 'lucide-react';
import { useDeferredValue } from 'react';
import { useDoc } from '../context.ts';
import { useTies, useTying, type TieState } from './ties.ts';

function Row({ state: { id, tie, changed, gone } }: { state: TieState }) {
  const { offer, show, leave, untie } = useTying();
  // what it would change here is said of the setup as it is, but not while a hand moves something in it
  const setup = useDeferredValue(useDoc((d) => d.setup));
  const offered = changed && setup.ties?.[id] && offer(setup, id, changed);
  return (
    <li className="flex items-center gap-2" data-testid={`tie-${tie.name}`}>
      <Link2 size={12} aria-hidden className={changed ? 'text-warning' : 'quiet'} />
      <span className="min-w-0 flex-1 truncate" title={offered?.words}>
        {gone
          ? `${tie.name} was thrown away; what it brought stays.`
          : offered
            ? `${tie.name} has changed: ${offered.words || 'only what is said of it'}${offered.left.length ? `; locked or not here: ${offered.left.join(', ')}` : ''}`
            : `Tied to ${tie.name}: its changes are offered here.`}
      </span>
      {changed && (
        <>
          <button className="btn btn-primary btn-xs" onClick={() => show(id, changed)}>
            Show it here
          </button>
          <button className="btn btn-xs" title="Until it changes once more" onClick={() => leave(id, changed)}>
            Stay as it is
          </button>
        </>
      )}
      <button
        className="btn btn-ghost btn-xs btn-square"
        aria-label={`Untie ${tie.name}`}
        title="Its changes are offered no more"
        onClick={() => untie(id)}
      >
        <X size={12} />
      </button>
    </li>
  );
}

/** The kits that this setup is tied to, with what they offer. */
export function Ties() {
  const ties = useTies();
  if (ties.length === 0) return null;
  return (
    <ul
      aria-label="Kits that this setup is tied to"
      className="flex max-h-20 flex-col gap-0.5 overflow-y-auto border-b hairline px-3 py-1"
      tabIndex={0}
    >
      {ties.map((state) => (
        <Row key={state.id} state={state} />
      ))}
    </ul>
  );
}
