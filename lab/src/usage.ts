/** Words on the command line that make no sense. */
export class UsageError extends Error {}

/** A whole number from an option. @throws UsageError naming the option. */
export function whole(options: Record<string, string | undefined>, name: string, fallback: number, max: number): number {
  const given = options[name];
  if (given === undefined) return fallback;
  const n = Number(given);
  if (!Number.isInteger(n) || n < 0 || n > max) throw new UsageError(`--${name} ${given}: a whole number from 0 to ${max} is needed.`);
  return n;
}

/** A number of 0 or more from an option. @throws UsageError naming the option. */
export function positive(options: Record<string, string | undefined>, name: string): number {
  const n = Number(options[name]);
  if (!Number.isFinite(n) || n < 0) throw new UsageError(`--${name} ${options[name]}: a number of 0 or more is needed.`);
  return n;
}

/** Three numbers "x,y,z" from an option. @throws UsageError naming the option. */
export function triple(options: Record<string, string | undefined>, name: string): [number, number, number] {
  const given = options[name];
  const parts = (given ?? '').split(',').map(Number);
  if (parts.length !== 3 || !parts.every(Number.isFinite) || !given) throw new UsageError(`--${name} needs three numbers x,y,z.`);
  return [parts[0]!, parts[1]!, parts[2]!];
}
