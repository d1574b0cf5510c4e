import {
  atTime,
  cellsOfJob,
  compile,
  faceJob,
  faceLightOf,
  FaceMeter,
  eyesOf,
  firstInSight,
  isWhole,
  knownFace,
  lookUp,
  makeFaceMap,
  missingOf,
  readingWords,
  readLightOf,
  Tracer,
  type FaceMap,
  type Reading,
  type ReadLight,
  type Setup,
} from '@plinket/core';
import { attachKernel, buildAccel, plainKernel } from '@plinket/kernel';
import { loadKernel } from '@plinket/engine/node';
import { loadAssets, loadLightFiles, loadSetup } from '../load.ts';
import { UsageError, whole } from '../usage.ts';

/** Frames a second that clips are counted in: those of film. */
const FPS = 24;

/** What the lights of a setup do to the face of its first figure in sight, by rays. @throws UsageError that says why there is none to read */
export async function readFace(
  still: Setup,
  folders: string[],
  samples: number,
  frame?: number,
): Promise<{ name: string; setup: Setup; reading: Reading; map: FaceMap }> {
  const assets = await loadAssets(still, folders);
  const subject = firstInSight(still);
  if (subject === undefined) throw new UsageError('The setup shows no figure: there is no face to read.');
  const { asset, name, pose } = still.subjects.items[subject]!;
  if (frame !== undefined && !pose) throw new UsageError(`${name} has no clip of which --frame could be a moment.`);
  const setup = frame === undefined ? still : atTime(still, subject, assets.get(asset)!, frame / FPS);
  const face = knownFace(setup, subject, assets.get(asset)!);
  if (!isWhole(face))
    throw new UsageError(`Not measured: of ${name}’s landmarks ${missingOf(face).join(', ')} are not known. Mark them on the Stage.`);
  const scene = compile(setup, (sha) => assets.get(sha), undefined, { files: loadLightFiles(setup, folders) });
  const { module } = loadKernel(false);
  const kernel = module ? attachKernel(module, buildAccel(module, scene.geometry.mesh)) : plainKernel(scene.geometry.mesh);
  const map = await makeFaceMap(eyesOf(kernel), scene.geometry, face);
  const asked = scene.lights.flatMap((light) => {
    const of = setup.lights.items[light.id] && faceLightOf(light, scene.geometry);
    return of ? [{ light, of }] : [];
  });
  const found = new Tracer(kernel, scene.geometry).read(
    faceJob(
      map,
      asked.map((a) => a.light),
      samples,
      scene.haze?.density,
    ),
  );
  const lights = asked.map(({ of }, l): ReadLight => readLightOf(setup, of, cellsOfJob(map, found, l, lookUp(map, of))));
  return { name, setup, reading: new FaceMeter(map).read(lights, scene.camera), map };
}

/** Prints what the lights of a setup do to the face of its first figure in sight: as JSON, and the same in sentences. */
export async function readCommand(positional: string[], options: Record<string, string | undefined>): Promise<void> {
  const { setup: still, folder } = await loadSetup(positional[0], options['server']);
  const folders = [...(options['assets'] ? [options['assets']] : []), folder];
  const frame = options['frame'] === undefined ? undefined : whole(options, 'frame', 0, 1e6);
  const { name: subject, setup, reading } = await readFace(still, folders, Math.max(1, whole(options, 'samples', 64, 4096)), frame);
  const nameOf = (id: string) => setup.lights.items[id]?.name ?? id;
  // places of the map mean nothing outside of it
  const bare = (name: string, value: unknown) => (name === 'cells' || name === 'shades' ? undefined : value);
  console.log(JSON.stringify({ subject, ...reading, words: readingWords(reading, nameOf) }, bare, 2));
}
