// A shot on the board as it is now, at one of its frames.
import { inOrder, type Shot } from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { api } from '../api/client.ts';
import { atFrame, useDurations } from '../glimpse/at-frame.ts';
import { GlimpsePicture } from '../glimpse/Glimpse.tsx';
import type { Glimpses } from '../glimpse/glimpses.ts';
import type { BoardPictures } from './board-pictures.ts';
import type { Standing } from './jumps.ts';

/** Pixels of a picture on a card. */
const HEIGHT = 120;

/** The first, middle or last frame of a shot. */
const frameOf = ({ first, last }: Pick<Shot, 'first' | 'last'>, which: Exclude<BoardPictures, 'proofs'>): number =>
  ({ first, middle: Math.floor((first + last) / 2), last })[which];

export function ShotFrame({
  id,
  shot,
  standing,
  which,
  fps,
  glimpses,
}: {
  id: string;
  shot: Shot;
  standing: Standing | undefined;
  which: Exclude<BoardPictures, 'proofs'>;
  fps: number;
  glimpses: Glimpses;
}) {
  const { data, error } = useQuery({
    // asked for anew when it has changed, or when what it follows has
    queryKey: ['setup-standing', id, standing?.updatedAt, standing?.behind],
    queryFn: () => api.setup(id),
    enabled: standing !== undefined && !standing.gone,
    staleTime: Infinity,
    placeholderData: (before) => before,
  });
  const setup = data?.document;
  const posed = setup ? [...new Set(inOrder(setup.subjects).flatMap((s) => (s.pose ? [s.asset] : [])))] : [];
  const durations = useDurations(posed, (asset) => glimpses.character(asset));
  const frame = frameOf(shot, which);
  const of = useMemo(() => setup && durations && atFrame(shot, frame, fps, durations)(setup), [setup, durations, shot, frame, fps]);
  if (error) return <span className="truncate px-2 text-2xs">no picture: {error.message}</span>;
  return <GlimpsePicture of={of} glimpses={glimpses} height={HEIGHT} label={`${shot.code} at frame ${frame}`} />;
}
