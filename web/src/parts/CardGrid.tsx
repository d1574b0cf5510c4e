import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, type CSSProperties, type ReactNode } from 'react';
import { useSize } from './size.ts';

/** What a grid of cards needs to know of them, px: the least width, the room between two, what stands below a picture of 16 : 9. */
export interface CardSize {
  least: number;
  gap: { x: number; y: number };
  below: number;
}

/** Cards in rows as wide as the page; only those in sight, and some around them, are there. */
export function CardGrid<T>({
  items,
  size: { least, gap, below },
  label,
  className,
  card,
}: {
  items: readonly T[];
  size: CardSize;
  label: string;
  /** Of what scrolls. */
  className: string;
  card(item: T, at: CSSProperties): ReactNode;
}) {
  'use no memo'; // the virtualizer is one object that changes within
  const scroller = useRef<HTMLDivElement>(null);
  const [ref, { width }] = useSize<HTMLUListElement>({ width: 880, height: 0 });
  const columns = Math.max(1, Math.floor((width + gap.x) / (least + gap.x))),
    wide = (width - gap.x * (columns - 1)) / columns,
    row = Math.round((wide * 9) / 16 + below + gap.y);
  const rows = useVirtualizer({
    count: Math.ceil(items.length / columns),
    getScrollElement: () => scroller.current,
    estimateSize: () => row,
    getItemKey: (index) => `${index} ${row}`,
    overscan: 2,
  });
  return (
    <div ref={scroller} className={`min-h-0 min-w-0 flex-1 overflow-y-auto ${className}`} tabIndex={0}>
      <ul ref={ref} className="relative" style={{ height: rows.getTotalSize() }} aria-label={label}>
        {rows
          .getVirtualItems()
          .flatMap(({ index, start }) =>
            items
              .slice(index * columns, (index + 1) * columns)
              .map((item, i) => card(item, { position: 'absolute', top: start, left: i * (wide + gap.x), width: wide })),
          )}
      </ul>
    </div>
  );
}
