import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { distance, dot, DEGREE, sub, turnY, type Vec3 } from '../math/index.ts';
import { compile, compileCamera, compileLights, type CharacterAsset, type Scene, type SceneLight } from '../scene/index.ts';
import {
  applyPatch,
  ball,
  disk,
  dome,
  parseSetup,
  spot,
  sun,
  tube,
  TURNTABLE_DEFAULTS,
  type Setup,
  type Turntable,
} from '../setup/index.ts';
import { material } from '../surface/index.ts';
import { HEAD, panelLight, setupWith, subjectWith } from '../testing/setups.ts';
import { axisOf, figurePoints, frameName, framesOf, safeFramePatch, sweptBy, touchesOf, turnedAt } from './index.ts';

const plan = (more: Partial<Turntable> = {}): Turntable => ({ ...TURNTABLE_DEFAULTS, ...more });
const AXIS: [number, number] = [0.1, -0.2];

describe('frames of a turn', () => {
  it('tile the circle: as many, evenly, none twice, and the one after the last is the first', () => {
    for (const frames of [1, 2, 7, 300, 9999]) {
      const table = plan({ frames, start: 33 });
      const at = Array.from({ length: frames }, (_, i) => turnedAt(table, AXIS, i + 1).figure);
      expect(at[0]).toBe(33);
      at.forEach((angle, i) => expect(angle).toBeCloseTo(33 + (360 * i) / frames, 9));
      expect(new Set(at).size).toBe(frames);
      expect(turnedAt(table, AXIS, frames + 1)).toEqual(turnedAt(table, AXIS, 1));
      expect(turnedAt(table, AXIS, 0)).toEqual(turnedAt(table, AXIS, frames));
    }
  });
  it('turn what is to turn, either way, and hold before and after', () => {
    const still = { axis: AXIS, figure: 0, camera: 0, lights: 0, dome: 0 };
    const at = (more: Partial<Turntable>, frame = 2) => turnedAt(plan({ frames: 4, ...more }), AXIS, frame);
    expect(at({})).toEqual({ ...still, figure: 90 });
    expect(at({ direction: 'right' })).toEqual({ ...still, figure: -90 });
    expect(at({ turning: 'camera' })).toEqual({ ...still, camera: 90 });
    expect(at({ turning: 'camera and lights' })).toEqual({ ...still, camera: 90, lights: 90, dome: 90 });
    expect(at({ turning: 'dome' })).toEqual({ ...still, dome: 90 });
    const both = plan({ turning: 'figure then dome', frames: 4, start: 10 });
    expect(framesOf(both)).toBe(8);
    expect([4, 5, 6].map((n) => turnedAt(both, AXIS, n)).map(({ figure, dome: d }) => [figure, d])).toEqual([
      [280, 0],
      [10, 0],
      [10, 90],
    ]);
    const held = plan({ frames: 4, before: 2, after: 3 });
    expect(framesOf(held)).toBe(9);
    expect(Array.from({ length: 9 }, (_, i) => turnedAt(held, AXIS, i + 1).figure)).toEqual([0, 0, 0, 90, 180, 270, 0, 0, 0]);
  });
  it('have names that sort, and a plan that a setup takes or refuses by name', () => {
    expect(frameName('keeper', 7, 4, 'png')).toBe('keeper.0007.png');
    expect(frameName('keeper', 12345, 4, 'exr')).toBe('keeper.12345.exr');
    const setup = setupWith({});
    expect(parseSetup({ ...setup, turntable: plan() }).turntable).toEqual(plan());
    expect(parseSetup({ ...setup, turntable: plan({ frames: 10_000 }) })).toBeDefined();
    for (const wrong of [{ frames: 0 }, { frames: 10_001 }, { frames: 1.5 }, { margin: 0.6 }])
      expect(() => parseSetup({ ...setup, turntable: { ...plan(), ...wrong } })).toThrow(Object.keys(wrong)[0]);
  });
});

