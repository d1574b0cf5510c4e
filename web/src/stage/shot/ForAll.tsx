// A departure that is to be everybody's: which shots that changes, each before and after, before it is done.
import { applyPatch, follow, type Patch, type Setup } from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { api } from '../../api/client.ts';
import { GlimpsePicture, useGlimpses } from '../../glimpse/Glimpse.tsx';
import type { Glimpses } from '../../glimpse/glimpses.ts';
import type { OpenShot } from './shot.ts';

/** A change of the sequence that is looked at before it is made. */
export interface Raising {
  words: string;
  patch: Patch;
  /** Shots that it changes, and those whose own departures hide it. */
  seen: string[];
  hidden: string[];
}

/** Pixels of a picture, and shots that have some: of many a few say enough. */
const HEIGHT = 96,
  MOST = 12;

/** A shot as it is, and as it would be. */
function BeforeAfter({ id, code, patch, glimpses }: { id: string; code: string; patch: Patch; glimpses: Glimpses }) {
  const shot = useQuery({ queryKey: ['setup-before', id], queryFn: () => api.setup(id), gcTime: 0 });
  const before = shot.data?.document,
    follows = before?.follows;
  const base = useQuery({
    queryKey: ['setup-at', follows?.setup, follows?.revision],
    queryFn: () => api.setupAt(follows!.setup, follows!.revision),
    enabled: follows !== undefined,
    staleTime: Infinity,
  });
  const then = base.data?.document;
  const after = useMemo((): Setup | undefined => {
    if (!before?.follows || !then) return undefined;
    return follow(before, then, applyPatch(then, patch), before.follows).setup;
  }, [before, then, patch]);
  const aspect = before?.camera.aspect ?? 1;
  const error = shot.error ?? base.error;
  return (
    <li data-testid={`before-after-${code}`}>
      <div className="flex gap-0.5 text-white/60">
        {(
          [
            ['before', before],
            ['after', after],
          ] as const
        ).map(([when, of]) => (
          <span
            key={when}
            className="grid place-items-center overflow-hidden bg-[oklch(24%_0_0)]"
            style={{ height: HEIGHT, width: Math.round(HEIGHT * aspect) }}
          >
            {error ? (
              <span className="truncate px-1 text-2xs" title={error.message}>
                no picture
              </span>
            ) : (
              <GlimpsePicture of={of} glimpses={glimpses} height={HEIGHT} label={`${code} ${when}`} />
            )}
          </span>
        ))}
      </div>
      <span className="quiet text-2xs">{code}: before, after</span>
    </li>
  );
}

export function ForAll({
  raising: { words, patch, seen, hidden },
  sequence,
  make,
  leave,
}: {
  raising: Raising;
  sequence: OpenShot['sequence'];
  make(): void;
  leave(): void;
}) {
  const glimpses = useGlimpses();
  const codeOf = (id: string): string => sequence.document.shots.items[id]?.code ?? '';
  const codes = (ids: readonly string[]) => ids.map(codeOf).join(', ');
  return (
    <div className="mb-2 rounded border hairline bg-base-200 p-2" role="alertdialog" aria-label="For all shots" data-testid="raising">
      <p className="font-semibold">{words}</p>
      <p>
        {seen.length ? `Changes ${codes(seen)}.` : 'No other shot shows it.'}
        {hidden.length > 0 && ` Their own departures hide it, or they have it: ${codes(hidden)}.`}
      </p>
      {seen.length > 0 && (
        <ul className="mt-1 flex gap-3 overflow-x-auto pb-1" tabIndex={0} aria-label="Before and after">
          {seen.slice(0, MOST).map((id) => (
            <BeforeAfter key={id} id={id} code={codeOf(id)} patch={patch} glimpses={glimpses} />
          ))}
          {seen.length > MOST && <li className="quiet self-center text-2xs">and {seen.length - MOST} more</li>}
        </ul>
      )}
      <div className="mt-1 flex gap-2">
        <button className="btn btn-primary btn-xs" onClick={make}>
          Make it the sequence’s
        </button>
        <button className="btn btn-ghost btn-xs" onClick={leave}>
          Leave
        </button>
      </div>
    </div>
  );
}
