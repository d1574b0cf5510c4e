// What a shadow catcher costs: the demo's bust low over a floor that fills half of the frame and more, as a plain floor and as one that only catches, in turns, on
// one core; and the time of a new picture with its shadow when a level changes, 960 × 540, eight lights.
import {
  applyPatch,
  catchPatch,
  compile,
  Film,
  filmKind,
  Guides,
  orderOf,
  PictureMaker,
  tilesOf,
  Tracer,
  type Patch,
  type Scene,
  type Setup,
} from '@plinket/core';
import { attachKernel, buildAccel } from '@plinket/kernel';
import { loadFilmMath, loadKernel } from '@plinket/engine/node';
import { median, report, time } from './report.ts';
import { demoScene, eightLights } from './scene.ts';

const WIDTH = 192,
  HEIGHT = 108,
  ROUNDS = 15,
  LARGE = [960, 540] as const;
const { setup: demo, asset } = await demoScene();
const onFloor: Patch = {
  stage: { kind: 'floor', floor: 1.2, width: 20, front: 10, back: 10 },
  camera: { position: [0, 1.9, 2.6], target: [0, 1.62, 0], focal: 70, aspect: 16 / 9 },
};
const plain: Setup = applyPatch(eightLights(demo), onFloor);
const caught: Setup = applyPatch(plain, catchPatch(plain, 'stage', true));
const scenes = { plain: compile(plain, () => asset), caught: compile(caught, () => asset) };
const { module } = loadKernel(false);
const { geometry } = scenes.plain;
const tracer = new Tracer(attachKernel(module!, buildAccel(module!, geometry.mesh)), geometry);

let seed = 1;
const sample = ({ camera, lights, catchers }: Scene): number => {
  seed++;
  const job = { camera, lights, width: WIDTH, height: HEIGHT, from: 0, to: 4, seed, bounces: 3, ...(catchers ? { catchers } : {}) };
  return time(() => {
    for (const tile of tilesOf(WIDTH, HEIGHT)) tracer.trace({ ...job, tile });
  });
};
const ms = { plain: [] as number[], caught: [] as number[] };
for (let round = 0; round <= ROUNDS; round++)
  for (const name of ['plain', 'caught'] as const) {
    const took = sample(scenes[name]);
    if (round > 0) ms[name].push(took);
  }

// films of the large frame; what is in them does not matter for how long balance takes
const math = loadFilmMath();
const [width, height] = LARGE;
const guides = new Guides(width, height);
const films = new Map(scenes.caught.lights.map(({ id }) => [id, { film: new Film(width, height, { math, ...filmKind(scenes.caught) }) }]));
for (const tile of tilesOf(width, height)) {
  const { camera, lights, catchers } = scenes.caught;
  const result = tracer.trace({
    camera,
    lights,
    catchers: catchers!,
    width,
    height,
    tile,
    from: 0,
    to: 1,
    seed: 1,
    bounces: 0,
    guides: true,
  });
  guides.add(tile, result.guides!, result, 1);
  lights.forEach(({ id }, i) => films.get(id)!.film.add(tile, result, i, 1));
}
const source = { width, height, guides, shown: (id: string) => films.get(id) };
const maker = new PictureMaker(math, { gobo: () => undefined, cube: () => undefined });
const pictureMs = (from: Setup): number[] =>
  Array.from({ length: 24 }, (_, i) => {
    const setup = applyPatch(from, {
      lights: { items: { fill: { stops: -(i % 4) / 3 } } },
      plate: { kind: 'checker', from: [0.5, 0.5, 0.5], to: [0.3, 0.3, 0.3] },
    });
    return time(() => maker.make(source, { setup }));
  }).slice(4);
const balance = median(pictureMs(caught)),
  without = median(pictureMs(plain));
// pair by pair: the machine's clock may change between them
const ratio = median(ms.caught.map((took, i) => took / ms.plain[i]!));
const share = Array.from({ length: width * height }, (_, p) => guides.caughtAt(p)).reduce((a, b) => a + b, 0) / (width * height);
report('catcher', { ratio, balance_ms: balance, plain_balance_ms: without }, [
  `${orderOf(plain.lights).length} lights, ${WIDTH} × ${HEIGHT}, four samples, three bounces: a plain floor ${median(ms.plain).toFixed(0)} ms, one that catches ${median(ms.caught).toFixed(0)} ms; it is ${(share * 100).toFixed(0)} % of the frame`,
  `a level changed, ${width} × ${height}: ${balance.toFixed(1)} ms with the shadow, ${without.toFixed(1)} ms without`,
]);
