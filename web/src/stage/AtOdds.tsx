// What two made of one value at once: both side by side, each to be seen in the picture, neither lost.
import { valueAt } from '@plinket/core';
import { X } from 'lucide-react';
import { oddsWords, type AtOdds as Odds } from '../document/store.ts';
import { useDoc, useStage } from './context.ts';

function Side({ words, who, stands, put }: { words: string; who: string; stands: boolean; put(): void }) {
  return (
    <button
      className={`flex w-44 flex-col rounded border px-2 py-1 text-left ${stands ? 'border-base-content bg-base-300' : 'hairline hover:border-base-content'}`}
      aria-pressed={stands}
      onClick={put}
    >
      <span className="quiet text-2xs">
        {who}
        {stands && ', in the picture'}
      </span>
      <span className="truncate font-semibold" title={words}>
        {words}
      </span>
    </button>
  );
}

function Row({ odds }: { odds: Odds }) {
  const { doc } = useStage();
  const now = useDoc((d) => d.setup);
  const { decide, settleOdds } = doc.getState();
  const standing = JSON.stringify(valueAt(now, odds.path));
  const is = (side: 'mine' | 'theirs') => standing === JSON.stringify(odds[side]);
  return (
    <li className="flex items-center gap-2" data-testid="at-odds">
      <Side who="you" words={oddsWords(odds, 'mine')} stands={is('mine')} put={() => decide(odds.key, 'mine')} />
      <Side
        who={odds.by ?? 'another window'}
        words={oddsWords(odds, 'theirs')}
        stands={is('theirs')}
        put={() => decide(odds.key, 'theirs')}
      />
      <button className="btn btn-ghost btn-xs btn-square" aria-label="Leave it as it is" onClick={() => settleOdds(odds.key)}>
        <X size={14} />
      </button>
    </li>
  );
}

/** Over the picture, out of the way of the hand, until each is decided. */
export function AtOdds() {
  const odds = useDoc((d) => d.atOdds);
  if (odds.length === 0) return null;
  return (
    <section
      aria-label="Changed by two at once"
      className="fixed bottom-48 left-1/3 z-20 max-h-60 -translate-x-1/2 overflow-y-auto rounded border hairline bg-base-100 p-2 shadow-2xl"
    >
      <h2 className="mb-1 caps">Changed by two at once</h2>
      <ul className="flex flex-col gap-1">
        {odds.map((o) => (
          <Row key={o.key} odds={o} />
        ))}
      </ul>
    </section>
  );
}
