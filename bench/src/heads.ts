// The demo's three heads, straight and turned to either side, each with its map and with what rays say of a key anywhere about it.
import { readFileSync } from 'node:fs';
import {
  applyPatch,
  cellsOfJob,
  collected,
  compile,
  compileLights,
  directionOfLight,
  emptySetup,
  eyesOf,
  faceJob,
  faceLightOf,
  featuresOf,
  isWhole,
  knownFace,
  lookUp,
  makeFaceMap,
  named,
  placePatch,
  readGlb,
  rectangle,
  scoresOf,
  Tracer,
  type CellLight,
  type Eyes,
  type FaceLight,
  type FaceMap,
  type Pattern,
  type Scene,
  type Setup,
} from '@plinket/core';
import { attachKernel, buildAccel } from '@plinket/kernel';
import { loadKernel } from '@plinket/engine/node';

export interface Head {
  name: string;
  turn: number;
  setup: Setup;
  scene: Scene;
  tracer: Tracer;
  map: FaceMap;
  eyes: Eyes;
  /** The key at a place, as it is traced and as the face asks it. */
  at(azimuth: number, elevation: number): Scene['lights'][number];
  lightAt(azimuth: number, elevation: number): FaceLight;
  /** The pattern that a key draws, by the map and by rays. */
  both(azimuth: number, elevation: number): { looked: Pattern | undefined; exact: Pattern | undefined };
}

const NAMES = ['keeper', 'signaller', 'goat'];
const SAMPLES = 32;

export async function* heads(turns: readonly number[]): AsyncGenerator<Head> {
  const { module } = loadKernel(false);
  for (const name of NAMES)
    for (const turn of turns) {
      const asset = await readGlb(readFileSync(new URL(`../../demo/assets/${name}.glb`, import.meta.url)), name);
      const place = { azimuth: 40, elevation: 35, distance: 1.5, aim: [0, 0, 0] as [number, number, number] };
      const light = rectangle({ name: 'Key', role: 'key', width: 0.5, height: 0.65, place });
      const who = { rank: 'a0', name, asset: '0'.repeat(64), visible: true, position: [0, 0, 0] as [number, number, number] };
      const setup: Setup = {
        ...emptySetup('heads'),
        lights: collected({ key: light }),
        subjects: collected({ who: { ...who, turn, scale: 1, head: asset.head, materials: {} } }),
      };
      const scene = compile(setup, () => asset, undefined, { clay: true });
      const kernel = attachKernel(module!, buildAccel(module!, scene.geometry.mesh)),
        tracer = new Tracer(kernel, scene.geometry);
      const face = knownFace(setup, 'who', asset);
      if (!isWhole(face)) throw new Error(`${name} has no whole face.`);
      const eyes = eyesOf(kernel),
        map = await makeFaceMap(eyes, scene.geometry, face);
      const at = (azimuth: number, elevation: number) => compileLights(applyPatch(setup, placePatch('key', { azimuth, elevation })))[0]!;
      const lightAt = (azimuth: number, elevation: number): FaceLight => faceLightOf(at(azimuth, elevation), scene.geometry)!;
      const score = (of: FaceLight, cells: CellLight) => named(scoresOf(featuresOf(map, cells, directionOfLight(map, of))))?.pattern;
      const both = (azimuth: number, elevation: number) => {
        const of = lightAt(azimuth, elevation),
          looked = lookUp(map, of);
        const exact = cellsOfJob(map, tracer.read(faceJob(map, [at(azimuth, elevation)], SAMPLES)), 0, looked);
        return { looked: score(of, looked), exact: score(of, exact) };
      };
      yield { name, turn, setup, scene, tracer, eyes, map, at, lightAt, both };
    }
}

/** Numbers of 0…1, the same every time (Park, Miller 1988). */
export const chances = (seed: number) => (): number => (seed = (seed * 48271) % 2147483647) / 2147483647;
