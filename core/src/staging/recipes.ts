// The shelf: lights by what they are for, each sensible as it comes. Sizes and distances follow the head, levels the camera.
import { add, clamp, round, normalize, scale, sub } from '../math/index.ts';
import { exposureFactor, luminance, snapThird } from '../photometry/index.ts';
import { sunThroughAir } from '../light/index.ts';
import {
  inOrder,
  LIMITS,
  ball,
  disk,
  dome,
  glow,
  outputValue,
  placeOf,
  rectangle,
  setupHead,
  sky,
  spot,
  sun,
  toHead,
  tube,
  wrapDegrees,
  type DiskLight,
  type DomeLight,
  type Light,
  type Place,
  type PlacedLight,
  type RectangleLight,
  type Role,
  type Setup,
  type SpotLight,
} from '../setup/index.ts';

export interface ShelfItem {
  id: string;
  role: Role;
  name: string;
  /** What it is for, in a few words. */
  words: string;
  make(setup: Setup): Light[];
}

/** Chin to crown of a grown person, metres; common practice, no source. Lights are made for it and scaled to other heads. */
const PERSON = 0.23;

/**
 * Illuminance that brings skin of albedo 0.4 to 0.45 of what the camera shows at most: L = 0.4 E / π.
 */
export const skinWanted = (setup: Setup): number => (0.45 * Math.PI) / 0.4 / exposureFactor(setup.camera.ev);

/** How much larger the head is than a grown person's. */
export const headScale = (setup: Setup): number => setupHead(setup).headHeight / PERSON;

/** Luminance for a source of an area at a distance that gives an illuminance, when it faces the head. */
const bright = (E: number, area: number, distance: number): number => (E * distance * distance) / area;

const stand = (setup: Setup) => {
  const head = setupHead(setup),
    k = headScale(setup);
  const camera = placeOf(head, setup.camera.position);
  return {
    k,
    camera,
    E: skinWanted(setup),
    metres: (v: number) => round(v * k, 3),
    /** Across a source, for this head. */
    size: (v: number) => clamp(round(v * k, 3), LIMITS.size),
  };
};

export type Spec = { azimuth: number; elevation: number; distance: number; aim?: Place['aim']; kelvin?: number; share: number };

function place(light: PlacedLight, setup: Setup, { azimuth, elevation, distance, aim = [0, 0, 0] }: Spec): void {
  light.place = {
    azimuth: round(wrapDegrees(azimuth), 1),
    elevation,
    distance: clamp(stand(setup).metres(distance), LIMITS.distance),
    aim,
  };
}

/**
 * A flat source for this head and camera: `width` and `height` in metres for a grown person's head, `share` of the illuminance that brings skin to
 * where the camera shows it well.
 */
export function panel(
  setup: Setup,
  role: Role,
  name: string,
  width: number,
  height: number,
  spec: Spec,
  round_ = false,
): RectangleLight | DiskLight {
  const { size, E } = stand(setup);
  const light = (round_ ? disk : rectangle)({ role, name, width: size(width), height: size(height), kelvin: spec.kelvin ?? 5600 });
  place(light, setup, spec);
  const area = light.width * light.height * (round_ ? Math.PI / 4 : 1);
  light.output = { ...light.output, value: round(bright(E * spec.share, area, light.place.distance), 1) };
  return light;
}

const besideKey = (setup: Setup): number => {
  const key = inOrder(setup.lights).find((l) => l.role === 'key' && 'place' in l);
  return key && 'place' in key && key.place.azimuth < 0 ? -1 : 1;
};

/** The point of the backdrop that the camera sees behind the head, in the head's frame. */
function behind(setup: Setup): Place['aim'] {
  const { stage, camera } = setup;
  const head = setupHead(setup);
  const d = normalize(sub(head.origin, camera.position), [0, 0, -1]);
  const wall = stage.kind !== 'none' && stage.kind !== 'floor' ? -stage.back : head.origin[2] - 2;
  const far = d[2] < -0.05 ? (wall - head.origin[2]) / d[2] : 2;
  return toHead(head, add(head.origin, scale(d, far))).map((v) => round(v, 3)) as Place['aim'];
}

