// What is said of the set: hot spots, shadows, edges; against scenes whose answers are constructed.
import { readFileSync } from 'node:fs';
import { attachKernel, buildAccel, compileKernel, plainFilmMath } from '@plinket/kernel';
import { describe, expect, it } from '@jest/globals';
import { setFindings, type SetStand } from '../placing/index.ts';
import { compile } from '../scene/index.ts';
import { applyPatch, orderOf, type Light, type Patch, type Setup } from '../setup/index.ts';
import { catchPatch } from '../staging/index.ts';
import { readGlb } from '../formats/index.ts';
import { panelLight, setupWith, subjectWith } from '../testing/setups.ts';
import { Tracer } from '../trace/index.ts';
import { findingWords } from '../words/index.ts';
import { Film, Guides, PictureMaker, stagePixels, stagePlaces, stageShadows, stageShares, stageSpots, type FilmSource } from './index.ts';

const module = compileKernel(readFileSync(new URL('../../../kernel/build/kernel.wasm', import.meta.url)))!;
const math = plainFilmMath();
const W = 48,
  H = 36,
  SAMPLES = 4;

/** A floor with a ball on it, seen from above; panels where they are put. */
function floor(lights: Record<string, Light>, change: Patch = {}): Setup {
  const base = setupWith(lights);
  return [
    {
      stage: { kind: 'floor', floor: 0, width: 40, front: 20, back: 20, roughness: 1 },
      subjects: { items: Object.fromEntries(Object.keys(base.subjects.items).map((id) => [id, null])) },
      props: {
        items: { ball: { kind: 'ball', rank: 'a0', finish: 'grey', name: 'Ball', visible: true, position: [0, 0.25, 0], radius: 0.25 } },
      },
      camera: { position: [0, 4, 4], target: [0, 0, 0], focal: 40, sensor: 24, aspect: W / H, ev: 8 },
    },
    change,
  ].reduce<Setup>((s, p) => applyPatch(s, p as Patch), base);
}

/** What is known of the set, as the Stage finds it. */
function stand(setup: Setup): SetStand {
  const scene = compile(setup, () => undefined);
  const tracer = new Tracer(attachKernel(module, buildAccel(module, scene.geometry.mesh, { capacity: 4096 })), scene.geometry);
  const tile = { x: 0, y: 0, width: W, height: H };
  const result = tracer.trace({
    camera: scene.camera,
    width: W,
    height: H,
    tile,
    from: 0,
    to: SAMPLES,
    seed: 1,
    bounces: 1,
    lights: scene.lights,
    guides: true,
  });
  const guides = new Guides(W, H);
  guides.add(tile, result.guides!, result, SAMPLES);
  const films = new Map(
    scene.lights.map(({ id }, i) => {
      const film = new Film(W, H, { math });
      film.add(tile, result, i, SAMPLES);
      return [id, { film }] as const;
    }),
  );
  const source: FilmSource = { width: W, height: H, guides, shown: (id) => films.get(id) };
  const { linear } = new PictureMaker(math, { gobo: () => undefined, cube: () => undefined }).linear(source, { setup, bare: true });
  const pixels = stagePixels(source, scene),
    places = stagePlaces(source, pixels)!;
  const ids = scene.lights.map((l) => l.id);
  const read = tracer.read({
    points: places.points,
    normals: places.normals,
    lights: scene.lights,
    object: places.object,
    samples: 16,
    seed: 1,
  });
  return {
    setup,
    scene,
    spots: stageSpots(source, pixels, linear, setup),
    shadows: stageShadows(setup, scene, places, read, ids),
    shares: stageShares(setup, places, read, ids),
    places: places.points,
    dots: places.dots,
  };
}
const kinds = (s: SetStand) => setFindings(s).map((f) => f.kind);
/** High and far: even light on all that is seen. */
const above = panelLight({
  name: 'Above',
  role: 'fill',
  width: 3,
  height: 3,
  place: { azimuth: 0, elevation: 89, distance: 12, aim: [0, -1.6, 0] },
  output: { held: 'luminance', value: 4000, unit: 'cd/m²', efficacy: 15 },
});
/** Near the floor, to one side. */
const low = (azimuth: number, more: Partial<Light> = {}): Light =>
  ({
    ...panelLight({
      name: `Low ${azimuth}`,
      width: 0.4,
      height: 0.4,
      place: { azimuth, elevation: 10, distance: 3, aim: [0, -1.5, 0] },
      output: { held: 'luminance', value: 9000, unit: 'cd/m²', efficacy: 15 },
    }),
    ...more,
  }) as Light;

