import { cpus } from 'node:os';

/** Ends a bench: what was measured, on what, and the line of JSON that others read. */
export function report(bench: string, values: Record<string, number>, lines: string[]): void {
  console.log(`\n${bench} on ${cpus()[0]?.model.trim()}, ${cpus().length} cores, Node ${process.version}`);
  for (const line of lines) console.log(`  ${line}`);
  const round = (v: number) => (Math.abs(v) >= 100 ? Math.round(v) : Number(v.toPrecision(3)));
  console.log(JSON.stringify({ bench, values: Object.fromEntries(Object.entries(values).map(([k, v]) => [k, round(v)])) }));
}

export const median = (values: number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!;

/** Milliseconds of one call. */
export function time(run: () => void): number {
  const start = performance.now();
  run();
  return performance.now() - start;
}