// a figure of some triangles, without symmetry
const positions = Float32Array.from(
  { length: 60 * 3 },
  (_, i) => Math.sin(i * 12.9898) * (i % 3 === 1 ? 0.9 : 0.4) + (i % 3 === 1 ? 0.9 : 0),
);
const asset: CharacterAsset = {
  name: 'C',
  parts: [
    {
      name: 'body',
      positions,
      normals: Float32Array.from({ length: 180 }, (_, i) => (i % 3 === 0 ? 1 : 0)),
      indices: Uint32Array.from({ length: 60 }, (_, i) => i),
      material: material({ name: 'body', base: [0.5, 0.5, 0.5], roughness: 0.5 }),
    },
  ],
  bounds: { min: [-1, 0, -1], max: [1, 2, 1] },
  triangles: 20,
  head: HEAD,
  landmarks: {},
  warnings: [],
};
const place = (azimuth: number) => ({ azimuth, elevation: 20, distance: 1.5, aim: [0, 0, 0] as Vec3 });
const setup: Setup = setupWith(
  {
    key: panelLight({ place: place(30), gobo: { pattern: 'blinds', width: 0.4, distance: 0.3, turn: 0 } }),
    disk: disk({ place: place(-50) }),
    ball: ball({ place: place(100) }),
    tube: tube({ place: place(170) }),
    spot: spot({ place: place(-120) }),
    sun: sun({ bearing: 40, elevation: 30 }),
    dome: dome({
      fill: { kind: 'gradient', stops: [-90, 90].map((elevation) => ({ elevation, colour: [1, 1, 1] as Vec3 })) },
      bearing: 20,
    }),
  },
  { subjects: { items: { who: subjectWith({ position: [0.3, 0, 0.1] }) } } },
);
const get = () => asset;
const still = compile(setup, get);

/** Points and directions of a light in the world. */
function marksOf(light: SceneLight): { points: Vec3[]; directions: Vec3[] } {
  if (light.kind === 'environment') return { points: [], directions: [...light.axes] };
  if (light.kind === 'rectangle') return { points: [light.rectangle.corner], directions: [light.rectangle.ex, light.rectangle.ey] };
  if (light.kind !== 'source') return { points: [], directions: [] };
  const { shape, optics } = light;
  const own: { points: Vec3[]; directions: Vec3[] } = optics
    ? { points: [optics.centre], directions: [optics.x, optics.y, optics.z] }
    : { points: [], directions: [] };
  switch (shape.kind) {
    case 'rectangle':
      return { points: [...own.points, shape.rectangle.corner], directions: [...own.directions, shape.rectangle.ex] };
    case 'disk':
      return { points: [...own.points, shape.disk.centre], directions: [...own.directions, shape.disk.a] };
    case 'ball':
      return { points: [...own.points, shape.centre], directions: own.directions };
    case 'tube':
      return { points: [...own.points, shape.tube.centre], directions: [...own.directions, shape.tube.axis] };
    case 'sun':
      return { points: own.points, directions: [...own.directions, shape.towards] };
  }
}
const vertices = ({ geometry }: Scene, kind: string): Vec3[] => {
  const out: Vec3[] = [];
  for (let t = 0; t < geometry.triangleObject.length; t += Math.ceil(geometry.triangleObject.length / 400)) {
    if (!geometry.objects[geometry.triangleObject[t]!]!.startsWith(kind)) continue;
    const v = geometry.mesh.indices[t * 3]! * 3;
    out.push([...geometry.mesh.positions.subarray(v, v + 3)] as Vec3);
  }
  return out;
};

/** Distances and cosines between the figure and all else: a rigid motion of everything leaves each of them as it is. */
function relations(scene: Scene, lights: readonly SceneLight[]): number[] {
  const figure = vertices(scene, 'subjects/'),
    [a, b, c] = [figure[0]!, figure[3]!, figure[7]!],
    along = sub(b, a);
  const marks = lights.map(marksOf);
  const points = [...vertices(scene, 'stage/'), scene.camera.origin, ...marks.flatMap((m) => m.points)],
    directions = [scene.camera.forward, scene.camera.right, ...marks.flatMap((m) => m.directions)];
  return [
    ...points.flatMap((p) => [distance(p, a), distance(p, b), distance(p, c)]),
    ...directions.flatMap((d) => [dot(d, along), dot(d, sub(c, a))]),
  ];
}

