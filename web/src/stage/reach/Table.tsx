import { inOrder, isBounded, isReached, orderOf, RELATIONS, type ReachRule, type Relation } from '@plinket/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Search } from 'lucide-react';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type MouseEvent } from 'react';
import { useDoc, useStage, useView } from '../context.ts';
import { Panel } from '../Panel.tsx';
import { turnMark, useRows } from './marks.ts';
import { shownRows } from './rows.ts';
import { stepOf, type Cell } from './table-keys.ts';
import { BLOCK, COLUMN, Head, HEAD, NAMES, ROW, TableRow, type Column } from './TableRow.tsx';

/** So long after the last scrolling the picture is traced finer again, ms. */
const SCROLLED = 250;

/** What every light lights and whose shadow it casts, light by light and object by object. */
function Grid({ find, bounded }: { find: string; bounded: boolean }) {
  'use no memo'; // the virtualizer is one object that changes within
  const stage = useStage();
  const lights = useDoc((d) => d.setup.lights);
  const { all } = useRows();
  const [unfolded, setUnfolded] = useState<ReadonlySet<ReachRule>>(new Set());
  const [cell, setCell] = useState<Cell>({ row: 0, mark: 0 });
  const scroller = useRef<HTMLDivElement>(null),
    wantsFocus = useRef(false);
  const rows = useMemo(() => shownRows(all, unfolded, find), [all, unfolded, find]);
  const columns = useMemo(
    () =>
      orderOf(lights)
        .map((id, index): Column => ({ id, index, light: lights.items[id]! }))
        .filter(({ light }) => !bounded || isBounded(light.reach)),
    [lights, bounded],
  );
  const counts = useMemo(
    () =>
      columns.map(({ light }) => {
        if (!isBounded(light.reach)) return '';
        const lit = all.covers.filter((o) => isReached(light.reach?.lights, o)).length;
        return `${lit} of ${all.covers.length}`;
      }),
    [columns, all],
  );
  const down = useVirtualizer({ count: rows.length, getScrollElement: () => scroller.current, estimateSize: () => ROW, overscan: 2 });
  const along = useVirtualizer({
    count: columns.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => COLUMN,
    horizontal: true,
    overscan: 1,
    scrollPaddingStart: NAMES,
  });
  const seen = along.getVirtualItems(),
    // in blocks: the rows need not change with every column that comes in sight
    from = Math.floor((seen[0]?.index ?? 0) / BLOCK) * BLOCK,
    to = Math.min(columns.length, Math.ceil(((seen.at(-1)?.index ?? -1) + 1) / BLOCK) * BLOCK);
  const at: Cell = { row: Math.min(cell.row, rows.length - 1), mark: Math.min(cell.mark, columns.length * 2 - 1) };
  useEffect(() => {
    if (!wantsFocus.current) return;
    const target = scroller.current?.querySelector<HTMLElement>(`[data-at="${at.row} ${at.mark}"]`);
    if (!target) return;
    wantsFocus.current = false;
    target.focus({ preventScroll: true });
  });
  const act = ({ row, mark }: Cell) => {
    const shown = rows[row];
    if (!shown) return;
    if (mark < 0) {
      const now = new Set(unfolded);
      if (!now.delete(shown.row.rule)) now.add(shown.row.rule);
      setUnfolded(now);
    } else if (columns[mark >> 1]) turnMark(stage, columns[mark >> 1]!.id, RELATIONS[mark % 2] as Relation, shown.row, false);
  };
  const onClick = (e: MouseEvent) => {
    const [row, mark] = (e.target as HTMLElement).closest<HTMLElement>('[data-at]')?.dataset['at']?.split(' ').map(Number) ?? [];
    if (row === undefined || mark === undefined) return;
    setCell({ row, mark });
    act({ row, mark });
  };
  const onKeyDown = (e: KeyboardEvent) => {
    const next = stepOf(e, at, rows.length, columns.length * 2);
    if (!next) {
      // letters and the like are the Stage's; a key that presses a mark is the mark's
      if (e.key === ' ' || e.key === 'Enter') e.stopPropagation();
      return;
    }
    e.preventDefault();
    e.stopPropagation();
    setCell(next);
    wantsFocus.current = true;
    down.scrollToIndex(next.row);
    if (next.mark >= 0) along.scrollToIndex(next.mark >> 1);
  };
  // the hand that scrolls must not wait for finer tiles
  const rest = useRef<ReturnType<typeof setTimeout>>(undefined);
  const scrolled = () => {
    // said anew as it goes on: a hand that is silent for long is taken to rest
    stage.engine.hand(true);
    clearTimeout(rest.current);
    rest.current = setTimeout(() => {
      rest.current = undefined;
      stage.engine.hand(false);
    }, SCROLLED);
  };
  useEffect(
    () => () => {
      if (rest.current === undefined) return;
      clearTimeout(rest.current);
      stage.engine.hand(false);
    },
    [stage],
  );
  const wide = NAMES + columns.length * COLUMN;
  return (
    <div
      ref={scroller}
      role="grid"
      aria-label="What every light reaches"
      aria-rowcount={rows.length + 1}
      aria-colcount={columns.length + 1}
      className="relative overflow-auto bg-base-100 will-change-scroll"
      style={{ height: HEAD + rows.length * ROW + 16, maxHeight: '46vh' }}
      tabIndex={-1}
      onClick={onClick}
      onKeyDown={onKeyDown}
      onScroll={scrolled}
      data-testid="reach-table"
    >
      <div role="row" aria-rowindex={1} className="sticky top-0 z-20 border-b hairline bg-base-100" style={{ width: wide, height: HEAD }}>
        <div
          role="columnheader"
          className="quiet sticky left-0 z-10 flex h-full items-end bg-base-100 px-2 pb-1 text-2xs"
          style={{ width: NAMES }}
        >
          {`${columns.length} lights, ${all.covers.length} objects`}
        </div>
        {columns.slice(from, to).map((column, k) => (
          <div key={column.id} className="absolute top-0 h-full" style={{ left: NAMES + (from + k) * COLUMN }}>
            <Head column={column} count={counts[from + k]!} />
          </div>
        ))}
      </div>
      <div role="rowgroup" className="relative" style={{ width: wide, height: down.getTotalSize() }}>
        {down.getVirtualItems().map(({ index, start, size }) => (
          <div
            key={rows[index]!.row.rule}
            role="presentation"
            className="absolute left-0"
            style={{ top: start, height: size, width: wide }}
          >
            <TableRow
              shown={rows[index]!}
              index={index}
              columns={columns}
              from={from}
              to={to}
              focus={index === at.row ? at.mark : undefined}
            />
          </div>
        ))}
      </div>
    </div>
  );
}

/** The table of lights and objects, over the lower half: the face stays in sight. */
function OpenTable() {
  const some = useDoc((d) => inOrder(d.setup.lights).some((l) => isBounded(l.reach)));
  const [find, setFind] = useState('');
  const [bounded, setBounded] = useState(false);
  return (
    <Panel
      name="Reach"
      of="table"
      tools={
        <>
          <label className="input input-xs flex w-52 items-center gap-1.5">
            <Search size={12} aria-hidden />
            <input
              value={find}
              onChange={(e) => setFind(e.target.value)}
              placeholder="Find an object"
              aria-label="Find an object"
              autoFocus
            />
          </label>
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={bounded && some}
              disabled={!some}
              onChange={(e) => setBounded(e.target.checked)}
            />
            only lights that do not reach all
          </label>
          <span className="quiet flex-1 text-right text-2xs">
            A mark: the light lights it; the second: it casts that light’s shadow. Arrows walk, Space turns.
          </span>
        </>
      }
    >
      <Grid find={find} bounded={bounded && some} />
    </Panel>
  );
}

/** The table, while it is open. */
export function ReachTable() {
  return useView((v) => v.panel) === 'reach' ? <OpenTable /> : null;
}
