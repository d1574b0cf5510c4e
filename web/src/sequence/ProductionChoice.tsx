import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client.ts';

/** Which production a sequence belongs to. */
export function ProductionChoice({ of, change }: { of: string | undefined; change(to: string | null): void }) {
  const board = useQuery({ queryKey: ['board'], queryFn: api.board });
  const items = board.data?.productions ?? [];
  return (
    <select
      className="select select-xs w-36"
      aria-label="Production of the sequence"
      title="The production that it belongs to"
      value={of && items.some((p) => p.id === of) ? of : ''}
      onChange={(e) => change(e.target.value || null)}
    >
      <option value="">of no production</option>
      {items.map((p) => (
        <option key={p.id} value={p.id}>
          {p.name}
        </option>
      ))}
    </select>
  );
}
