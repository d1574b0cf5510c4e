import {
  CAMERA_DEFAULTS,
  collected,
  dome,
  emptySetup,
  FIRST_RANK,
  glowing,
  headAt,
  LENS_OFF,
  NO_HEAD,
  rectangle,
  STAGE_DEFAULTS,
  type CharacterAsset,
  type HeadFrame,
  type Place,
  type RectangleLight,
  type Role,
  type Setup,
  type Subject,
  type Vec3,
  partRef,
} from '@plinket/core';
import { PICTURES } from './files.ts';

/** A panel of a role, at a place about the head: width and height in metres, luminance, temperature. */
export const panel = (
  name: string,
  role: Role,
  place: Partial<Place>,
  [width, height]: [number, number],
  luminance: number,
  kelvin: number,
): RectangleLight => {
  const light = rectangle({ name, role, kelvin, width, height });
  return { ...light, place: { ...light.place, ...place }, output: { ...light.output, value: luminance } };
};

/**
 * The setup that a first visit opens: the old keeper on a dark sweep, with key, fill, rim, back wall and a faint dome.
 * @param asset SHA-256 of the keeper's GLB
 * @param head as the import read it
 */
export function demoSetup(asset: string, head: HeadFrame): Setup {
  const eye = head.origin[1] ?? NO_HEAD.origin[1];
  return emptySetup('The keeper, first look', {
    brief: 'he knows the lamp will go out tonight',
    subjects: {
      items: {
        keeper: {
          rank: FIRST_RANK,
          name: 'The old keeper',
          asset,
          visible: true,
          position: [0, 0, 0],
          turn: 0,
          scale: 1,
          head,
          materials: {},
        },
      },
    },
    camera: {
      ...CAMERA_DEFAULTS,
      name: 'Portrait',
      position: [-0.52, eye + 0.01, 2.35],
      target: [0.02, eye - 0.05, 0],
      focal: 125,
      aspect: 0.8,
      ev: 6.9,
      lens: { ...LENS_OFF },
    },
    lights: collected({
      key: panel('Key', 'key', { azimuth: 40, elevation: 35, distance: 1.5 }, [0.5, 0.65], 3600, 5400),
      fill: panel('Fill', 'fill', { azimuth: -52, elevation: 5, distance: 1.8 }, [1.2, 1.2], 110, 6800),
      rim: panel('Rim', 'rim', { azimuth: -152, elevation: 24, distance: 1.5 }, [0.2, 1.1], 3400, 7600),
      wall: panel('Back wall', 'background', { azimuth: 170, elevation: -14, distance: 1.45, aim: [0.2, 0, -2] }, [0.2, 0.16], 4200, 5400),
      dome: dome({ name: 'Dome' }),
    }),
  });
}

/** One of the cast as it is kept: the SHA-256 of its file, and what was read from it. */
export interface Kept {
  sha256: string;
  asset: CharacterAsset;
}

/** A subject at rest, or at a moment of its clip, with its head there. */
function standing(id: string, { sha256, asset }: Kept, time?: number): Setup['subjects'] {
  const clip = asset.rig?.clips[0]?.name;
  const subject: Subject = {
    rank: FIRST_RANK,
    name: asset.name,
    asset: sha256,
    visible: true,
    position: [0, 0, 0],
    turn: 0,
    scale: 1,
    head: asset.head,
    materials: {},
    ...(clip && time !== undefined ? { pose: { clip, time, head: headAt(asset, asset.head, { clip, time }) } } : {}),
  };
  return { items: { [id]: subject } };
}

/** A camera that looks at a height, from an angle round the figure. */
function looking(
  name: string,
  height: number,
  angle: number,
  distance: number,
  focal: number,
  aspect: number,
  ev: number,
): Setup['camera'] {
  const a = (angle * Math.PI) / 180;
  const position: Vec3 = [+(distance * Math.sin(a)).toFixed(3), +(height + 0.08).toFixed(3), +(distance * Math.cos(a)).toFixed(3)];
  return { ...CAMERA_DEFAULTS, name, position, target: [0, height, 0], focal, aspect, ev, lens: { ...LENS_OFF } };
}

const lit = (name: string, lights: Setup['lights']['items'], more: Partial<Setup>): Setup =>
  emptySetup(name, { ...more, lights: collected(lights) });

/** The young signaller turns to listen: a half figure before a warm cloth. */
export function signallerSetup(figure: Kept): Setup {
  return lit(
    'The signaller listens',
    {
      key: panel('Window', 'key', { azimuth: 34, elevation: 28, distance: 1.9 }, [0.9, 1.2], 1500, 6200),
      fill: panel('Fill', 'fill', { azimuth: -60, elevation: 4, distance: 2.2 }, [1.4, 1.4], 90, 5200),
      hair: panel('Hair light', 'hair', { azimuth: -150, elevation: 46, distance: 1.7 }, [0.25, 0.9], 3000, 4300),
      dome: dome({ name: 'Dome' }),
    },
    {
      brief: 'somebody answers, far out',
      subjects: standing('signaller', figure, 2.6),
      stage: { ...STAGE_DEFAULTS, kind: 'flat', width: 5, back: 1.6, height: 4, colour: [0.2, 0.16, 0.12], roughness: 0.95 },
      camera: looking('Half figure', 1.28, 8, 3.4, 100, 0.8, 6.6),
    },
  );
}

