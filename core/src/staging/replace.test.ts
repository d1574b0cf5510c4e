import { describe, expect, it } from '@jest/globals';
import {
  addBallsPatch,
  addThingPatch,
  applyPatch,
  besidePatch,
  groundAt,
  groundPatch,
  headInWorld,
  isNewer,
  isStandIn,
  newerPatch,
  orderOf,
  parseSetup,
  replacePatch,
  setupHead,
  THINGS,
  type Setup,
  type Thing,
} from '../index.ts';
import { HEAD, panelLight, setupWith, subjectWith } from '../testing/setups.ts';

const setup = setupWith({ key: panelLight(), rim: panelLight({ name: 'Rim' }) });
const after = (patch: object): Setup => parseSetup(applyPatch(setup, patch));

const withOld = setupWith(setup.lights.items, {
  subjects: {
    items: {
      s: subjectWith(),
    },
  },
});

describe('bringing a character in', () => {
  const report = {
    name: 'Goat',
    fileName: 'goat.glb',
    size: { width: 1, height: 2, depth: 1 },
    floor: 0.1,
    triangles: 2,
    parts: [],
    head: { ...HEAD, origin: [0, 1.9, 0] as [number, number, number], height: 0.46 },
    landmarks: 0,
    clips: ['walks'],
    stance: { up: 'y', faces: '+z' } as const,
    warnings: [],
  };
  it('takes the place of the old one, feet on the floor, framed as it was', () => {
    const next = parseSetup(applyPatch(withOld, replacePatch(withOld, report, 'c'.repeat(64), 1)));
    expect(orderOf(next.subjects)).toEqual(['s']);
    const subject = next.subjects.items['s']!;
    expect(subject.position[1]).toBeCloseTo(-0.1, 6);
    const head = headInWorld(subject);
    // twice the head, twice the distance: the same picture of it
    const away = (s: Setup, o: number[]) => Math.hypot(...s.camera.position.map((v, i) => v - o[i]!));
    expect(away(next, head.origin) / away(withOld, headInWorld(withOld.subjects.items['s']!).origin)).toBeCloseTo(2, 3);
  });
  it('leaves nothing of the old one behind: no pose, no changed material', () => {
    const worn = parseSetup(
      applyPatch(withOld, { subjects: { items: { s: { pose: { clip: 'sleeps', time: 1 }, materials: { coat: { roughness: 0.2 } } } } } }),
    );
    const next = parseSetup(applyPatch(worn, replacePatch(worn, report, 'c'.repeat(64), 1))).subjects.items['s']!;
    expect(next.pose).toBeUndefined();
    expect(next.materials).toEqual({});
  });
  it('a stand-in steps aside for it, and can be shown again; another stand-in takes its place', () => {
    const dummy = parseSetup(applyPatch(withOld, { subjects: { items: { s: { name: 'Stand-in figure' } } } }));
    expect(isStandIn(dummy.subjects.items['s']!)).toBe(true);
    const next = parseSetup(applyPatch(dummy, replacePatch(dummy, report, 'c'.repeat(64), 1)));
    expect(orderOf(next.subjects)).toEqual(['subject-1', 's']);
    expect(next.subjects.items['s']!.visible).toBe(false);
    expect(setupHead(next).headHeight).toBeCloseTo(0.46, 6);
    const other = applyPatch(dummy, replacePatch(dummy, { ...report, name: 'Stand-in knot' }, 'c'.repeat(64), 1));
    expect(orderOf(other.subjects)).toEqual(['s']);
  });
  it('a newer version is known by its parts; place, size, materials, pose and a picked head stay', () => {
    const parts = ['coat', 'skin', 'hat'];
    const newer = { ...report, parts: ['coat', 'skin', 'scarf'].map((name) => ({ name, triangles: 1 })) };
    expect(isNewer(parts, newer)).toBe(true);
    expect(isNewer(['wheel', 'skin'], { ...newer, parts: newer.parts.slice(1) })).toBe(true);
    expect(isNewer(['wheel', 'door', 'roof'], newer)).toBe(false);
    expect(isNewer([], newer)).toBe(false);
    const worn = parseSetup(
      applyPatch(withOld, {
        subjects: {
          items: {
            s: {
              turn: 30,
              scale: 0.5,
              pose: { clip: 'walks', time: 1 },
              materials: { coat: { roughness: 0.2 }, hat: { roughness: 0.3 } },
              head: { source: 'hand' },
            },
          },
        },
      }),
    );
    const next = parseSetup(applyPatch(worn, newerPatch(worn, 's', newer, 'c'.repeat(64)))).subjects.items['s']!;
    expect(next).toMatchObject({
      asset: 'c'.repeat(64),
      turn: 30,
      scale: 0.5,
      pose: { clip: 'walks' },
      head: worn.subjects.items['s']!.head,
    });
    expect(next.materials).toEqual({ coat: { roughness: 0.2 } });
    // a scale that was chosen at import counts
    expect(applyPatch(worn, newerPatch(worn, 's', newer, 'c'.repeat(64), 0.01)).subjects.items['s']!.scale).toBe(0.01);
    const still = applyPatch(worn, newerPatch(worn, 's', { ...newer, clips: [] }, 'c'.repeat(64)));
    expect(still.subjects.items['s']!.pose).toBeUndefined();
    // lights that follow the clip's head take the new file's, or follow no longer where none was found
    const follows = applyPatch(worn, { subjects: { items: { s: { pose: { head: HEAD } } } } });
    const there = { ...HEAD, origin: [1, 2, 3] as [number, number, number] };
    const pose = (patch: object) => parseSetup(applyPatch(follows, patch)).subjects.items['s']!.pose!;
    expect(pose(newerPatch(follows, 's', newer, 'c'.repeat(64), 1, there)).head).toEqual(there);
    expect(pose(newerPatch(follows, 's', newer, 'c'.repeat(64)))).toEqual({ clip: 'walks', time: pose({}).time });
    expect(applyPatch(worn, newerPatch(worn, 's', newer, 'c'.repeat(64), 1, there)).subjects.items['s']!.pose!.head).toBeUndefined();
  });
  it('beside the others it stands clear of them, on the floor, and changes nobody', () => {
    const { patch, id } = besidePatch(withOld, report, 'c'.repeat(64), 1);
    const next = parseSetup(applyPatch(withOld, patch));
    expect(orderOf(next.subjects)).toEqual(['s', id]);
    expect(next.subjects.items['s']).toEqual(withOld.subjects.items['s']);
    expect(next.subjects.items[id]!.position[0]).toBeLessThanOrEqual(-1);
    expect(next.subjects.items[id]!.position[1]).toBeCloseTo(-0.1, 6);
  });
  it('is set down where its lowest point touches the floor, scale and all', () => {
    const big = parseSetup(applyPatch(withOld, { subjects: { items: { s: { scale: 2, position: [1, 7, 2] } } } }));
    const { position } = parseSetup(applyPatch(big, groundPatch(big, 's', 0.15))).subjects.items['s']!;
    expect(position).toEqual([1, -0.3, 2]);
  });
  it('stands on an empty stage too', () => {
    const next = parseSetup(applyPatch(setup, replacePatch(setup, report, 'c'.repeat(64), 0.5)));
    expect(orderOf(next.subjects)).toEqual(['subject']);
    expect(next.subjects.items['subject']!.scale).toBe(0.5);
  });
});