describe('findings of the set', () => {
  it('one even light leaves one shadow and nothing to point at', () => {
    const s = stand(floor({ above: { ...above, place: { azimuth: 60, elevation: 40, distance: 12, aim: [0, -1.6, 0] } } as Light }));
    expect(s.shadows.map((x) => [x.light, x.by])).toEqual([['above', ['props/ball']]]);
    expect(kinds(s)).toEqual([]);
  });
  it('a small light near the floor makes a hot spot, with its area and stops; mended by reach, and none of one for the background', () => {
    const near = panelLight({
      name: 'Near',
      role: 'kick',
      width: 0.1,
      height: 0.1,
      place: { azimuth: 60, elevation: -40, distance: 1.9, aim: [1.5, -2.2, 0.4] },
      output: { held: 'luminance', value: 400_000, unit: 'cd/m²', efficacy: 15 },
    });
    const s = stand(floor({ above, near }));
    const spot = setFindings(s).find((f) => f.kind === 'stage spot')!;
    expect(spot).toMatchObject({ light: 'near', unit: 'stops' });
    expect(spot.measure).toBeGreaterThan(2);
    expect(spot.area).toBeGreaterThan(0.4);
    expect(spot.dots!.length).toBeGreaterThan(1);
    expect(findingWords(spot, (id) => s.setup.lights.items[id]!.name).says).toMatch(
      /^Near makes a hot spot on the stage: \d\.\d stops over its middle, on [\d.]+ % /,
    );
    expect(kinds(stand(applyPatch(s.setup, spot.mend!)))).not.toContain('stage spot');
    expect(kinds(stand(applyPatch(s.setup, { lights: { items: { near: { role: 'background' } } } })))).not.toContain('stage spot');
  });
  it('two low lights draw two shadows, named; “keep only this” leaves one; of a catcher by balance alone', () => {
    const setup = floor({ a: low(70), b: low(-70, { stops: -0.5 } as Partial<Light>) });
    const s = stand(setup);
    const found = setFindings(s).find((f) => f.kind === 'shadows')!;
    expect(found).toMatchObject({ light: 'a', others: ['b'], measure: 2 });
    // they fall to opposite sides
    const side = (light: string) => s.shadows.find((x) => x.light === light)!.dots.reduce((sum, [x]) => sum + x - 0.5, 0);
    expect(Math.sign(side('a'))).toBe(-Math.sign(side('b')));
    expect(findingWords(found, (id) => s.setup.lights.items[id]!.name).says).toBe(
      '2 shadows lie on the stage: that of Low 70, and of Low -70.',
    );
    const mended = stand(applyPatch(setup, found.mend!));
    expect(mended.shadows.map((x) => x.light)).toEqual(['a']);
    // as much light as before: what the two give together where no shadow lies
    expect(orderOf(mended.setup.lights)).toHaveLength(3);
    const caught = applyPatch(setup, catchPatch(setup, 'stage', true));
    const balanced = setFindings(stand(caught)).find((f) => f.kind === 'shadows')!;
    expect(balanced.mend).toEqual({ catcher: { without: { b: true } } });
    expect(kinds(stand(floor({ a: low(70), b: low(-70, { on: false } as Partial<Light>) })))).not.toContain('shadows');
  });
  it('a light whose reach leaves everything out, a frame past the stage, a panel whose plane cuts the floor', () => {
    const none = floor({ above, idle: low(40, { reach: { lights: { '*': false }, casts: {} } } as Partial<Light>) });
    const idle = setFindings(stand(none)).find((f) => f.kind === 'reaches nothing')!;
    expect(idle.light).toBe('idle');
    expect(kinds(stand(applyPatch(none, idle.mend!)))).not.toContain('reaches nothing');
    const small = floor({ above }, { stage: { width: 2, front: 1, back: 1 } });
    const edge = setFindings(stand(small)).find((f) => f.kind === 'stage edge')!;
    expect(kinds(stand(applyPatch(small, edge.mend!)))).not.toContain('stage edge');
    // it looks up and aside: only what lies far to that side is before its plane
    const across = panelLight({
      name: 'Across',
      role: 'kick',
      width: 1,
      height: 1,
      place: { azimuth: 0, elevation: -30, distance: 1.2, aim: [1, 1.14, 1.04] },
    });
    const half = setFindings(stand(floor({ across }))).find((f) => f.kind === 'half space');
    expect(half?.light).toBe('across');
    expect(half!.measure).toBeGreaterThan(0);
  });
  it('a figure whose lowest point is in the picture and stands on nothing is set down by so much; one that is cut by the frame is not asked', async () => {
    const asset = await readGlb(readFileSync(new URL('../../../demo/assets/keeper.glb', import.meta.url)), 'k.glb');
    const figure = (change: Patch): SetStand => {
      const setup = applyPatch(floor({ above }), {
        props: { items: { ball: null } },
        subjects: { items: { k: subjectWith({ head: asset.head, position: [0, 0, 0] }) as unknown as Patch } },
        camera: { position: [0, 1.5, 5], target: [0, 1.2, 0], focal: 35 },
        ...change,
      });
      const scene = compile(setup, () => asset);
      return { setup, scene, spots: [], shadows: [], shares: {}, places: new Float32Array(0), dots: [] };
    };
    const found = setFindings(figure({})).find((f) => f.kind === 'floating')!;
    const low = figure({}).scene.geometry.mesh.positions.reduce(
      (least, y, i) => (i % 3 === 1 && y > 0.01 && y < least ? y : least),
      Infinity,
    );
    expect(found.measure).toBeCloseTo(low * 100, 1);
    expect(found.dots![0]![1]).toBeGreaterThan(0.4);
    expect(findingWords(found, () => 'The keeper').says).toMatch(/^The keeper stands on nothing: \d+ cm over the ground\.$/);
    const set = applyPatch(figure({}).setup, found.mend!);
    expect(kinds({ ...figure({}), setup: set, scene: compile(set, () => asset) })).not.toContain('floating');
    expect(kinds(figure({ camera: { position: [0, 1.6, 1], target: [0, 1.6, 0], focal: 85 } }))).not.toContain('floating');
  });
});