function daylight(setup: Setup): Light[] {
  const { E } = stand(setup);
  const elevation = 8,
    turbidity = 2,
    bearing = 72;
  // the real sun is brighter than most cameras stand for: both come so many stops down
  const lux = luminance(...sunThroughAir(elevation, turbidity));
  const stops = round(snapThird(Math.log2((E * 1.1) / lux)), 4);
  return [
    sun({ role: 'key', name: 'Sun', bearing, elevation, turbidity, stops, group: 'daylight' }),
    sky({ role: 'fill', name: 'Sky', bearing, elevation, turbidity, stops, group: 'daylight' }),
  ];
}

/** A soft pool on the backdrop behind the head, as bright there as half a key. */
export function spotOnBackdrop(s: Setup): SpotLight {
  const light = spot({ role: 'background', name: 'Backdrop', angle: 34, soft: 0.9 });
  place(light, s, { azimuth: 150, elevation: -30, distance: 1.1, aim: behind(s), share: 1 });
  // as bright on the wall as a key's half, from where it stands
  const away = Math.max(0.8, Math.hypot(...light.place.aim) - light.place.distance * 0.5);
  light.output = { ...light.output, value: round(stand(s).E * 0.9 * away * away, 1) };
  return light;
}

const evenDome = (setup: Setup, share: number) => round((stand(setup).E * share) / Math.PI, 2);

