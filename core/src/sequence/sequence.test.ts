import { describe, expect, it } from '@jest/globals';
import {
  applyPatch,
  collected,
  describeSequence,
  diff,
  parseSetup,
  sequenceSchema,
  TOLERANCE,
  type KeptReading,
  type Patch,
  type Setup,
} from '../setup/index.ts';
import { panelLight, setupWith } from '../testing/setups.ts';
import { departuresOf, follow, jumpsBetween, matchTo, newShot, pushedUp, reaches, returned, sharedPatch } from './index.ts';

const SETUP = '0b2f6f0e-6d6a-4b1e-9d0a-0a5f4f6f1c11';
const at = (revision: number) => ({ setup: SETUP, revision });
const base = setupWith({ key: panelLight({ name: 'Key' }), rim: panelLight({ name: 'Rim', rank: 'a1', role: 'rim' }) });
const shot = newShot(base, at(1), 'Shot 10');
const change = (setup: Setup, patch: Patch): Setup => parseSetup(applyPatch(setup, patch));

/** RFC 7396, appendix A: a document, a patch, what comes of it. Those whose documents are objects, as a setup's members are. */
const RFC7396: [object, Patch, object][] = [
  [{ a: 'b' }, { a: 'c' }, { a: 'c' }],
  [{ a: 'b' }, { b: 'c' }, { a: 'b', b: 'c' }],
  [{ a: 'b' }, { a: null }, {}],
  [{ a: 'b', b: 'c' }, { a: null }, { b: 'c' }],
  [{ a: ['b'] }, { a: 'c' }, { a: 'c' }],
  [{ a: 'c' }, { a: ['b'] }, { a: ['b'] }],
  [{ a: { b: 'c' } }, { a: { b: 'd', c: null } }, { a: { b: 'd' } }],
  [{ a: [{ b: 'c' }] }, { a: [1] }, { a: [1] }],
  [{}, { a: { bb: { ccc: null } } }, { a: { bb: {} } }],
];

