// Which frame of a shot the picture and the reading are of: the first, the middle, the last, or any. Nothing of it is saved.
import { chosenOf, inOrder, type Shot } from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import { api } from '../../api/client.ts';
import { atFrame, useDurations } from '../../glimpse/at-frame.ts';
import { useDoc, useStage, useView } from '../context.ts';
import { FPS } from '../clips.ts';

/** How long the clips are that this setup's figures are posed by; nothing until all are known. */
function usePosed() {
  const { engine } = useStage();
  const posed = useDoc((d) =>
    inOrder(d.setup.subjects)
      .flatMap((s) => (s.pose ? [s.asset] : []))
      .join(' '),
  );
  const assets = useMemo(() => [...new Set(posed.split(' ').filter(Boolean))], [posed]);
  return useDurations(assets, (asset) => engine.character(asset));
}

/** @param production of the sequence: it says how many frames a second has */
export function FrameChoice({ shot, production }: { shot: Shot; production: string | undefined }) {
  const { view } = useStage();
  const { data } = useQuery({
    queryKey: ['production', production],
    queryFn: () => api.production(production!),
    enabled: production !== undefined,
  });
  const fps = data?.document.fps ?? FPS;
  const durations = usePosed();
  const frame = useView((v) => v.later?.frame) ?? shot.first;
  const [typed, setTyped] = useState<string>();
  const show = (to: number): void => {
    const at = Math.round(Math.min(shot.last, Math.max(shot.first, to)));
    view.setState({ later: at === shot.first || !durations ? undefined : { frame: at, of: atFrame(shot, at, fps, durations) } });
  };
  // another shot, or other frames of this one: from its first
  useEffect(() => {
    view.setState({ later: undefined });
    return () => view.setState({ later: undefined });
  }, [view, shot.first, shot.last]);
  const moves = durations !== undefined && durations.size > 0;
  return (
    <span className="flex items-center" role="group" aria-label="Frame that is shown">
      <input
        className="h-6 w-12 rounded-sm bg-transparent px-1 text-right hover:bg-base-300 focus:bg-base-300 disabled:opacity-50"
        aria-label="Frame"
        inputMode="numeric"
        disabled={!moves}
        title={
          moves
            ? `Frame ${frame} of ${shot.first}–${shot.last}: what the picture and the reading are of. Arrow keys go on; pictures that are kept are of the first.`
            : 'Every frame is the same: no figure is posed by a clip'
        }
        value={typed ?? String(frame)}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={() => {
          if (typed !== undefined && Number.isFinite(Number(typed)) && typed.trim()) show(Number(typed));
          setTyped(undefined);
        }}
        onKeyDown={(e) => {
          if (e.key === 'Enter') e.currentTarget.blur();
          if (e.key !== 'ArrowUp' && e.key !== 'ArrowDown') return;
          e.preventDefault();
          setTyped(undefined);
          show(frame + (e.key === 'ArrowUp' ? 1 : -1) * (e.shiftKey ? 10 : 1));
        }}
        data-testid="shot-frame"
      />
      {moves &&
        chosenOf(shot, 'three').map((at) => {
          const [sign, which] = at === shot.first ? ['|‹', 'first'] : at === shot.last ? ['›|', 'last'] : ['·', 'middle'];
          return (
            <button
              key={at}
              className={`grid h-6 w-6 place-items-center rounded-sm text-2xs ${frame === at ? 'font-bold' : 'quiet hover:text-base-content'}`}
              aria-pressed={frame === at}
              aria-label={`The ${which} frame, ${at}`}
              title={`The ${which} frame, ${at}`}
              onClick={() => show(at)}
            >
              {sign}
            </button>
          );
        })}
    </span>
  );
}
