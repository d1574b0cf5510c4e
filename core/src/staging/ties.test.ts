import { describe, expect, it } from '@jest/globals';
import { Ajv2020 } from 'ajv/dist/2020.js';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import {
  applyPatch,
  describeKit,
  kitJsonSchema,
  kitSchema,
  migrateKit,
  parseSetup,
  type Kit,
  type Patch,
  type Setup,
} from '../setup/index.ts';
import { panelLight, setupWith, subjectWith } from '../testing/setups.ts';
import { kitOf, offerOf, putKit } from './index.ts';

const ID = '11111111-2222-4333-8444-555555555555',
  OTHER = '99999999-2222-4333-8444-555555555555';
const label = { name: 'Two lamps', brief: '', notes: '', tags: [] };
const two = setupWith({ warm: panelLight({ role: 'key', name: 'Warm' }), cool: panelLight({ role: 'rim', name: 'Cool', rank: 'a1' }) });
const { kit: first } = kitOf(two, ['rig', 'stage'], label);
/** A smaller head, with a light of its own. */
const creature: Setup = {
  ...setupWith({ own: panelLight({ name: 'Own' }) }),
  subjects: { items: { who: subjectWith({ scale: 0.3 }) } },
};
const changed = (kit: Kit, patch: Patch): Kit => kitSchema.parse(applyPatch(kit, patch));
const tied = (how: 'replace' | 'merge' = 'replace') =>
  putKit(creature, first, { how, letters: 'x', tie: { kit: ID, revision: 1, offers: true } });
const keyOf = (s: Setup) => Object.entries(s.lights.items).find(([, l]) => l.name === 'Warm')!;

describe('a kit that stays tied', () => {
  it('is written down with its revision and the ids that its lights have here; a setup with it is read back whole', () => {
    const { setup, ids } = tied();
    expect(setup.ties![ID]).toMatchObject({ name: 'Two lamps', revision: 1, parts: ['rig', 'stage'], how: 'replace', offers: true, ids });
    expect(Object.values(ids.lights).every((id) => setup.lights.items[id])).toBe(true);
    expect(parseSetup(JSON.parse(JSON.stringify(setup)))).toEqual(setup);
    // of parts that were not taken nothing stands here
    const stage = putKit(creature, first, { how: 'replace', parts: ['stage'], tie: { kit: ID, revision: 1, offers: true } }).setup;
    expect(stage.ties![ID]).toMatchObject({ parts: ['stage'], ids: { lights: {}, flags: {}, cameras: {} } });
  });
  it('offers what changed in it, at the size of this head, and nothing else; what a hand changed here stays', () => {
    const { setup } = tied();
    const [id, key] = keyOf(setup);
    const here = applyPatch(setup, { lights: { items: { [id]: { stops: -1.5 } } } });
    const now = changed(first, { parts: { rig: { lights: { items: { warm: { place: { distance: 3 } } } } } } });
    const locked = applyPatch(here, { lights: { items: { [id]: { locked: true } } } });
    expect(offerOf(locked, ID, first, now, 2)).toMatchObject({ patch: { ties: {} }, words: '', left: ['Warm'] });
    const offer = offerOf(here, ID, first, now, 2);
    expect(Object.keys(offer.patch).sort()).toEqual(['lights', 'ties']);
    const after = applyPatch(here, offer.patch);
    const light = after.lights.items[id] as { stops: number; place: { distance: number; azimuth: number } };
    // 3 m at the reference head of 0.23 m
    const head = creature.subjects.items['who']!.head.height * 0.3;
    expect(light.place.distance).toBeCloseTo((3 * head) / 0.23, 9);
    expect([light.stops, light.place.azimuth]).toEqual([-1.5, (key as typeof light).place.azimuth]);
    expect(after.ties![ID]!.revision).toBe(2);
    expect(offer.words).toBe('warm: 0.90 m away');
    expect(offerOf(after, ID, now, now, 2)).toMatchObject({ patch: { ties: { [ID]: {} } }, words: '' });
  });
  it('brings lights that came to it under free ids, takes those that left it, and says which are not here any more', () => {
    const { setup } = tied('merge');
    const [id] = keyOf(setup);
    const without = applyPatch(setup, { lights: { items: { [id]: null } } });
    const more = { ...panelLight({ name: 'Third', rank: 'a2' }), role: 'key' as const };
    const now = changed(first, { parts: { rig: { lights: { items: { own: more as never, cool: null, warm: { stops: 2 } } } } } });
    const offer = offerOf(without, ID, first, now, 7, 'y');
    const after = applyPatch(without, offer.patch);
    expect(Object.values(after.lights.items).map((l) => l.name)).toEqual(expect.arrayContaining(['Own', 'Third']));
    expect(Object.keys(after.lights.items)).toHaveLength(2);
    expect(offer.left).toEqual(['Warm']);
    expect(Object.keys(after.ties![ID]!.ids.lights).sort()).toEqual(['own', 'warm']);
    expect(parseSetup(JSON.parse(JSON.stringify(after)))).toEqual(after);
  });
  it('ends where another comes instead of it, part by part; beside it both stand', () => {
    const { setup } = tied();
    const rig = kitOf(two, ['rig'], label).kit;
    const instead = putKit(setup, rig, { how: 'replace', tie: { kit: OTHER, revision: 4, offers: false } }).setup;
    expect([instead.ties![ID]!.parts, instead.ties![OTHER]!.parts]).toEqual([['stage'], ['rig']]);
    expect(putKit(instead, first, { how: 'replace' }).setup.ties).toBeUndefined();
    expect(putKit(setup, rig, { how: 'merge', tie: { kit: OTHER, revision: 4, offers: false } }).setup.ties![ID]!.parts).toEqual([
      'rig',
      'stage',
    ]);
  });
  it('taken anew from a setup keeps what its lights are called in it, so that whoever is tied to it is offered the difference', () => {
    const { setup, ids } = tied();
    const [id] = keyOf(setup);
    const here = applyPatch(setup, { lights: { items: { [id]: { stops: 1 } } } });
    const anew = kitOf(here, ['rig', 'stage'], label, ids);
    expect(Object.keys(anew.kit.parts.rig!.lights.items).sort()).toEqual(['cool', 'warm']);
    expect(anew.ids).toEqual(ids);
    expect(kitOf(here, ['rig'], { ...label, shows: { pattern: 'loop', key: id } }, ids).kit.shows).toEqual({
      pattern: 'loop',
      key: 'warm',
    });
    expect(anew.kit.parts.rig!.lights.items['warm']!.stops).toBe(1);
    // a light of this setup that is called as one of the kit's gets another name in it
    const clash = applyPatch(here, { lights: { items: { warm: { ...panelLight({ name: 'Mine', rank: 'a9' }) } as never } } });
    const both = kitOf(clash, ['rig'], label, ids).kit.parts.rig!.lights.items;
    expect([both['warm']!.name, Object.values(both).map((l) => l.name)]).toEqual(['Warm', expect.arrayContaining(['Mine'])]);
  });
  it('offers exactly its difference, whatever levels stand here (property)', () => {
    const stops = fc.integer({ min: -24, max: 24 }).map((n) => n / 4);
    fc.assert(
      fc.property(stops, stops, stops, (mine, was, is) => {
        const at = (v: number) => changed(first, { parts: { rig: { lights: { items: { warm: { stops: v } } } } } });
        const { setup } = putKit(creature, at(was), { how: 'replace', tie: { kit: ID, revision: 1, offers: true } });
        const [id] = keyOf(setup);
        const here = applyPatch(setup, { lights: { items: { [id]: { stops: mine } } } });
        const after = applyPatch(here, offerOf(here, ID, at(was), at(is), 2).patch);
        expect(after.lights.items[id]!.stops).toBe(was === is ? mine : is);
      }),
      { numRuns: 40 },
    );
  });
});

