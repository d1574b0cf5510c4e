// The face meter on a bust of 200 000 triangles, one worker: its map, made once for a character and pose; then, each time a light moved, a
// reading looked up in the map and one followed by rays; and a reading where only a level changed.
import {
  applyPatch,
  cellsOfJob,
  compileLights,
  eyesOf,
  faceJob,
  faceLightOf,
  isWhole,
  knownFace,
  lookUp,
  makeFaceMap,
  placePatch,
  FaceMeter,
  readLightOf,
  Tracer,
  type ReadLight,
} from '@plinket/core';
import { attachKernel, buildAccel } from '@plinket/kernel';
import { loadKernel } from '@plinket/engine/node';
import { median, report } from './report.ts';
import { largeScene } from './scene.ts';

const TURNS = 15,
  SAMPLES = 8;
const { setup, scene, asset } = await largeScene(5);
const { module } = loadKernel(false);
const kernel = attachKernel(module!, buildAccel(module!, scene.geometry.mesh)),
  tracer = new Tracer(kernel, scene.geometry);
const [subject] = Object.keys(setup.subjects.items);
const face = knownFace(setup, subject!, asset);
if (!isWhole(face)) throw new Error('The bust has no whole face.');
const begun = performance.now();
const map = await makeFaceMap(eyesOf(kernel), scene.geometry, face);
const map_ms = performance.now() - begun;

const known = new Map<string, ReadLight>();
for (const light of scene.lights) {
  const of = faceLightOf(light, scene.geometry);
  if (of) known.set(light.id, readLightOf(setup, of, lookUp(map, of)));
}
const meter = new FaceMeter(map);
const read = () => meter.read([...known.values()], scene.camera);
const times = { drag: [] as number[], move: [] as number[], level: [] as number[] };
const time = (into: number[], run: () => void): void => {
  const start = performance.now();
  run();
  into.push(performance.now() - start);
};
for (let turn = 0; turn < TURNS; turn++) {
  const moved = applyPatch(setup, placePatch('key', { azimuth: -60 + 8 * turn, elevation: 20 + turn }));
  const light = compileLights(moved).find((l) => l.id === 'key')!;
  const of = faceLightOf(light, scene.geometry)!;
  let looked = lookUp(map, of);
  time(times.drag, () => {
    looked = lookUp(map, of);
    known.set('key', readLightOf(moved, of, looked));
    read();
  });
  time(times.move, () => {
    known.set('key', readLightOf(moved, of, cellsOfJob(map, tracer.read(faceJob(map, [light], SAMPLES)), 0, looked)));
    read();
  });
  time(times.level, () => {
    const key = known.get('key')!;
    known.set('key', { ...key, level: key.level * 1.1 });
    read();
  });
}
// the first turns warm up
const of = (values: number[]) => median(values.slice(3));
report('reading', { map_ms, drag_ms: of(times.drag), move_ms: of(times.move), level_ms: of(times.level) }, [
  `${scene.geometry.mesh.indices.length / 3} triangles, ${known.size} lights, one worker`,
  `slowest: looked up ${Math.max(...times.drag.slice(3)).toFixed(1)}, by rays ${Math.max(...times.move.slice(3)).toFixed(0)}, level ${Math.max(...times.level.slice(3)).toFixed(1)} ms`,
]);
