import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, type CSSProperties, type ReactNode } from 'react';
import { useSize } from '../parts/size.ts';

/** A card's least width, the room between two, and what stands below its picture, px. */
const CARD = 232,
  GAP = { x: 24, y: 18 },
  BELOW = 120;
/** Margin left and right, px. */
const MARGIN = 32;

/** Cards in rows as wide as the page; only those in sight, and some around them, are there. */
export function ShotGrid({ shots, card }: { shots: readonly string[]; card(shot: string, at: CSSProperties): ReactNode }) {
  'use no memo'; // the virtualizer is one object that changes within
  const scroller = useRef<HTMLDivElement>(null);
  const [ref, { width }] = useSize<HTMLUListElement>({ width: 1216, height: 0 });
  const columns = Math.max(1, Math.floor((width + GAP.x) / (CARD + GAP.x))),
    wide = (width - GAP.x * (columns - 1)) / columns,
    row = Math.round((wide * 9) / 16 + BELOW + GAP.y);
  const rows = useVirtualizer({
    count: Math.ceil(shots.length / columns),
    getScrollElement: () => scroller.current,
    estimateSize: () => row,
    getItemKey: (index) => `${index} ${row}`,
    overscan: 2,
  });
  return (
    <div ref={scroller} className="min-h-0 flex-1 overflow-y-auto pt-1" style={{ paddingInline: MARGIN }}>
      <ul ref={ref} className="relative" style={{ height: rows.getTotalSize() }} aria-label="Shots in their order">
        {rows
          .getVirtualItems()
          .flatMap(({ index, start }) =>
            shots
              .slice(index * columns, (index + 1) * columns)
              .map((shot, i) => card(shot, { position: 'absolute', top: start, left: i * (wide + GAP.x), width: wide })),
          )}
      </ul>
    </div>
  );
}
