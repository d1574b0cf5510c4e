// Lights to levels at which parts of the picture are as bright as wished.
import { fcnnlsVector } from 'ml-fcnnls';
import type { Given } from '../face/index.ts';
import { TARGETS, type Target, type Targets } from '../setup/index.ts';

export interface Balanced {
  /** Change of each light that may change, stops; −Infinity: it is not needed. */
  stops: Record<string, number>;
  /** Where each part comes to lie, stops from middle grey, and how far that is from what was wished. */
  there: Partial<Record<Target, { stops: number; off: number }>>;
  reached: boolean;
}

const GREY = 0.18;
/** Targets are met within this, stops. */
const NEAR = 0.2;
/** How much lights rather stay as they are: enough to decide where targets do not, too little to matter where they do. */
const KEEP = 0.03;

/** Solves min ‖A x − b‖ over x ≥ 0 (non-negative least squares; Lawson and Hanson 1974, by the package ml-fcnnls). Rows of A, b. */
export const nonNegative = (A: readonly number[][], b: readonly number[]): number[] => {
  const n = A[0]?.length ?? 0;
  return n ? Array.from(fcnnlsVector(A as number[][], b as number[]).K.to1DArray()) : [];
};

/**
 * Levels at which parts of a picture are as bright as wished, by non-negative least squares of relative errors: light adds up, so each part is a sum
 * of what the lights give. Lights of `fixed` stay as they are.
 */
export function balanceTo(
  targets: Targets,
  given: readonly Pick<Given, 'id' | 'gives'>[],
  fixed: ReadonlySet<string> = new Set(),
): Balanced {
  const asked = TARGETS.filter((t) => targets[t] !== undefined);
  const free = given.filter((g) => !fixed.has(g.id)),
    stay = given.filter((g) => fixed.has(g.id));
  const gives = (g: Pick<Given, 'gives'>, t: Target) => g.gives[t] ?? 0;
  const A = asked.map((t) => free.map((g) => gives(g, t) / (GREY * 2 ** targets[t]!))),
    b = asked.map((t) => 1 - stay.reduce((sum, g) => sum + gives(g, t), 0) / (GREY * 2 ** targets[t]!));
  free.forEach((_, i) => {
    A.push(free.map((__, k) => (k === i ? KEEP : 0)));
    b.push(KEEP);
  });
  const x = nonNegative(A, b);
  const stops: Balanced['stops'] = {};
  free.forEach((g, i) => (stops[g.id] = x[i]! > 2 ** -8 ? Math.log2(x[i]!) : -Infinity));
  const there: Balanced['there'] = {};
  for (const t of asked) {
    const sum = free.reduce((s, g, i) => s + x[i]! * gives(g, t), 0) + stay.reduce((s, g) => s + gives(g, t), 0);
    const at = Math.log2(Math.max(sum, 1e-9) / GREY);
    there[t] = { stops: at, off: at - targets[t]! };
  }
  return { stops, there, reached: asked.every((t) => Math.abs(there[t]!.off) < NEAR) };
}
