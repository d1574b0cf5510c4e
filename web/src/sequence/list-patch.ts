// What a shot list that was read makes of a sequence.
import { orderChange, type Patch, type Sequence, type ShotReport } from '@plinket/core';

/** The change of a sequence that a list makes, once its new shots are there. */
export function listPatch({ shots }: Pick<Sequence, 'shots'>, report: ShotReport, out: boolean): Patch {
  const byCode = new Map(Object.entries(shots.items).map(([id, s]) => [s.code.toLowerCase(), id]));
  const gone = new Set(out ? report.missing.map((m) => m.id) : []);
  const order = report.order
    .flatMap((o) => ('id' in o ? o.id : (byCode.get(o.code.toLowerCase()) ?? [])))
    .filter((id) => !gone.has(id) && shots.items[id]);
  const items: Record<string, object | null> = { ...orderChange(shots, order) };
  for (const { id, to } of report.changed) items[id] = { ...items[id], ...to };
  for (const id of gone) items[id] = null;
  return Object.keys(items).length ? ({ shots: { items } } as unknown as Patch) : {};
}
