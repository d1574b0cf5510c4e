import { readFileSync } from 'node:fs';
import { attachKernel, buildAccel, compileKernel } from '@plinket/kernel';
import { describe, expect, it } from '@jest/globals';
import { eyesOf, FaceMeter, isWhole, knownFace, lookUp, makeFaceMap, named } from '../face/index.ts';
import { readGlb } from '../formats/index.ts';
import { compile } from '../scene/index.ts';
import { collected, headInWorld, type Setup } from '../setup/index.ts';
import { panelLight, setupWith, subjectWith } from '../testing/setups.ts';
import { atTime, cellsOfJob, faceJob, faceLightOf, lightsForOnePose, readLightOf, readMoment, Tracer } from './index.ts';

const file = (path: string) => readFileSync(new URL(`../../../${path}`, import.meta.url));

describe('a moment of a motion', () => {
  it.each([0, 0.5])(
    'reads as the whole map of the same pose does, at %s of the clip',
    async (part) => {
      const asset = await readGlb(file('demo/assets/keeper.glb'), 'keeper.glb');
      const [clip] = asset.rig!.clips;
      const still: Setup = {
        ...setupWith({ key: panelLight() }),
        subjects: collected({ who: subjectWith({ head: asset.head, pose: { clip: clip!.name, time: 0 } }) }),
      };
      const setup = atTime(still, 'who', asset, clip!.duration * part);
      // lights that do not follow stay where they are, and the face is where the mesh has it
      expect(headInWorld(setup.subjects.items['who']!)).toEqual(headInWorld(still.subjects.items['who']!));
      const face = knownFace(setup, 'who', asset);
      if (part > 0) expect(face.frame.z[1]).toBeGreaterThan(knownFace(still, 'who', asset).frame.z[1] + 0.05);
      const scene = compile(setup, () => asset);
      const module = compileKernel(file('kernel/build/kernel.wasm'))!;
      const kernel = attachKernel(module, buildAccel(module, scene.geometry.mesh)),
        tracer = new Tracer(kernel, scene.geometry);
      const { reading, meets, over } = await readMoment({ ...eyesOf(kernel), read: (job) => tracer.read(job) }, setup, scene, 'who', asset);
      if (!isWhole(face)) throw new Error('There is no whole face.');
      const map = await makeFaceMap(eyesOf(kernel), scene.geometry, face);
      const [light] = scene.lights;
      const of = faceLightOf(light!, scene.geometry)!;
      const exact = cellsOfJob(map, tracer.read(faceJob(map, [light!], 16)), 0, lookUp(map, of));
      const whole = new FaceMeter(map).read([readLightOf(setup, of, exact)], scene.camera);
      expect(named(reading.byKey)?.pattern).toBe(named(whole.byKey)?.pattern);
      expect(reading.features!.lit).toBeCloseTo(whole.features!.lit, 1);
      expect(reading.features!.nose?.share ?? 0).toBeCloseTo(whole.features!.nose?.share ?? 0, 1);
      if (part === 0) expect(named(whole.byKey)).toBeDefined();
      expect(meets['key']!).toBeGreaterThan(0.2);
      expect(over).toBeLessThan(0.5);
    },
    120_000,
  );
  it('a light that meets its subject in less than half of the moments is for one pose; one that never does, or often does, is not', () => {
    const at = (a: number, b: number, c: number) => ({ meets: { a, b, c } });
    expect(lightsForOnePose([at(0.5, 0, 0.1), at(0, 0, 0.1), at(0, 0, 0)])).toEqual(['a']);
  });
});
