// What jumps from one shot to the next, by the readings of their latest proofs.
import type { Board } from '@plinket/contract';
import { jumpsBetween, orderOf, type Jump, type Sequence } from '@plinket/core';

export type Standing = Board['shots'][number];

/** Jumps by the shot that they are met at: against the one before it. Where one of both has no reading nothing is said. */
export function jumpsOf(
  { shots, tolerance }: Pick<Sequence, 'shots' | 'tolerance'>,
  standing: ReadonlyMap<string, Standing>,
): Map<string, Jump[]> {
  const out = new Map<string, Jump[]>();
  orderOf(shots).forEach((id, i, order) => {
    const before = i > 0 ? standing.get(order[i - 1]!)?.proof?.reading : undefined,
      reading = standing.get(id)?.proof?.reading;
    if (before && reading) out.set(id, jumpsBetween(before, reading, tolerance));
  });
  return out;
}

/** Frames as they are typed, “1001–1125”; nothing where they are none. */
export function framesTyped(text: string): { first: number; last: number } | undefined {
  const found = /^\s*(\d{1,7})\s*(?:[-–—]|to)\s*(\d{1,7})\s*$/.exec(text);
  if (!found) return undefined;
  const [first, last] = [Number(found[1]), Number(found[2])];
  return last >= first ? { first, last } : undefined;
}

/** A code that goes on from the last one: its number ten further, as long; of codes without a number a first one. */
export function nextCode(codes: readonly string[]): string {
  const taken = new Set(codes.map((c) => c.toLowerCase())),
    last = /^(.*?)(\d+)(\D*)$/.exec(codes.at(-1) ?? '');
  const [stem, from, tail] = last ? [last[1]!, last[2]!, last[3]!] : ['', '000', ''];
  for (let n = Number(from) + 10; ; n += 10) {
    const code = `${stem}${String(n).padStart(from.length, '0')}${tail}`;
    if (!taken.has(code.toLowerCase())) return code;
  }
}
