import { formatStops, RELATIONS, type Light } from '@plinket/core';
import { ChevronDown, ChevronRight } from 'lucide-react';
import { memo } from 'react';
import { colourOf, letterOf } from '../../parts/identity.ts';
import { Thumb } from '../Thumb.tsx';
import { markOf, markWords } from './marks.ts';
import type { Row, ShownRow } from './rows.ts';

/** Heights and widths, px. */
export const ROW = 26,
  COLUMN = 96,
  NAMES = 230,
  HEAD = 82,
  BLOCK = 2;

export interface Column {
  id: string;
  index: number;
  light: Light;
}

/** A light at the head of its column: its picture, what it is called, and how much it lights where that is not all. */
export const Head = memo(function Head({ column: { id, index, light }, count }: { column: Column; count: string }) {
  return (
    <div role="columnheader" className="absolute top-0 h-full border-l hairline px-1 pt-1" style={{ width: COLUMN }}>
      <Thumb id={id} height={42} />
      <span className="flex items-center gap-1 pt-0.5 text-2xs">
        <b className="grid h-3.5 min-w-3.5 place-items-center rounded-[2px] px-0.5 text-black" style={{ background: colourOf(index) }}>
          {letterOf(index)}
        </b>
        <span className="min-w-0 flex-1 truncate font-semibold" title={`${light.name}, ${formatStops(light.stops)} stops`}>
          {light.name}
        </span>
        <span className="tabular-nums" title="Objects that it lights">
          {count}
        </span>
      </span>
      <span className="quiet flex justify-between px-1 text-2xs">
        <span>lights</span>
        <span>casts</span>
      </span>
    </div>
  );
});

/** What one light does with one thing: two marks. Only what changes is drawn again, however far the table is scrolled. */
const TableCell = memo(function TableCell(props: { row: Row; index: number; column: Column; place: number; focus: number | undefined }) {
  const { row, index, column, place, focus } = props;
  return (
    <div
      role="gridcell"
      className="absolute flex h-full items-center justify-between border-l hairline px-2 [contain:size_layout_style]"
      style={{ width: COLUMN, left: NAMES + place * COLUMN }}
    >
      {RELATIONS.map((relation, r) => {
        const is = markOf(column.light, relation, row);
        return (
          <button
            key={relation}
            role="checkbox"
            aria-checked={is === 'some' ? 'mixed' : is === 'all'}
            aria-label={markWords(column.light, relation, row)}
            data-at={`${index} ${place * 2 + r}`}
            data-is={is}
            tabIndex={focus === place * 2 + r ? 0 : -1}
            className="reach-mark"
            style={relation === 'lights' ? { color: colourOf(column.index) } : undefined}
          />
        );
      })}
    </div>
  );
});

/** A thing's row: its name, and what each light in sight does with it. */
export const TableRow = memo(function TableRow(props: {
  shown: ShownRow;
  index: number;
  columns: readonly Column[];
  from: number;
  to: number;
  focus: number | undefined;
}) {
  const { shown, index, columns, from, to, focus } = props;
  const { row, depth, unfolded } = shown;
  return (
    <div
      role="row"
      aria-rowindex={index + 2}
      className="absolute left-0 flex h-full w-full [contain:layout_style] hover:bg-base-200"
      data-testid={`table-${row.rule}`}
    >
      <div
        role="rowheader"
        className="sticky left-0 z-10 flex shrink-0 items-center gap-1 bg-base-100 pr-2"
        style={{ width: NAMES, paddingLeft: 8 + depth * 14 }}
      >
        {row.parts.length > 0 && depth > 0 ? (
          <button
            className="quiet grid size-6 place-items-center hover:text-base-content"
            aria-label={`${unfolded ? 'Fold' : 'Unfold'} ${row.name}`}
            aria-expanded={unfolded}
            data-at={`${index} -1`}
            tabIndex={focus === -1 ? 0 : -1}
          >
            {unfolded ? <ChevronDown size={12} /> : <ChevronRight size={12} />}
          </button>
        ) : (
          depth > 0 && <i className="w-6" />
        )}
        <span className="min-w-0 flex-1 truncate" title={row.name}>
          {row.name}
        </span>
        {row.covers.length > 1 && <span className="quiet text-2xs tabular-nums">{row.covers.length}</span>}
      </div>
      {columns.slice(from, to).map((column, k) => {
        const place = from + k;
        return (
          <TableCell
            key={column.id}
            row={row}
            index={index}
            column={column}
            place={place}
            focus={focus !== undefined && focus >> 1 === place ? focus : undefined}
          />
        );
      })}
    </div>
  );
});
