import { attachKernel, buildAccel, type RayKernel } from '@plinket/kernel';
import { eyesOf, isWhole, knownFace, makeFaceMap, type FaceMap } from '../face/index.ts';
import { readGlb } from '../formats/index.ts';
import { compile, type CharacterAsset, type Scene } from '../scene/index.ts';
import { collected, type Setup, type Subject } from '../setup/index.ts';
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
): Promise<Portrait> {
  const asset = await readGlb(glb, 'who.glb');
  const setup: Setup = { ...setupWith(lights), subjects: collected({ who: subjectWith({ head: asset.head, ...more }) }) };
  const scene = compile(setup, () => asset);
  const kernel = attachKernel(module, buildAccel(module, scene.geometry.mesh));
  const face = knownFace(setup, 'who', asset);
  if (!isWhole(face)) throw new Error('There is no whole face.');
  return { setup, asset, scene, kernel, map: await makeFaceMap(eyesOf(kernel), scene.geometry, face) };
}
