import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { applyPatch, diff, invertPatch, isEmptyPatch, joinPatches, type Json, type Patch } from './index.ts';

describe('JSON Merge Patch', () => {
  // RFC 7396, appendix A: original, patch, result
  it.each<[Json, Json, Json]>([
    [{ a: 'b' }, { a: 'c' }, { a: 'c' }],
    [{ a: 'b' }, { b: 'c' }, { a: 'b', b: 'c' }],
    [{ a: 'b' }, { a: null }, {}],
    [{ a: 'b', b: 'c' }, { a: null }, { b: 'c' }],
    [{ a: ['b'] }, { a: 'c' }, { a: 'c' }],
    [{ a: 'c' }, { a: ['b'] }, { a: ['b'] }],
    [{ a: { b: 'c' } }, { a: { b: 'd', c: null } }, { a: { b: 'd' } }],
    [{ a: [{ b: 'c' }] }, { a: [1] }, { a: [1] }],
    [
      ['a', 'b'],
      ['c', 'd'],
      ['c', 'd'],
    ],
    [{ a: 'b' }, ['c'], ['c']],
    [{ a: 'foo' }, null, null],
    [{ a: 'foo' }, 'bar', 'bar'],
    [{ e: null }, { a: 1 }, { e: null, a: 1 }],
    [[1, 2], { a: 'b', c: null }, { a: 'b' }],
    [{}, { a: { bb: { ccc: null } } }, { a: { bb: {} } }],
  ])('RFC 7396: %j + %j = %j', (original, patch, result) => {
    expect(applyPatch(original, patch)).toEqual(result);
  });

  it('does the example of RFC 7396, section 3', () => {
    const document = {
      title: 'Goodbye!',
      author: { givenName: 'John', familyName: 'Doe' },
      tags: ['example', 'sample'],
      content: 'This will be unchanged',
    };
    const patch = { title: 'Hello!', phoneNumber: '+01-123-456-7890', author: { familyName: null }, tags: ['example'] };
    expect(applyPatch(document, patch)).toEqual({
      title: 'Hello!',
      author: { givenName: 'John' },
      tags: ['example'],
      content: 'This will be unchanged',
      phoneNumber: '+01-123-456-7890',
    });
  });

  it('leaves its arguments and untouched branches as they are', () => {
    const before = { a: { x: 1 }, b: { y: 2 } };
    const after = applyPatch(before, { a: { x: 3 } });
    expect(before).toEqual({ a: { x: 1 }, b: { y: 2 } });
    expect(after.b).toBe(before.b);
  });

  it('cannot reach the prototype', () => {
    applyPatch({}, JSON.parse('{"__proto__": {"polluted": true}}'));
    expect(({} as { polluted?: boolean }).polluted).toBeUndefined();
  });

  // documents of the product's kind: objects without null, with arrays as leaves
  const leaf = fc.oneof(fc.integer(), fc.boolean(), fc.string(), fc.array(fc.integer(), { maxLength: 3 }));
  const key = fc.constantFrom('a', 'b', 'c', 'd');
  const document = fc.letrec((tie) => ({ node: fc.dictionary(key, fc.oneof({ depthSize: 'small' }, leaf, tie('node')), { maxKeys: 4 }) }))
    .node as fc.Arbitrary<Patch>;
  const patch = fc.letrec((tie) => ({
    node: fc.dictionary(key, fc.oneof({ depthSize: 'small' }, leaf, fc.constant(null), tie('node')), { maxKeys: 4 }),
  })).node as fc.Arbitrary<Patch>;
  const same = (a: unknown, b: unknown) => expect(a).toEqual(b);

  it('inverts: what a patch did, its inverse undoes', () => {
    fc.assert(
      fc.property(document, patch, (d, p) => same(applyPatch(applyPatch(d, p), invertPatch(d, p)), d)),
      { numRuns: 500 },
    );
  });
  it('differs: the difference of two documents takes one to the other', () => {
    fc.assert(
      fc.property(document, document, (a, b) => same(applyPatch(a, diff(a, b)), b)),
      { numRuns: 500 },
    );
    expect(isEmptyPatch(diff({ a: [1, { b: 2 }] }, { a: [1, { b: 2 }] }))).toBe(true);
  });
  it('joins: one patch does what two did in turn', () => {
    fc.assert(
      fc.property(document, patch, patch, (d, p, q) => {
        // joining cannot tell "replace by an object" from "merge into it"; setups never turn a value into an object
        const first = applyPatch(d, p);
        const twice = applyPatch(first, q);
        fc.pre(!hasTurnedObject(d, p, q));
        same(applyPatch(d, joinPatches(p, q)), twice);
      }),
      { numRuns: 500 },
    );
    expect(joinPatches({ a: { x: 1 } }, { a: { y: 2 }, b: null })).toEqual({ a: { x: 1, y: 2 }, b: null });
  });
});

/** Whether some key is deleted or a leaf in one step and an object in another. */
function hasTurnedObject(...values: Json[]): boolean {
  const kinds = new Map<string, Set<string>>();
  const visit = (v: Json | undefined, path: string) => {
    const kind = v === null ? 'null' : Array.isArray(v) || typeof v !== 'object' ? 'leaf' : 'object';
    kinds.set(path, (kinds.get(path) ?? new Set()).add(kind));
    if (kind === 'object') for (const [k, x] of Object.entries(v as Patch)) visit(x, `${path}.${k}`);
  };
  for (const v of values) visit(v, '');
  return [...kinds.values()].some((s) => s.has('object') && s.size > 1);
}
