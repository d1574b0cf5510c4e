import { migrateSetup } from './migrate.ts';
import { setupSchema, type Setup } from './schema.ts';

/** One reason why a document was refused. */
export interface FieldProblem {
  /** Dotted path of the field, '' for the document itself. */
  field: string;
  reason: string;
}

/** A setup that breaks the schema; `problems` names every field and reason. */
export class SetupError extends Error {
  readonly problems: FieldProblem[];
  constructor(problems: FieldProblem[]) {
    super(problems.map((p) => (p.field ? `${p.field}: ${p.reason}` : p.reason)).join('; '));
    this.name = 'SetupError';
    this.problems = problems;
  }
}

/**
 * Reads an unknown value as a setup; documents of older versions are brought up to date first.
 * @throws SetupError naming each field and reason.
 */
export function parseSetup(value: unknown): Setup {
  const result = setupSchema.safeParse(migrateSetup(value));
  if (result.success) return result.data;
  throw new SetupError(result.error.issues.map((i) => ({ field: i.path.join('.'), reason: i.message })));
}
