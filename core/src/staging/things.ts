import { round } from '../math/index.ts';
import { freeId, LIMITS, orderOf, withRanks, fromHead, setupHead, type Patch, type Prop, type Setup } from '../setup/index.ts';

/** A mirror ball and a ball of middle grey, one above the other beside the head, close enough to be in a portrait. */
export function addBallsPatch(setup: Setup): Patch {
  const head = setupHead(setup);
  const radius = Number((head.headHeight / 7).toFixed(4));
  const ball = (finish: 'chrome' | 'grey', name: string, up: number) => ({
    kind: 'ball' as const,
    finish,
    name,
    visible: true,
    radius,
    position: fromHead(head, [-head.headHeight * 0.74, up * head.headHeight, 0]).map((v) => round(v, 4)) as Prop['position'],
  });
  return {
    props: {
      items: withRanks(setup.props, {
        chrome: ball('chrome', 'Chrome ball', 0.2),
        grey: ball('grey', 'Grey ball', -0.2),
      }) as unknown as Patch,
    },
  };
}

/** What figures stand on, and how it is called. */
export const THINGS = {
  round: 'round plinth',
  square: 'square plinth',
  rock: 'rock',
  step: 'step',
  steps: 'flight of steps',
} as const;
export type Thing = keyof typeof THINGS;

/** Common practice, no source: a comfortable step is 17 cm high and 29 cm deep; one to stand on at ease is deeper. */
const STEP = { rise: 0.17, tread: 0.29, deep: 0.7 };

/** Puts a thing under the first figure, to its size; the figure is set down on it by hand, as it may only lean on it. */
export function addThingPatch(setup: Setup, thing: Thing, letters = ''): Patch {
  const { props } = setup;
  const kind = thing === 'step' || thing === 'steps' ? 'steps' : 'plinth';
  const id = freeId(props.items, kind, letters);
  const k = setupHead(setup).headHeight / 0.23;
  const [x, , z] = setup.subjects.items[orderOf(setup.subjects)[0] ?? '']?.position ?? [0, 0, 0];
  const common = {
    name: THINGS[thing][0]!.toUpperCase() + THINGS[thing].slice(1),
    visible: true,
    colour: [0.2, 0.19, 0.18],
    roughness: 0.7,
  };
  const size = (v: number) => round(v * k, 2);
  const floor = setup.stage.floor;
  if (kind === 'plinth') {
    const plinth = { kind, shape: thing, ...common, position: [x, floor, z], width: size(0.9), height: size(0.25) };
    return { props: { items: withRanks(props, { [id]: plinth }) as unknown as Patch } };
  }
  const tread = size(thing === 'step' ? STEP.deep : STEP.tread),
    count = thing === 'step' ? 1 : 5;
  // the figure stands in the middle of the first tread
  const steps = {
    kind,
    ...common,
    position: [x, floor, round(z + tread / 2, 3)],
    turn: 0,
    width: size(1.6),
    tread,
    rise: Math.max(LIMITS.rise[0], size(STEP.rise)),
    count,
  };
  return { props: { items: withRanks(props, { [id]: steps }) as unknown as Patch } };
}