describe('a figure that turns', () => {
  const angle = 73,
    axis: [number, number] = [-0.2, 0.4];
  it('stands to stage, camera and lights as if it had been turned and all else had stayed', () => {
    const { position, turn } = setup.subjects.items['who']!;
    const moved = turnY([position[0] - axis[0], position[1], position[2] - axis[1]], angle * DEGREE);
    const truly = compile(
      applyPatch(setup, {
        subjects: { items: { who: { turn: turn + angle, position: [moved[0] + axis[0], moved[1], moved[2] + axis[1]] } } },
      }),
      get,
    );
    // lights stand where they stood: they do not go along with the head
    const expected = relations(truly, compileLights(setup));
    const turned = compile(setup, get, still, { turned: { axis, figure: angle, camera: 0, lights: 0, dome: 0 } });
    const found = relations(turned, turned.lights);
    expect(found).toHaveLength(expected.length);
    found.forEach((v, i) => expect(v).toBeCloseTo(expected[i]!, 4));
    // and it is not where it was, before the stage
    expect(Math.max(...found.map((v, i) => Math.abs(v - relations(still, still.lights)[i]!)))).toBeGreaterThan(0.1);
  });
  it('keeps its own part of the mesh, and after whole turns everything', () => {
    const turned = (figure: number) => compile(setup, get, still, { turned: { axis, figure, camera: 0, lights: 0, dome: 0 } });
    expect(turned(360).geometry).toBe(still.geometry);
    expect(turned(-720).lights).toEqual(still.lights);
    const keys = (scene: Scene) => scene.geometry.mesh.parts!.map((p) => p.key);
    const [before, after] = [keys(still), keys(turned(10))];
    expect(after.filter((k) => before.includes(k)).every((k) => !k.startsWith('stage'))).toBe(true);
    expect(after.filter((k) => k.startsWith('subject'))).toEqual(before.filter((k) => k.startsWith('subject')));
  });
  it('is not touched where the camera, the lights or the dome turn instead', () => {
    const moving = (more: object) => compile(setup, get, still, { turned: { axis, figure: 0, camera: 0, lights: 0, dome: 0, ...more } });
    const camera = moving({ camera: 90 });
    expect(camera.geometry).toBe(still.geometry);
    expect(camera.lights).toEqual(still.lights);
    expect(distance(camera.camera.origin, [axis[0], still.camera.origin[1], axis[1]])).toBeCloseTo(
      distance(still.camera.origin, [axis[0], still.camera.origin[1], axis[1]]),
      6,
    );
    const domes = moving({ dome: 90 });
    expect(domes.lights.filter((l, i) => l.key !== still.lights[i]!.key).map((l) => l.id)).toEqual(['sun', 'dome']);
    expect(domes.camera).toEqual(still.camera);
  });
  it('turns about its middle, its foot or its plinth, and its distance from there is told', () => {
    const points = figurePoints(still.geometry);
    const span = (k: number) => {
      const all = Array.from({ length: points.length / 3 }, (_, i) => points[i * 3 + k]!);
      return (Math.min(...all) + Math.max(...all)) / 2;
    };
    const middle = axisOf(setup, points, plan());
    expect(middle.axis[0]).toBeCloseTo(span(0), 6);
    expect(middle.off).toBe(0);
    const foot = axisOf(setup, points, plan({ axis: 'foot' }));
    expect(foot.axis).toEqual([0.3, 0.1]);
    expect(foot.off).toBeCloseTo(Math.hypot(0.3 - span(0), 0.1 - span(2)), 6);
    // without a plinth, its foot
    expect(axisOf(setup, points, plan({ axis: 'plinth' })).axis).toEqual([0.3, 0.1]);
  });
});

