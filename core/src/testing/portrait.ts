import { attachKernel, buildAccel, type RayKernel } from '@plinket/kernel';
import { eyesOf, FaceMeter, isWhole, knownFace, lookUp, makeFaceMap, type FaceLight, type FaceMap, type ReadLight } from '../face/index.ts';
import { readGlb } from '../formats/index.ts';
import { standOf, type Stand } from '../placing/index.ts';
import { compile, compileCamera, compileLights, type CharacterAsset, type Scene } from '../scene/index.ts';
import { collected, orderOf, type Setup, type Subject } from '../setup/index.ts';
import { faceLightOf, readLightOf } from '../trace/index.ts';
import { setupWith, subjectWith } from './setups.ts';

/** A character on an empty stage, its face mapped, and the kernel that did it. */
export interface Portrait {
  setup: Setup;
  asset: CharacterAsset;
  scene: Scene;
  kernel: RayKernel;
  map: FaceMap;
}

/** Maps the face of a character, which stands as `more` says, under these lights. @throws Error when landmarks are missing */
export async function portraitOf(
  glb: Uint8Array,
  module: WebAssembly.Module,
  more: Partial<Subject> = {},
  lights: Setup['lights']['items'] = {},
  changes: Partial<Setup> = {},
): Promise<Portrait> {
  const asset = await readGlb(glb, 'who.glb');
  const setup: Setup = { ...setupWith(lights), ...changes, subjects: collected({ who: subjectWith({ head: asset.head, ...more }) }) };
  const scene = compile(setup, () => asset);
  const kernel = attachKernel(module, buildAccel(module, scene.geometry.mesh));
  const face = knownFace(setup, 'who', asset);
  if (!isWhole(face)) throw new Error('There is no whole face.');
  return { setup, asset, scene, kernel, map: await makeFaceMap(eyesOf(kernel), scene.geometry, face) };
}

/** How things stand for whoever places lights on a portrait: its lights looked up and read. */
export function standOn({ setup, scene, map }: Portrait, changed: Setup = setup): Stand {
  const at = (s: Setup, id: string): FaceLight | undefined => {
    const light = compileLights(s).find((l) => l.id === id);
    return light && faceLightOf(light, scene.geometry);
  };
  const meter = new FaceMeter(map);
  const lights = orderOf(changed.lights).flatMap((id): ReadLight[] => {
    const light = at(changed, id);
    return light ? [readLightOf(changed, light, lookUp(map, light))] : [];
  });
  const camera = compileCamera(changed);
  return standOf({ setup: changed, subject: 'who', map, meter, camera, reading: meter.read(lights, camera), lights, at });
}