describe('a kit', () => {
  it('is described by the JSON Schema in docs, as another reader of it finds (ajv)', () => {
    const schema = JSON.parse(readFileSync(new URL('../../../docs/kit.schema.json', import.meta.url), 'utf8')) as object;
    expect(schema).toEqual(JSON.parse(JSON.stringify(kitJsonSchema())));
    const valid = new Ajv2020({ strict: false }).compile(schema);
    expect([first, kitOf(two, ['cameras', 'look'], label).kit].map((kit) => valid(JSON.parse(JSON.stringify(kit))))).toEqual([true, true]);
    const wrong = [{ ...first, schemaVersion: 1 }, { ...first, more: 1 }, applyPatch(first, { parts: { rig: { ev: 400 } } as Patch })];
    expect(wrong.map((kit) => valid(JSON.parse(JSON.stringify(kit))))).toEqual([false, false, false]);
  });
  it('of version 1 is brought up to date; a newer one is refused with both versions', () => {
    const { shown: _, ...old } = first;
    expect(kitSchema.parse(migrateKit({ ...old, schemaVersion: 1 }))).toEqual(first);
    const { error } = kitSchema.safeParse(migrateKit({ ...first, schemaVersion: 3 }));
    expect(error!.issues[0]).toMatchObject({ path: ['schemaVersion'], message: 'version 3 is newer than this Plinket reads, which is 2' });
  });
  it('says what changed in it', () => {
    expect(describeKit(first, { ...first, name: 'Lamps', tags: ['warm'] })).toBe('renamed “Lamps”, tags');
    expect(describeKit(first, changed(first, { parts: { stage: null } }))).toBe('without its stage');
    expect(describeKit(first, changed(first, { parts: { rig: { ev: 3 } } }))).toBe('rig anew');
  });
});