describe('three levels: kit, sequence, shot', () => {
  it.each(RFC7396)('%j changed by %j on any level is %j', (document, patch, result) => {
    // what a lower level does not touch is what the upper says; what it touches stands, whichever level is changed last
    const upper = applyPatch({ other: 1, ...document }, patch),
      lower = applyPatch(upper, { own: { x: 1 } });
    expect(lower).toEqual({ other: 1, ...result, own: { x: 1 } });
    expect(applyPatch(applyPatch({ other: 1, ...document }, diff(upper, lower)), patch)).toEqual(lower);
  });
  it('a shot that departs in nothing says what its sequence says, under its own name', () => {
    expect(departuresOf(base, shot)).toEqual([]);
    const now = change(base, { lights: { items: { key: { stops: 1 } } }, name: 'Renamed', brief: 'another' });
    const { setup, lost, hidden } = follow(shot, base, now, at(2));
    expect(setup.lights.items['key']!.stops).toBe(1);
    expect([setup.name, setup.brief, setup.follows]).toEqual(['Shot 10', shot.brief, at(2)]);
    expect([lost, hidden]).toEqual([[], []]);
  });
  it('departures stand over what changes in the sequence; what they hide is told', () => {
    const departed = change(shot, {
      lights: {
        items: { key: { stops: -1 }, extra: { ...panelLight({ name: 'Face', rank: 'a5', group: 'window' }) } as never, rim: null },
      },
    });
    expect(departuresOf(base, departed).map((d) => d.words)).toEqual(['rim: removed', 'key: −1 stop', 'face: added']);
    const now = change(base, { lights: { items: { key: { stops: 2, kelvin: 3200 }, rim: { stops: 1 } } } });
    const { setup, lost, hidden } = follow(departed, base, now, at(2));
    const { key, extra, rim } = setup.lights.items;
    expect([key!.stops, key!.kelvin, extra!.group, rim]).toEqual([-1, 3200, 'window', undefined]);
    expect(hidden).toEqual(['key: stops', 'rim: stops']);
    expect(lost).toEqual([]);
    // and again, over the newer one
    const again = follow(setup, now, change(now, { camera: { ev: 7 } }), at(3)).setup;
    expect([again.camera.ev, again.lights.items['key']!.stops]).toEqual([7, -1]);
  });
  it('a departure whose light is gone is left out, and named; the rest stands', () => {
    const departed = change(shot, { lights: { items: { rim: { stops: 2 }, key: { stops: 1 } } } });
    const now = change(base, { lights: { items: { rim: null } } });
    const { setup, lost } = follow(departed, base, now, at(2));
    expect(Object.keys(setup.lights.items)).toEqual(['key']);
    expect(setup.lights.items['key']!.stops).toBe(1);
    expect(lost).toEqual(['rim: stops']);
  });
  it('a departure that makes no setup any more is left out alone', () => {
    // a panel's width, where the sequence made it a ball of light
    const departed = change(shot, { lights: { items: { key: { width: 2, stops: 1 } } } });
    const { kind: _, width: __, height: ___, ...plain } = base.lights.items['key']! as unknown as Record<string, unknown>;
    const sphere = { ...plain, kind: 'ball', diameter: 0.4 };
    for (const key of ['twoSided', 'beam']) delete (sphere as Record<string, unknown>)[key];
    const now = parseSetup({ ...base, lights: { items: { ...base.lights.items, key: sphere } } });
    const { setup, lost } = follow(departed, base, now, at(2));
    expect(setup.lights.items['key']).toMatchObject({ kind: 'ball', diameter: 0.4, stops: 1 });
    expect(lost).toEqual(['key: width']);
  });
  it('a value returns to the sequence, or goes up to it; both ways nothing is left of the departure', () => {
    const departed = change(shot, { lights: { items: { key: { place: { azimuth: 70 }, stops: 1 } } }, camera: { ev: 6 } });
    const all = departuresOf(base, departed);
    expect(all.map((d) => d.path.join('/'))).toEqual(['camera/ev', 'lights/items/key/stops', 'lights/items/key/place/azimuth']);
    for (const d of all) {
      const back = change(departed, returned(base, departed, d));
      expect(departuresOf(base, back).map((x) => x.path)).toEqual(all.filter((x) => x !== d).map((x) => x.path));
      const up = change(base, pushedUp(base, departed, d));
      expect(departuresOf(up, departed).map((x) => x.path)).toEqual(all.filter((x) => x !== d).map((x) => x.path));
    }
    // a light that is added, and one of another kind, as wholes
    const added = change(shot, { lights: { items: { extra: panelLight({ rank: 'a7' }) as never } } });
    expect(change(base, pushedUp(base, added, departuresOf(base, added)[0]!)).lights.items['extra']).toBeDefined();
    expect(sharedPatch(base, change(added, returned(base, added, departuresOf(base, added)[0]!)))).toEqual({});
  });
  it('a light that is of another kind in the shot is one departure', () => {
    const { width: _, height: __, twoSided: ___, beam: ____, ...plain } = base.lights.items['key']! as unknown as Record<string, unknown>;
    const departed = parseSetup({ ...shot, lights: { items: { ...shot.lights.items, key: { ...plain, kind: 'ball', diameter: 0.4 } } } });
    const [only, ...more] = departuresOf(base, departed);
    expect([only!.path, more]).toEqual([['lights', 'items', 'key'], []]);
    expect(departuresOf(base, change(departed, returned(base, departed, only!)))).toEqual([]);
    expect(change(base, pushedUp(base, departed, only!)).lights.items['key']!.kind).toBe('ball');
  });
  it('tells apart what the history tells alike', () => {
    const moved = change(shot, { camera: { position: [1, 2, 3], target: [0, 1, 0] } });
    expect(departuresOf(base, moved).map((d) => d.words)).toEqual(['camera moved (position)', 'camera moved (target)']);
  });
  it('says which shots a change of the sequence is seen in', () => {
    const departed = change(shot, { lights: { items: { key: { stops: -1 } } } });
    const louder: Patch = { lights: { items: { key: { stops: 2 } } } };
    expect(reaches(louder, base, shot)).toBe(true);
    expect(reaches(louder, base, departed)).toBe(false);
    expect(reaches({ ...louder, camera: { ev: 3 } }, base, departed)).toBe(true);
  });
});

const read = (more: Partial<KeptReading> = {}): KeptReading => ({
  pattern: 'loop',
  key: { name: 'Key', azimuth: 40, elevation: 30 },
  ratio: 4,
  face: [0.4, 0.3, 0.2],
  separation: 1,
  edges: { left: 0.8, right: 0.2 },
  catchlights: [],
  ...more,
});