export const SHELF: ShelfItem[] = [
  {
    id: 'key',
    role: 'key',
    name: 'Key panel',
    words: 'round 45°, up 35°, 50 × 65 cm',
    make: (s) => [panel(s, 'key', 'Key', 0.5, 0.65, { azimuth: 45, elevation: 35, distance: 1.5, share: 1, kelvin: 5400 })],
  },
  {
    id: 'strip',
    role: 'key',
    name: 'Strip above',
    words: 'in front, high, 150 × 60 cm; its twin below makes a clamshell',
    make: (s) => [panel(s, 'key', 'Strip', 1.5, 0.6, { azimuth: stand(s).camera.azimuth, elevation: 42, distance: 1.3, share: 0.8 })],
  },
  {
    id: 'beauty-disk',
    role: 'key',
    name: 'Beauty disk',
    words: 'round, 55 cm, above the camera',
    make: (s) => [panel(s, 'key', 'Disk', 0.55, 0.55, { azimuth: stand(s).camera.azimuth, elevation: 30, distance: 1.1, share: 1 }, true)],
  },
  {
    id: 'fill',
    role: 'fill',
    name: 'Fill panel',
    words: '90° round from the key, 120 × 120 cm, one stop under it',
    make: (s) => [
      panel(s, 'fill', 'Fill', 1.2, 1.2, { azimuth: -45 * besideKey(s), elevation: 5, distance: 1.8, share: 0.5, kelvin: 6500 }),
    ],
  },
  {
    id: 'rim',
    role: 'rim',
    name: 'Rim strip',
    words: 'beyond the figure, high, 20 × 110 cm',
    make: (s) => [
      panel(s, 'rim', 'Rim', 0.2, 1.1, {
        azimuth: stand(s).camera.azimuth + 180 + 28 * besideKey(s),
        elevation: 28,
        distance: 1.6,
        share: 1.5,
        kelvin: 7000,
      }),
    ],
  },
  {
    id: 'hair',
    role: 'hair',
    name: 'Hair light',
    words: 'above and just behind the head',
    make: (s) => [panel(s, 'hair', 'Hair', 0.4, 0.3, { azimuth: 180, elevation: 62, distance: 1.2, share: 0.9 })],
  },
  {
    id: 'kick',
    role: 'kick',
    name: 'Kick strip',
    words: 'low, from behind, along the jaw',
    make: (s) => [panel(s, 'kick', 'Kick', 0.15, 0.9, { azimuth: -125 * besideKey(s), elevation: -6, distance: 1.4, share: 0.7 })],
  },
  {
    id: 'eye',
    role: 'eye',
    name: 'Eye light',
    words: 'small, beside the camera; its highlight only',
    make: (s) => [
      {
        ...panel(s, 'eye', 'Eye', 0.14, 0.14, { azimuth: stand(s).camera.azimuth + 6, elevation: 14, distance: 1, share: 0.25 }, true),
        diffuse: 0.2,
      } as Light,
    ],
  },
  {
    id: 'background',
    role: 'background',
    name: 'Background spot',
    words: 'a soft pool on the backdrop behind the head',
    make: (s) => [spotOnBackdrop(s)],
  },
  {
    id: 'window',
    role: 'key',
    name: 'Window spot',
    words: 'a hard spot through a window’s panes',
    make: (s) => {
      const light = spot({ role: 'key', name: 'Window', angle: 40, soft: 0.2, diameter: 0.02, kelvin: 4800 });
      place(light, s, { azimuth: 50 * besideKey(s), elevation: 22, distance: 2.4, share: 1 });
      light.gobo = {
        ...light.gobo,
        pattern: 'window',
        distance: clamp(stand(s).metres(1.3), LIMITS.goboDistance),
        width: clamp(stand(s).metres(0.22), LIMITS.goboWidth),
      };
      light.output = { ...light.output, value: round(stand(s).E * light.place.distance ** 2 * 1.2, 1) };
      return [light];
    },
  },
  {
    id: 'ball',
    role: 'accent',
    name: 'Paper ball',
    words: 'a glowing ball of 30 cm',
    make: (s) => {
      const light = ball({ role: 'accent', name: 'Ball', diameter: stand(s).size(0.3), kelvin: 3000 });
      place(light, s, { azimuth: -60, elevation: -10, distance: 1, share: 0.5 });
      light.output = {
        ...light.output,
        value: round(bright(stand(s).E * 0.5, (Math.PI / 4) * light.diameter ** 2, light.place.distance), 1),
      };
      return [light];
    },
  },
  {
    id: 'tube',
    role: 'accent',
    name: 'Tube',
    words: '120 cm, upright, beside the figure',
    make: (s) => {
      const light = tube({ role: 'accent', name: 'Tube', length: stand(s).size(1.2), diameter: stand(s).size(0.04) });
      place(light, s, { azimuth: 110, elevation: 0, distance: 1, share: 0.6 });
      light.output = { ...light.output, value: round(bright(stand(s).E * 0.6, light.length * light.diameter, light.place.distance), 1) };
      return [light];
    },
  },
  {
    id: 'dome',
    role: 'dome',
    name: 'Faint dome',
    words: 'even, from everywhere, a tenth of the key',
    make: (s) => [dome({ name: 'Dome', output: { held: 'luminance', value: evenDome(s, 0.1), unit: 'cd/m²', efficacy: 15 } })],
  },
  {
    id: 'gradient',
    role: 'dome',
    name: 'Gradient dome',
    words: 'cool from above, warm from the floor',
    make: (s) => [
      dome({
        name: 'Gradient',
        output: { held: 'luminance', value: evenDome(s, 0.35), unit: 'cd/m²', efficacy: 15 },
        fill: {
          kind: 'gradient',
          stops: [
            { elevation: 70, colour: [0.55, 0.72, 1] },
            { elevation: 0, colour: [0.35, 0.33, 0.36] },
            { elevation: -60, colour: [0.22, 0.13, 0.07] },
          ],
        },
      }),
    ],
  },
  { id: 'daylight', role: 'key', name: 'Sun and sky', words: 'a low sun and the sky that belongs to it', make: daylight },
  {
    id: 'glow',
    role: 'accent',
    name: 'Surfaces that glow',
    words: 'all materials with light of their own, in one share',
    make: () => [glow()],
  },
];

/** A dome that shows a picture, a third as bright as the key. */
export const domeOf = (setup: Setup, name: string, fill: DomeLight['fill']): Light =>
  dome({ name, fill, output: { held: 'luminance', value: evenDome(setup, 0.35), unit: 'cd/m²', efficacy: 15 } });

/** A luminaire as measured, in front of the face, at a level that suits the camera. */
export function profileLevel(setup: Setup, light: Light): Light {
  if (light.kind !== 'profile') return light;
  place(light, setup, { azimuth: 35, elevation: 30, distance: 1.6, share: 1 });
  const cd = stand(setup).E * light.place.distance ** 2;
  return { ...light, output: { ...light.output, value: outputValue(light, 'cd', cd) } };
}