describe('the safe frame', () => {
  /** Largest share of the half frame that any vertex takes at any of 720 angles: brute force. */
  function worst(at: Setup, points: Float32Array, axis: readonly [number, number], margin: number): number {
    const { origin, forward, right, up, halfHeight, aspect } = compileCamera(at);
    let most = -Infinity;
    for (let a = 0; a < 720; a++) {
      for (let i = 0; i < points.length; i += 3) {
        const p = turnY([points[i]! - axis[0], points[i + 1]!, points[i + 2]! - axis[1]], a * 0.5 * DEGREE);
        const v = sub([p[0] + axis[0], p[1], p[2] + axis[1]], origin),
          z = dot(v, forward);
        if (z <= 0) return Infinity;
        most = Math.max(most, Math.abs(dot(v, right)) / z / halfHeight / aspect, Math.abs(dot(v, up)) / z / halfHeight);
      }
    }
    return most / (1 - 2 * margin);
  }
  const coordinate = (scale: number) => fc.double({ min: -scale, max: scale, noNaN: true });
  it('is what brute force over all vertices and 720 angles finds: nothing leaves it, and no nearer would do', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(coordinate(0.6), fc.double({ min: 0, max: 1.8, noNaN: true }), coordinate(0.6)), { minLength: 4, maxLength: 30 }),
        coordinate(0.3),
        fc.constantFrom(0, 0.06, 0.2),
        fc.constantFrom<'distance' | 'lens'>('distance', 'lens'),
        (cloud, off, margin, by) => {
          const points = Float32Array.from(cloud.flat()),
            axis: [number, number] = [off, -off];
          const far = applyPatch(setup, {
            camera: { position: [0.4, 1.2, 9], target: [off, 0.9, -off], focal: 50, aspect: 0.8, roll: 10 },
          });
          const patch = safeFramePatch(far, sweptBy(points, axis, plan()), margin, by);
          fc.pre(patch !== undefined);
          const safe = applyPatch(far, patch);
          fc.pre(safe.camera.focal < 2000 && distance(safe.camera.position, safe.camera.target) > 0.3);
          const fills = worst(safe, points, axis, margin);
          expect(fills).toBeLessThanOrEqual(1 + 1e-6);
          // 720 angles miss the very farthest by a little; a lens is kept to a tenth of a millimetre
          expect(fills).toBeGreaterThan(0.99);
        },
      ),
      { numRuns: 60, seed: 7 },
    );
  });
  it('of a dome that turns is that of the figure as it stands', () => {
    const points = Float32Array.from([0.5, 1, 0, -0.1, 0.2, 0, 0, 1.5, 0]);
    const far = applyPatch(setup, { camera: { position: [0, 1, 6], target: [0, 1, 0], focal: 50, aspect: 1, roll: 0 } });
    const distanceFor = (turning: Turntable['turning']) => {
      const patch = safeFramePatch(far, sweptBy(points, [0, 0], plan({ turning })), 0, 'distance')!;
      return applyPatch(far, patch).camera.position[2];
    };
    const half = 24 / 2 / 50;
    // the lowest point is 0.8 m below what is looked at, in a plane that faces the camera
    expect(distanceFor('dome')).toBeCloseTo(0.8 / half, 2);
    expect(distanceFor('figure')).toBeGreaterThan(distanceFor('dome'));
  });
  it('says what touches it first, and where in the picture', () => {
    const points = Float32Array.from([0.9, 1, 0, 0, 0.4, 0, 0, 1.6, 0]);
    const at = applyPatch(setup, { camera: { position: [0, 1, 6], target: [0, 1, 0], focal: 50, aspect: 1, roll: 0 } });
    const swept = sweptBy(points, [0, 0], plan());
    const safe = applyPatch(at, safeFramePatch(at, swept, 0.05, 'distance')!);
    const touches = touchesOf(compileCamera(safe), swept, 0.05);
    expect(
      touches
        .slice(0, 2)
        .map((t) => t.side)
        .sort(),
    ).toEqual(['left', 'right']);
    expect(touches[0]!.out).toBeCloseTo(0, 3);
    const left = touches.find((t) => t.side === 'left')!;
    expect(left.at[0]).toBeCloseTo(0.05, 3);
    expect(left.point[0]).toBeLessThan(-0.8);
  });
  it('has neither distance nor lens where nothing stands', () => {
    for (const turning of ['figure', 'dome'] as const)
      for (const by of ['distance', 'lens'] as const)
        expect(safeFramePatch(setup, sweptBy(new Float32Array(0), [0, 0], plan({ turning })), 0.05, by)).toBeUndefined();
  });
});