describe('jumps between neighbours', () => {
  const kinds = (more: Partial<KeptReading>) => jumpsBetween(read(), read(more), TOLERANCE).map((j) => j.kind);
  it.each<[string, Partial<KeptReading>, string[]]>([
    ['the same', {}, []],
    ['a key a little round', { key: { name: 'Key', azimuth: 50, elevation: 32 } }, []],
    ['a key from the other side', { key: { name: 'Key', azimuth: -40, elevation: 30 } }, ['direction']],
    ['another pattern', { pattern: 'butterfly' }, ['pattern']],
    ['twice the ratio', { ratio: 8 }, ['ratio']],
    ['a face that is lit from one side alone', { ratio: 400 }, ['ratio']],
    ['a face a stop darker', { face: [0.2, 0.15, 0.1] }, ['exposure']],
    ['a face that is blue', { face: [0.2, 0.3, 0.6] }, ['colour']],
    ['an edge that goes', { edges: { left: 0.1, right: 0.2 } }, ['edge']],
    ['a ground that comes near', { separation: -1 }, ['ground']],
    ['what was not read', { ratio: undefined, face: undefined, key: undefined, edges: undefined, separation: undefined }, []],
  ])('%s', (_name, more, expected) => expect(kinds(more)).toEqual(expected));
  it('across the back of the head the shorter way counts, and near the pole azimuth hardly does', () => {
    const back = (azimuth: number, elevation = 0) => read({ key: { name: 'K', azimuth, elevation } });
    expect(jumpsBetween(back(175), back(-175), TOLERANCE)).toEqual([]);
    expect(jumpsBetween(back(0, 85), back(90, 85), TOLERANCE)).toEqual([]);
    expect(jumpsBetween(back(0), back(90), TOLERANCE)[0]!.over).toBeCloseTo(90 / TOLERANCE.direction);
  });
  it('of faces that are lit from one side alone all ratios are one', () => {
    expect(jumpsBetween(read({ ratio: 40 }), read({ ratio: 400 }), TOLERANCE)).toEqual([]);
    expect(jumpsBetween(read(), read({ ratio: 400 }), TOLERANCE)[0]!.words).toBe('ratio 4.0 : 1 becomes over 20 : 1');
  });
  it('tells the largest first, in words, and goes by what the sequence allows', () => {
    const jumps = jumpsBetween(read(), read({ ratio: 6, face: [0.1, 0.075, 0.05] }), TOLERANCE);
    expect(jumps.map((j) => j.words)).toEqual(['the face is 2 stop darker', 'ratio 4.0 : 1 becomes 6.0 : 1']);
    expect(jumpsBetween(read(), read({ ratio: 6 }), { ...TOLERANCE, stops: 1 })).toEqual([]);
  });
});

describe('a shot is matched to its neighbour', () => {
  const lit = setupWith({ key: panelLight({ name: 'Key' }), fill: panelLight({ name: 'Fill', rank: 'a1', role: 'fill' }) });
  it('the key comes from there, the face is as bright, the fill brings the ratio back', () => {
    const here = read({ key: { name: 'Key', azimuth: 30, elevation: 20 }, face: [0.2, 0.15, 0.1] });
    const { patch, ratio, left } = matchTo(lit, 'key', here, read({ ratio: 3 }));
    // both angles are about the head: ten degrees further round and up
    expect(patch).toEqual({ lights: { items: { key: { place: { azimuth: 50, elevation: 45 } } } }, camera: { ev: lit.camera.ev - 1 } });
    expect(ratio).toEqual({ light: 'fill', value: 3 });
    expect(left).toEqual([]);
  });
  it('what cannot be matched is said', () => {
    const locked = setupWith({ key: panelLight({ name: 'Key', locked: true }) });
    const { patch, ratio, left } = matchTo(locked, 'key', read({ face: undefined }), read({ ratio: undefined }));
    expect([patch, ratio]).toEqual([{}, undefined]);
    expect(left).toHaveLength(3);
    expect(matchTo(lit, undefined, read(), read({ ratio: 400 })).left).toHaveLength(2);
  });
});

describe('a sequence', () => {
  const id = '7b1f6f0e-6d6a-4b1e-9d0a-0a5f4f6f1c22';
  const item = { rank: 'a0', code: '010', first: 1001, last: 1125, state: 'to light' as const, brief: '', notes: '' };
  const sequence = {
    schemaVersion: 1,
    name: 'Sea wall',
    brief: '',
    notes: '',
    rank: 'a0',
    setup: SETUP,
    tolerance: TOLERANCE,
    shots: collected({ [id]: item }),
  };
  it('reads, and refuses a shot that ends before it begins', () => {
    expect(sequenceSchema.parse(sequence).shots.items[id]!.last).toBe(1125);
    const wrong = sequenceSchema.safeParse({ ...sequence, shots: { items: { [id]: { ...item, first: 1125, last: 1001 } } } });
    expect(wrong.error!.issues[0]!.path.join('.')).toBe(`shots.items.${id}.last`);
  });
  it('tells its changes', () => {
    const known = sequenceSchema.parse(sequence);
    expect(describeSequence(known, { shots: { items: { [id]: { state: 'agreed', last: 1100 } } } })).toBe('010: agreed · 010: 1001–1100');
    expect(describeSequence(known, { shots: { items: { [id]: null } }, name: 'X' })).toBe('renamed “X” · 010: taken out');
  });
});
