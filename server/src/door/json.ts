import { FILE_LIMITS, type FieldProblem } from '@plinket/core';

/** Deepest nesting and most members of a body. */
const { jsonDepth: MAX_DEPTH, jsonMembers: MAX_MEMBERS } = FILE_LIMITS;

const reasonAgainst = (text: string): string | undefined =>
  text.includes('\0') ? 'holds the character NUL' : text.isWellFormed() ? undefined : 'holds half of a character (a lone surrogate)';

/**
 * Looks a body over before anything reads it: how deep, how many members, and texts that PostgreSQL cannot keep (NUL, and what is not
 * Unicode). Walks without recursion, so no nesting can exhaust the stack.
 * @returns what is wrong, by field; empty when it may be read
 */
export function jsonProblems(body: unknown): FieldProblem[] {
  const problems: FieldProblem[] = [];
  const open: { value: unknown; field: string; depth: number }[] = [{ value: body, field: '', depth: 0 }];
  let members = 0;
  for (let next = open.pop(); next; next = open.pop()) {
    const { value, field, depth } = next;
    if (typeof value === 'string') {
      const reason = reasonAgainst(value);
      if (reason) problems.push({ field, reason });
    } else if (typeof value === 'object' && value !== null) {
      if (depth >= MAX_DEPTH) return [{ field, reason: `is nested deeper than ${MAX_DEPTH} levels` }];
      for (const [key, inner] of Object.entries(value)) {
        if (++members > MAX_MEMBERS) return [{ field: '', reason: `has more than ${MAX_MEMBERS} members` }];
        const reason = reasonAgainst(key);
        const path = field ? `${field}.${key}` : key;
        if (reason) problems.push({ field, reason: `a name in it ${reason}` });
        else open.push({ value: inner, field: path, depth: depth + 1 });
      }
    }
  }
  return problems.slice(0, 20);
}
