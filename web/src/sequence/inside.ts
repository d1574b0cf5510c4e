import type { Hand } from '@plinket/contract';

/** Who has a shot open now, in words; nothing where nobody has. */
export function insideWords(others: readonly Hand[], shot: string): string {
  const inside = others.filter((h) => h.document === shot),
    named = inside.flatMap((h) => h.name ?? []),
    windows = inside.length - named.length;
  return [...named, ...(windows === 1 ? ['a window'] : windows > 1 ? [`${windows} windows`] : [])].join(', ');
}
