import { describe, expect, it } from '@jest/globals';
import { applyPatch, applyVersion, collected, glowing, parseSetup, SetupError, type Patch, type Setup } from './index.ts';
import { HEAD, setupWith } from '../testing/setups.ts';
import { objectName, readRef, refCovers } from './object-ref.ts';

const subject = (name: string) => ({
  name,
  asset: 'a'.repeat(64),
  visible: true,
  position: [0, 0, 0] as [number, number, number],
  turn: 0,
  scale: 1,
  head: HEAD,
  materials: {},
});
const ball = (name: string) => ({
  kind: 'ball' as const,
  finish: 'grey' as const,
  name,
  visible: true,
  position: [0, 1, 0] as [number, number, number],
  radius: 0.1,
});
const setup = setupWith(
  { flame: glowing('subjects/keeper/flame'), lamp: glowing('props/drum'), wall: glowing('stage/backdrop') },
  { subjects: collected({ keeper: subject('The keeper'), other: subject('Another') }), props: collected({ drum: ball('Drum') }) },
);
const objectOf = (s: Setup, id: string) => (s.lights.items[id] as { object: string }).object;
/** The same document as version 5 wrote it. */
const older = (names: Record<string, string>) => ({
  ...applyPatch(setup, { lights: { items: Object.fromEntries(Object.entries(names).map(([id, object]) => [id, { object }])) } }),
  schemaVersion: 5,
});

describe('objects are named by ids', () => {
  it.each([
    ['subjects/keeper', { of: 'subject', id: 'keeper' }],
    ['subjects/keeper/lens/left', { of: 'subject', id: 'keeper', part: 'lens/left' }],
    ['props/drum', { of: 'prop', id: 'drum' }],
    ['stage', { of: 'stage' }],
    ['stage/front', { of: 'stage', piece: 'front' }],
  ])('%s', (ref, named) => expect(readRef(ref)).toEqual(named));
  it.each(['', 'keeper', 'subjects/', 'subjects/The keeper', 'subjects/keeper/', 'props/drum/x', 'stage/door', 'stage/front/x'])(
    '“%s” is none, and a setup that holds it is refused by field',
    (ref) => {
      expect(readRef(ref)).toBeUndefined();
      expect(() => parseSetup(applyPatch(setup, { lights: { items: { flame: { object: ref } } } }))).toThrow(SetupError);
      expect(() => parseSetup(applyPatch(setup, { lights: { items: { flame: { object: ref } } } }))).toThrow(/lights.items.flame.object/);
    },
  );
  it('a whole character covers its parts, and none of another whose id begins alike', () => {
    expect(refCovers('subjects/keeper', 'subjects/keeper/flame')).toBe(true);
    expect(refCovers('subjects/keeper/flame', 'subjects/keeper/flame')).toBe(true);
    expect(refCovers('subjects/keep', 'subjects/keeper/flame')).toBe(false);
  });
  it('are called as they are called now, and say when they are gone', () => {
    expect(objectName(setup, 'subjects/keeper/flame')).toBe('The keeper / flame');
    expect(objectName(setup, 'props/drum')).toBe('Drum');
    expect(objectName(setup, 'stage/backdrop')).toBe('backdrop');
    expect(objectName(setup, 'props/ghost')).toBe('something that is gone');
  });
});

describe('documents that named objects', () => {
  it('mean the same things by id', () => {
    const now = parseSetup(older({ flame: 'The keeper/flame', lamp: 'Drum', wall: 'stage/backdrop' }));
    expect([objectOf(now, 'flame'), objectOf(now, 'lamp'), objectOf(now, 'wall')]).toEqual([
      'subjects/keeper/flame',
      'props/drum',
      'stage/backdrop',
    ]);
  });
  it('stay dark where nobody was called so', () => {
    const now = parseSetup(older({ flame: 'Nobody/flame', lamp: 'Drums', wall: 'The keeper/' }));
    for (const id of ['flame', 'lamp', 'wall']) expect(objectOf(now, id)).toBe('props/gone');
  });
  it('take changes that were made for them: a light that names a thing, a thing that is renamed', () => {
    const named = { lights: { items: { lamp: { object: 'Another/coat' } } }, props: { items: { drum: { name: 'Barrel' } } } };
    const now = parseSetup(applyVersion(setup, named as Patch, 5));
    expect(objectOf(now, 'lamp')).toBe('subjects/other/coat');
    expect(objectOf(now, 'flame')).toBe('subjects/keeper/flame');
    expect(now.props.items['drum']!.name).toBe('Barrel');
    // of version 4, order lists and names together
    const oldest = { lights: { order: ['wall', 'flame', 'lamp'], items: { lamp: { object: 'The keeper/flame' } } } };
    expect(objectOf(parseSetup(applyVersion(setup, oldest, 4)), 'lamp')).toBe('subjects/keeper/flame');
  });
});
