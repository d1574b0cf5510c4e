// The demo's production: two sequences, each with one light that its shots share, and what the shots depart in.
import {
  CAMERA_DEFAULTS,
  collected,
  dome,
  emptySetup,
  FIRST_RANK,
  LENS_OFF,
  parseSetup,
  STAGE_DEFAULTS,
  type Patch,
  type Production,
  type Setup,
  type Shot,
} from '@plinket/core';
import { sequencePicture } from './files.ts';
import { panel, type Kept } from './setups.ts';

const WIDE = 16 / 9;

export interface DemoShot extends Pick<Shot, 'code' | 'first' | 'last' | 'state' | 'brief' | 'notes'> {
  /** What it changes against its sequence. */
  departs(base: Setup, of: (file: string) => Kept): Patch;
  picture: string;
}
export interface DemoSequence {
  name: string;
  brief: string;
  light(of: (file: string) => Kept): Setup;
  shots: DemoShot[];
}

const bust = (id: string, { sha256, asset }: Kept, turn = 0): Setup['subjects']['items'] => ({
  [id]: {
    rank: FIRST_RANK,
    name: asset.name,
    asset: sha256,
    visible: true,
    position: [0, 0, 0],
    turn,
    scale: 1,
    head: asset.head,
    materials: {},
  },
});
const eyes = ({ asset }: Kept): number => asset.head.origin[1] ?? 1.4;

type Look = Pick<Setup['camera'], 'position' | 'target' | 'focal'>;

/** A camera at the height of somebody's eyes, from an angle round the figure, which stands a little aside in the picture. */
function at(height: number, angle: number, distance: number, focal: number, aside = 0): Look {
  const a = (angle * Math.PI) / 180;
  const along = (d: number, y: number): [number, number, number] => [
    +(d * Math.sin(a) + aside * Math.cos(a)).toFixed(3),
    +y.toFixed(3),
    +(d * Math.cos(a) - aside * Math.sin(a)).toFixed(3),
  ];
  return { position: along(distance, height + 0.02), target: along(0, height - 0.05), focal };
}

/** Somebody else in the same light: another figure, and the camera at the height of its eyes. */
const instead = (base: Setup, id: string, kept: Kept, turn: number, camera: Look): Patch => ({
  subjects: {
    items: { ...Object.fromEntries(Object.keys(base.subjects.items).map((k) => [k, null])), ...bust(id, kept, turn) },
  } as unknown as Patch,
  camera,
});

const shot = (
  sequence: string,
  n: number,
  first: number,
  last: number,
  state: Shot['state'],
  brief: string,
  departs: DemoShot['departs'],
): DemoShot => {
  const code = `${sequence}_${String(n).padStart(3, '0')}`;
  return { code, first, last, state, brief, notes: '', departs, picture: sequencePicture(code.toLowerCase()) };
};

function setupOf(
  name: string,
  brief: string,
  kept: Kept,
  lights: Setup['lights']['items'],
  stage: Partial<Setup['stage']>,
  ev: number,
): Setup {
  return parseSetup(
    emptySetup(name, {
      brief,
      subjects: { items: bust('figure', kept) },
      lights: collected(lights),
      stage: { ...STAGE_DEFAULTS, kind: 'sweep', ...stage } as Setup['stage'],
      camera: { ...CAMERA_DEFAULTS, name: 'Shot', aspect: WIDE, ev, lens: { ...LENS_OFF }, ...at(eyes(kept), -10, 1.95, 105, 0.05) },
    }),
  );
}

const nightWatch: DemoSequence = {
  name: 'Night watch',
  brief: 'she has heard this story before',
  light: (of) =>
    setupOf(
      'Night watch, its light',
      'one lamp between them, the sea behind',
      of('keeper.glb'),
      {
        key: panel('Lamp', 'key', { azimuth: 38, elevation: 22, distance: 1.4 }, [0.45, 0.5], 3000, 3000),
        fill: panel('Sea', 'fill', { azimuth: -56, elevation: 10, distance: 1.9 }, [1.3, 1.3], 110, 7800),
        rim: panel('Moon', 'rim', { azimuth: -148, elevation: 32, distance: 1.6 }, [0.25, 1], 6200, 8200),
        wall: panel('Window', 'background', { azimuth: 168, elevation: -10, distance: 1.45, aim: [0.25, 0, -2] }, [0.25, 0.2], 5200, 7400),
        dome: dome({ name: 'Night', kelvin: 8600 }),
      },
      { colour: [0.05, 0.06, 0.075] },
      7.1,
    ),
  shots: [
    shot('NW', 10, 1001, 1125, 'agreed', 'he trims the lamp', () => ({})),
    shot('NW', 20, 1001, 1064, 'to show', 'closer: he has stopped listening', (_, of) => ({
      camera: at(eyes(of('keeper.glb')), 6, 1.95, 150, 0.02),
      lights: { items: { fill: { stops: -0.3333 } } },
    })),
    shot('NW', 30, 1001, 1148, 'in work', 'she looks up', (base, of) => ({
      ...instead(base, 'signaller', of('signaller.glb'), -8, at(eyes(of('signaller.glb')), 12, 1.95, 120, -0.05)),
      lights: { items: { key: { place: { azimuth: -34 }, stops: 0.6667 } } },
    })),
    shot('NW', 40, 1001, 1090, 'in work', 'somebody at the door', (base, of) => ({
      ...instead(base, 'goat', of('goat.glb'), 6, at(eyes(of('goat.glb')), -14, 2.1, 100, 0.05)),
      lights: { items: { rim: { stops: 0.6667 } } },
    })),
    shot('NW', 50, 1001, 1201, 'to light', 'the lamp goes out', () => ({
      lights: { items: { key: { stops: -1.6667 }, rim: { stops: 0.3333 } } },
    })),
  ],
};

const lowTide: DemoSequence = {
  name: 'Low tide',
  brief: 'morning, and nobody has slept',
  light: (of) =>
    setupOf(
      'Low tide, its light',
      'a wide pale sky, the sun not yet over the wall',
      of('signaller.glb'),
      {
        key: panel('Sky', 'key', { azimuth: 30, elevation: 38, distance: 1.8 }, [1.4, 1.4], 1100, 6600),
        fill: panel('Sand', 'fill', { azimuth: -40, elevation: -28, distance: 1.6 }, [1.2, 0.8], 240, 5200),
        hair: panel('Sun to come', 'hair', { azimuth: 158, elevation: 30, distance: 1.6 }, [0.3, 0.6], 3600, 3900),
        dome: dome({ name: 'Morning', kelvin: 7000 }),
      },
      { colour: [0.34, 0.36, 0.38] },
      7.2,
    ),
  shots: [
    shot('LT', 10, 1001, 1096, 'in work', 'she counts the boats', () => ({})),
    shot('LT', 20, 1001, 1072, 'to light', 'he is late', (base, of) =>
      instead(base, 'keeper', of('keeper.glb'), 0, at(eyes(of('keeper.glb')), -12, 1.95, 105, 0.05)),
    ),
    shot('LT', 30, 1001, 1120, 'to light', 'the goat has the rope', (base, of) =>
      instead(base, 'goat', of('goat.glb'), -6, at(eyes(of('goat.glb')), 10, 2.1, 100, -0.04)),
    ),
  ],
};

export const DEMO_PRODUCTION: Pick<Production, 'name' | 'brief' | 'notes' | 'fps'> = {
  name: 'The lamp and the tide',
  brief: 'a lighthouse, three who cannot sleep',
  notes: '',
  fps: 24,
};
export const DEMO_SEQUENCES: readonly DemoSequence[] = [nightWatch, lowTide];
