// The Lab as the page knows it: asked once, then again for what the server says has changed.
import { labEventSchema, type Job, type JobFrame } from '@plinket/contract';
import { useQuery, useQueryClient, type QueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { labApi } from '../api/lab.ts';
import { browserPorts, listenAt } from '../document/live.ts';

/** Time left is worked out anew at least so often while something renders, ms. */
const ANEW = 5000;

const after = (ms: number, then: () => void): (() => void) => {
  const timer = setTimeout(then, ms);
  return () => clearTimeout(timer);
};

/** Hears what happens in the Lab while the page is open. */
export function useLabEvents(): void {
  const queries = useQueryClient();
  useEffect(() => {
    const all = () => void queries.invalidateQueries({ queryKey: ['lab'] });
    return listenAt(
      () => '/api/lab/events',
      (data) => {
        const event = labEventSchema.safeParse(data);
        if (!event.success) return;
        const { job, nodes } = event.data;
        if (nodes) void queries.invalidateQueries({ queryKey: ['lab', 'nodes'] });
        if (!job) return;
        void queries.invalidateQueries({ queryKey: ['lab', 'jobs'] });
        void queries.invalidateQueries({ queryKey: ['lab', 'job', job] });
      },
      browserPorts(after),
      all,
    );
  }, [queries]);
}

const isGoing = (job: Job | undefined): boolean => job?.state === 'running' || job?.state === 'waiting';

export const useJobs = (search: string) =>
  useQuery({
    queryKey: ['lab', 'jobs', search],
    queryFn: () => labApi.jobs({ ...(search ? { search } : {}), limit: 100 }),
    placeholderData: (before) => before,
    refetchInterval: ({ state }) => (state.data?.items.some(isGoing) ? ANEW : false),
  });

export const useNodes = () => useQuery({ queryKey: ['lab', 'nodes'], queryFn: labApi.nodes, refetchInterval: ANEW * 2 });

export const useJob = (id: string) => useQuery({ queryKey: ['lab', 'job', id, 'itself'], queryFn: () => labApi.job(id) });

/** A job's frames, by their number; only what changed is asked for. */
export interface KnownFrames {
  changed: string;
  frames: readonly JobFrame[];
}

/** Frames that are known, with those that changed since. */
export function withChanged(
  known: KnownFrames | undefined,
  { items, changed }: { items: readonly JobFrame[]; changed: string },
): KnownFrames {
  if (!items.length && known) return known;
  const by = new Map(known?.frames.map((f) => [f.n, f]));
  for (const frame of items) by.set(frame.n, frame);
  return { changed, frames: [...by.values()].sort((a, b) => a.n - b.n) };
}

async function askFrames(queries: QueryClient, id: string): Promise<KnownFrames> {
  const known = queries.getQueryData<KnownFrames>(['lab', 'job', id, 'frames']);
  return withChanged(known, await labApi.frames(id, known?.changed));
}

export function useFrames(id: string) {
  const queries = useQueryClient();
  return useQuery({ queryKey: ['lab', 'job', id, 'frames'], queryFn: () => askFrames(queries, id) });
}
