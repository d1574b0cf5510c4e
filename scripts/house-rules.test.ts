// Rules of the house that no linter of ours knows: how long files are, that imports run in no circle, that modules hold no state that changes.
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { dirname, join, normalize } from 'node:path';
import { describe, expect, it } from '@jest/globals';
import { root } from './lib/paths.mjs';

const files = execFileSync('git', ['ls-files', '--cached', '--others', '--exclude-standard', '*.ts', '*.tsx', '*.mjs'], {
  cwd: root,
  encoding: 'utf8',
})
  .split('\n')
  .filter((f) => f !== '' && !f.endsWith('.d.ts'));
const textOf = new Map(
  files.flatMap((f) => {
    try {
      return [[f, readFileSync(join(root, f), 'utf8')] as const];
    } catch {
      // git still knows it, but it is gone
      return [];
    }
  }),
);
const ours = [...textOf.keys()];

/** Where a relative import leads. */
const target = (from: string, path: string): string => normalize(join(dirname(from), path)).replaceAll('\\', '/');
const imports = new Map(
  ours.map((f) => [
    f,
    [...textOf.get(f)!.matchAll(/(?:from|import) '(\.{1,2}\/[^']+)'/g)].map((m) => target(f, m[1]!)).filter((t) => textOf.has(t)),
  ]),
);

/** The first circle of imports that a file is on its way into, or nothing. */
function circle(graph: ReadonlyMap<string, readonly string[]>): string[] | undefined {
  const done = new Set<string>();
  const visit = (file: string, way: string[]): string[] | undefined => {
    const at = way.indexOf(file);
    if (at >= 0) return [...way.slice(at), file];
    if (done.has(file)) return undefined;
    for (const next of graph.get(file) ?? []) {
      const found = visit(next, [...way, file]);
      if (found) return found;
    }
    done.add(file);
    return undefined;
  };
  for (const file of graph.keys()) {
    const found = visit(file, []);
    if (found) return found;
  }
  return undefined;
}

describe('the house', () => {
  it('has files that can be held in the head: none over 400 lines', () => {
    const long = ours.filter((f) => textOf.get(f)!.split('\n').length > 401);
    expect(long).toEqual([]);
  });
  it('has no circle of imports', () => {
    expect(ours.length).toBeGreaterThan(300);
    expect([...imports.values()].flat().length).toBeGreaterThan(500);
    expect(circle(imports)).toBeUndefined();
    expect(
      circle(
        new Map([
          ['a', ['b']],
          ['b', ['c']],
          ['c', ['b']],
        ]),
      ),
    ).toEqual(['b', 'c', 'b']);
  });
  it('keeps no state that changes in modules of core, engine, web, server and lab', () => {
    const rooms = /^(core|kernel\/src|engine|web|server|lab|contract)\//;
    const changing = ours.filter((f) => rooms.test(f) && !/\.(test|fixture)\./.test(f) && /^(export )?let /m.test(textOf.get(f)!));
    expect(changing).toEqual([]);
  });
});
