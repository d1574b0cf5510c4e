import type { Setup } from '@plinket/core';
import { useEffect, useRef, useState } from 'react';
import { StageEngine } from '../engine/bridge.ts';
import { after } from '../document/store.ts';
import { Glimpses, type Glimpse } from './glimpses.ts';

/** Small pictures for a page; they stop when it is left. */
export function useGlimpses(): Glimpses {
  const [glimpses] = useState(() => new Glimpses(() => new StageEngine(), after));
  useEffect(() => () => glimpses.close(), [glimpses]);
  return glimpses;
}

/** The picture of a setup as it is now, so many pixels high; what was there before stays until it has come. */
export function GlimpsePicture({
  of,
  glimpses,
  height,
  label,
}: {
  of: Setup | undefined;
  glimpses: Glimpses;
  height: number;
  label: string;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [shown, setShown] = useState<Glimpse>(),
    [failure, setFailure] = useState<string>();
  useEffect(() => {
    if (!of) return;
    const left = new AbortController();
    setFailure(undefined);
    glimpses.picture(of, height, left.signal).then(setShown, (error: Error) => left.signal.aborted || setFailure(error.message));
    return () => left.abort();
  }, [of, glimpses, height]);
  useEffect(() => {
    if (shown) canvas.current?.getContext('2d')?.putImageData(new ImageData(shown.rgba, shown.width, shown.height), 0, 0);
  }, [shown]);
  if (failure)
    return (
      <span className="truncate px-2 text-2xs" title={failure}>
        no picture: {failure}
      </span>
    );
  if (!shown) return <span className="text-2xs">being drawn …</span>;
  return (
    <canvas
      ref={canvas}
      width={shown.width}
      height={shown.height}
      className="h-full w-full object-contain"
      role="img"
      aria-label={label}
      data-testid="glimpse"
    />
  );
}
