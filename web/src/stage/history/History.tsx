// The setup's history as a time line: what was done, when, and any moment of it to be seen and had back.
import { isEmptyPatch, restorePatch } from '@plinket/core';
import { useInfiniteQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client.ts';
import { when } from '../../parts/when.ts';
import { useDoc, useStage, useView } from '../context.ts';
import { Panel } from '../Panel.tsx';
import { leavePreview, usePreview } from '../reading/placing.ts';

/** Width of a moment on the line, and the room after it, px. */
const MOMENT = 168,
  GAP = 8;

interface Moment {
  revision: number;
  words: string;
  by?: string | undefined;
  /** Nothing for the first: nobody noted when that was changed. */
  at?: string;
}

/** When something was, to the minute. */
function momentWords(at: Date, now: Date): string {
  const day = when(at, now),
    time = at.toLocaleTimeString(undefined, { hour: 'numeric', minute: '2-digit' });
  return day === time ? time : `${day}, ${time}`;
}

/** The line, the latest first; only what is in sight is drawn. */
function Line({ moments, more, pick }: { moments: readonly Moment[]; more: () => void; pick: (m: Moment) => void }) {
  'use no memo'; // the virtualizer is one object that changes within
  const scroller = useRef<HTMLOListElement>(null);
  const now = new Date();
  const along = useVirtualizer({
    count: moments.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => MOMENT + GAP,
    horizontal: true,
    overscan: 3,
  });
  const seen = along.getVirtualItems(),
    end = (seen.at(-1)?.index ?? 0) >= moments.length - 5;
  useEffect(() => {
    if (end) more();
  }, [end, more]);
  return (
    <ol ref={scroller} className="relative h-30 overflow-x-auto" tabIndex={0} aria-label="Moments, the latest first">
      <li aria-hidden style={{ width: along.getTotalSize() + GAP, height: 1 }} />
      {seen.map(({ index, start }) => {
        const moment = moments[index]!,
          at = moment.at === undefined ? undefined : new Date(moment.at);
        return (
          <li key={moment.revision} className="absolute top-3" style={{ left: start + GAP, width: MOMENT }}>
            <button
              className="flex h-22 w-full flex-col rounded border hairline bg-base-200 p-2 text-left hover:border-base-content"
              title={at ? `${moment.words}\n${at.toLocaleString()}` : moment.words}
              onClick={() => pick(moment)}
            >
              <span className="quiet truncate text-2xs">
                {moment.by && `${moment.by} · `}
                {at ? momentWords(at, now) : 'the beginning'} · {moment.revision}
              </span>
              <span className="line-clamp-3 leading-snug">{moment.words}</span>
            </button>
          </li>
        );
      })}
    </ol>
  );
}

function OpenHistory() {
  const stage = useStage();
  const { doc } = stage;
  const id = useDoc((d) => d.id),
    save = useDoc((d) => d.save);
  const show = usePreview();
  const pages = useInfiniteQuery({
    queryKey: ['history', id],
    queryFn: ({ pageParam }) => api.history(id, pageParam),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (page) => page.next,
    refetchOnMount: 'always',
  });
  const { refetch } = pages;
  // what was done just now is in it once it is saved
  useEffect(() => {
    if (save === 'idle') void refetch();
  }, [save, refetch]);
  const moments: Moment[] = pages.data?.pages.flatMap((p) => p.items) ?? [];
  const pick = ({ revision, words }: Moment) => {
    leavePreview(stage);
    api
      .setupAt(id, revision)
      .then(({ document }) => {
        const patch = restorePatch(doc.getState().setup, document);
        if (isEmptyPatch(patch)) return void toast('The setup is as it was then.');
        show({ patch, text: revision === 1 ? 'As it was made.' : `As it was after “${words}”.`, reached: true });
      })
      .catch((error: Error) => toast.error(`That moment cannot be shown: ${error.message}`));
  };
  return (
    <Panel
      name="History"
      of="history"
      tools={
        <p className="quiet min-w-0 flex-1 truncate">
          A click shows the moment after it in the picture; kept, it is one step of undo, and nothing of the line is lost.
        </p>
      }
    >
      {moments.length ? (
        <Line
          moments={[...moments, ...(pages.hasNextPage ? [] : [BEGINNING])]}
          more={() => void (pages.hasNextPage && !pages.isFetchingNextPage && pages.fetchNextPage())}
          pick={pick}
        />
      ) : (
        <p className="quiet px-3 py-8 text-center">
          {pages.error
            ? `The history cannot be shown: ${pages.error.message}`
            : pages.isPending
              ? 'The history is being asked for …'
              : 'Nothing was changed yet: the setup is as it was made.'}
        </p>
      )}
    </Panel>
  );
}

/** The first revision: what the setup was made as. */
const BEGINNING: Moment = { revision: 1, words: 'as it was made' };

/** The history, while it is open. */
export function SetupHistory() {
  return useView((v) => v.panel) === 'history' ? <OpenHistory /> : null;
}