/** The tide-goat at the door: under a high moon and a low lamp. */
export function goatSetup(bust: Kept): Setup {
  return lit(
    'The tide-goat at the door',
    {
      key: panel('Moon', 'key', { azimuth: -48, elevation: 48, distance: 1.7 }, [0.5, 0.5], 4200, 7600),
      kick: panel('Lamp by the door', 'kick', { azimuth: 118, elevation: -8, distance: 1.3 }, [0.3, 0.5], 2600, 3200),
      eye: panel('Eye light', 'eye', { azimuth: 8, elevation: 6, distance: 1.6 }, [0.12, 0.12], 900, 5000),
      dome: dome({ name: 'Dome', kelvin: 8200 }),
    },
    {
      brief: 'is it asking, or waiting?',
      subjects: standing('goat', bust),
      stage: { ...STAGE_DEFAULTS, kind: 'sweep', colour: [0.06, 0.068, 0.08] },
      camera: looking('Portrait', (bust.asset.head.origin[1] ?? 1.35) - 0.01, -22, 2.5, 115, 0.8, 6.9),
    },
  );
}

/** The signaller before a dark cloth: rims draw her hair, little else is lit. */
export function rimSetup(bust: Kept): Setup {
  return lit(
    'Wind in her hair',
    {
      rim: panel('Rim', 'rim', { azimuth: -150, elevation: 32, distance: 1.2 }, [0.3, 1], 16_000, 5600),
      hair: panel('Hair light', 'hair', { azimuth: 156, elevation: 40, distance: 1.2 }, [0.5, 0.5], 15_000, 4200),
      fill: panel('Fill', 'fill', { azimuth: 38, elevation: 10, distance: 1.9 }, [1.2, 1.2], 330, 6500),
      dome: dome({ name: 'Dome' }),
    },
    {
      brief: 'the wind has turned',
      subjects: standing('signaller', bust),
      stage: { ...STAGE_DEFAULTS, kind: 'sweep', colour: [0.045, 0.05, 0.055] },
      camera: looking('Close', (bust.asset.head.origin[1] ?? 1.35) - 0.005, -28, 2.2, 125, 0.8, 6.9),
    },
  );
}

/** The signaller from her left, the sun low behind her: light comes through her ear. */
export function earSetup(bust: Kept): Setup {
  return lit(
    'Low sun behind her',
    {
      sun: panel('Low sun', 'rim', { azimuth: 152, elevation: 8, distance: 1.2 }, [0.16, 0.16], 190_000, 3800),
      sky: panel('Sky', 'fill', { azimuth: 40, elevation: 24, distance: 1.8 }, [1.5, 1.5], 300, 7800),
      dome: dome({ name: 'Dome', kelvin: 7600 }),
    },
    {
      brief: 'the last evening before the storm',
      subjects: standing('signaller', bust),
      stage: { ...STAGE_DEFAULTS, kind: 'sweep', colour: [0.1, 0.09, 0.085] },
      camera: looking('Profile', (bust.asset.head.origin[1] ?? 1.35) - 0.01, 52, 2.2, 140, 0.8, 6.9),
    },
  );
}

/** The keeper lifts his lantern: its glass and flame are lights of the setup. */
export function lanternSetup(figure: Kept): Setup {
  const flame = glowing(partRef('keeper', 'flame'), { name: 'Flame', kelvin: 2300 });
  return lit(
    'The lantern is lifted',
    {
      flame: { ...flame, output: { ...flame.output, value: 38_000 } },
      moon: panel('Moon', 'rim', { azimuth: -140, elevation: 40, distance: 2.6 }, [1, 1.4], 900, 8200),
      fill: panel('Sky', 'fill', { azimuth: -50, elevation: 20, distance: 2.8 }, [2, 2], 26, 7800),
      dome: dome({ name: 'Dome', kelvin: 8000 }),
    },
    {
      brief: 'who is out there?',
      subjects: standing('keeper', figure, 3.1),
      stage: {
        ...STAGE_DEFAULTS,
        kind: 'sweep',
        width: 9,
        front: 4,
        back: 2.6,
        height: 4.2,
        fillet: 1.2,
        colour: [0.07, 0.075, 0.08],
        roughness: 0.5,
      },
      camera: looking('Three-quarter', 1.2, 20, 4.2, 85, 0.8, 4.6),
    },
  );
}

/** A setup of the demo: how it is made of the cast, and the proof that ships with it. */
export interface DemoSetup {
  make(of: (file: string) => Kept): Setup;
  picture: string;
}

/** All of them, the newest last. */
export const DEMO_SETUPS: DemoSetup[] = [
  { make: (of) => rimSetup(of('signaller.glb')), picture: PICTURES.wind },
  { make: (of) => earSetup(of('signaller.glb')), picture: PICTURES.sun },
  { make: (of) => lanternSetup(of('keeper-figure.glb')), picture: PICTURES.lantern },
  { make: (of) => goatSetup(of('goat.glb')), picture: PICTURES.goat },
  { make: (of) => signallerSetup(of('signaller-figure.glb')), picture: PICTURES.signaller },
  { make: (of) => demoSetup(of('keeper.glb').sha256, of('keeper.glb').asset.head), picture: PICTURES.keeper },
];
