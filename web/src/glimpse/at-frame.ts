import { laterBy, type Setup, type Shot } from '@plinket/core';
import { useQueries } from '@tanstack/react-query';
import type { CharacterReport } from '../engine/messages.ts';

/** Lengths of clips, seconds, by asset and name. */
export type Durations = ReadonlyMap<string, number>;

/** How long the clips of some characters are; nothing until all are known. */
export function useDurations(assets: readonly string[], character: (asset: string) => Promise<CharacterReport>): Durations | undefined {
  return useQueries({
    queries: assets.map((asset) => ({ queryKey: ['character', asset], queryFn: () => character(asset) })),
    combine: (reports) =>
      reports.every((r) => r.data)
        ? new Map(reports.flatMap((r, i) => r.data!.clips.map((c) => [`${assets[i]} ${c.name}`, c.duration] as const)))
        : undefined,
  });
}

/** What a setup is at a frame of a shot. */
export const atFrame =
  (shot: Pick<Shot, 'first'>, frame: number, fps: number, durations: Durations) =>
  (setup: Setup): Setup =>
    laterBy(setup, (frame - shot.first) / fps, (asset, clip) => durations.get(`${asset} ${clip}`));
