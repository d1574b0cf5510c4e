// Placing on the demo's three heads, straight and turned by 20° to either side: seven patterns from both sides, each checked by rays with the light
// as it is; and, over random places of a key, whether a reading looked up names the same pattern as one by rays.
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
  patternName,
  placePatch,
  placePattern,
  readGlb,
  rectangle,
  scoresOf,
  Tracer,
  type CellLight,
  type FaceLight,
  type PatternWish,
  type Setup,
} from '@plinket/core';
import { attachKernel, buildAccel } from '@plinket/kernel';
import { loadKernel } from '@plinket/engine/node';
import { median, report } from './report.ts';

const PATTERNS: PatternWish['pattern'][] = ['loop', 'closed triangle', 'split', 'butterfly', 'under', 'rim', 'flat'];
const SAMPLES = 32,
  RIGS = 200;
const { module } = loadKernel(false);
const times: number[] = [],
  failed: string[] = [];
let asked = 0,
  reached = 0,
  same = 0,
  rigs = 0,
  seed = 1;
/** Numbers of 0…1, the same every time (Park, Miller 1988). */
const chance = (): number => (seed = (seed * 48271) % 2147483647) / 2147483647;

for (const head of ['keeper', 'signaller', 'goat'])
  for (const turn of [-20, 0, 20]) {
    const asset = await readGlb(readFileSync(new URL(`../../demo/assets/${head}.glb`, import.meta.url)), head);
    const light = rectangle({
      name: 'Key',
      role: 'key',
      width: 0.5,
      height: 0.65,
      place: { azimuth: 40, elevation: 35, distance: 1.5, aim: [0, 0, 0] },
    });
    const setup: Setup = {
      ...emptySetup('placing'),
      lights: collected({ key: light }),
      subjects: collected({
        who: {
          rank: 'a0',
          name: head,
          asset: '0'.repeat(64),
          visible: true,
          position: [0, 0, 0],
          turn,
          scale: 1,
          head: asset.head,
          materials: {},
        },
      }),
    };
    const scene = compile(setup, () => asset);
    const kernel = attachKernel(module!, buildAccel(module!, scene.geometry.mesh)),
      tracer = new Tracer(kernel, scene.geometry);
    const face = knownFace(setup, 'who', asset);
    if (!isWhole(face)) throw new Error(`${head} has no whole face.`);
    const map = await makeFaceMap(eyesOf(kernel), scene.geometry, face);
    const at = (azimuth: number, elevation: number) => compileLights(applyPatch(setup, placePatch('key', { azimuth, elevation })))[0]!;
    const lightAt = (azimuth: number, elevation: number): FaceLight => faceLightOf(at(azimuth, elevation), scene.geometry)!;
    const score = (of: FaceLight, cells: CellLight) => named(scoresOf(featuresOf(map, cells, directionOfLight(map, of))))?.pattern;
    /** The pattern by the map, and by rays. */
    const both = (azimuth: number, elevation: number) => {
      const of = lightAt(azimuth, elevation),
        looked = lookUp(map, of);
      const exact = cellsOfJob(map, tracer.read(faceJob(map, [at(azimuth, elevation)], SAMPLES)), 0, looked);
      return { looked: score(of, looked), exact: score(of, exact) };
    };
    for (const pattern of PATTERNS)
      for (const from of ['left', 'right'] as const) {
        const start = performance.now();
        const placed = placePattern(map, { pattern, from }, lightAt);
        const { exact } = both(placed.azimuth, placed.elevation);
        times.push(performance.now() - start);
        asked++;
        if (exact === pattern) reached++;
        else
          failed.push(
            `${head} ${turn}° ${patternName(pattern)} ${from} → ${exact ?? 'none'} at ${placed.azimuth}°, ${placed.elevation}°${placed.reached ? '' : ' (said so)'}`,
          );
      }
    for (let k = 0; k < Math.ceil(RIGS / 9); k++) {
      const { looked, exact } = both(chance() * 260 - 130, chance() * 100 - 35);
      rigs++;
      if (looked === exact) same++;
    }
  }
report('placing', { pattern_ms: median(times), placed: reached / asked, drag_vs_exact: same / rigs }, [
  `${asked} wishes on three heads, each with its check by rays: slowest ${Math.max(...times).toFixed(0)} ms`,
  `not shown by rays: ${failed.length ? failed.join('; ') : 'none'}`,
  `${rigs} random keys: looked up and by rays the same pattern in ${same}`,
]);
