import type { Light, Relation } from '@plinket/core';
import { useStage } from '../context.ts';
import { markOf, markWords, turnMark } from './marks.ts';
import type { Row } from './rows.ts';

/** Whether all of it, some or nothing; a click makes it all, or nothing. `together`: for all lights in hand. */
export function Mark({
  row,
  relation,
  id,
  light,
  together,
}: {
  row: Row;
  relation: Relation;
  id: string;
  light: Light;
  together: boolean;
}) {
  const stage = useStage();
  const is = markOf(light, relation, row);
  return (
    <input
      type="checkbox"
      className="checkbox checkbox-xs"
      aria-label={markWords(light, relation, row)}
      checked={is === 'all'}
      ref={(input) => {
        if (input) input.indeterminate = is === 'some';
      }}
      onChange={() => turnMark(stage, id, relation, row, together)}
    />
  );
}