describe('things that are added with one click', () => {
  it('two balls beside the head, as large as a seventh of it across, on the subject’s right', () => {
    const { props } = after(addBallsPatch(setup));
    expect(orderOf(props)).toEqual(['chrome', 'grey']);
    const head = setupHead(setup);
    for (const id of orderOf(props)) {
      const { position, radius } = props.items[id]!;
      expect(radius).toBeCloseTo(head.headHeight / 7, 3);
      expect(position[0]).toBeLessThan(head.origin[0] - radius);
    }
    // they do not touch
    const [a, b] = orderOf(props).map((id) => props.items[id]!);
    expect(Math.abs(a!.position[1] - b!.position[1])).toBeGreaterThan(a!.radius + b!.radius);
  });
  it.each(Object.keys(THINGS) as Thing[])(
    'a %s under the figure, on the floor, to its size; setting down puts the figure on it',
    (thing) => {
      const withThing = parseSetup(applyPatch(withOld, addThingPatch(withOld, thing)));
      const [id] = orderOf(withThing.props);
      const prop = withThing.props.items[id!]!;
      const subject = withThing.subjects.items['s']!;
      const ground = groundAt(withThing, subject.position[0], subject.position[2]);
      expect(ground.name).toBe(prop.name);
      expect(ground.height).toBeGreaterThan(withThing.stage.floor + 0.1);
      // its own file's feet are 0.15 under its middle
      const down = parseSetup(applyPatch(withThing, groundPatch(withThing, 's', -0.15)));
      expect(down.subjects.items['s']!.position[1]).toBeCloseTo(ground.height + 0.15 * subject.scale, 4);
      // a second one does not push the first away
      expect(orderOf(parseSetup(applyPatch(withThing, addThingPatch(withThing, thing))).props)).toHaveLength(2);
    },
  );
});
