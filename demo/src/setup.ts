import {
  CAMERA_DEFAULTS,
  dome,
  LENS_OFF,
  LOOK_DEFAULTS,
  NO_HAZE,
  NO_HEAD,
  NO_PLATE,
  rectangle,
  SCHEMA_VERSION,
  STAGE_DEFAULTS,
  type HeadFrame,
  type Place,
  type RectangleLight,
  type Role,
  type Setup,
} from '@plinket/core';

const panel = (
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
  return {
    schemaVersion: SCHEMA_VERSION,
    name: 'The keeper, first look',
    brief: 'he knows the lamp will go out tonight',
    subjects: {
      order: ['keeper'],
      items: { keeper: { name: 'The old keeper', asset, visible: true, position: [0, 0, 0], turn: 0, scale: 1, head, materials: {} } },
    },
    stage: { ...STAGE_DEFAULTS, kind: 'sweep', colour: [0.105, 0.102, 0.099] },
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
    cameras: { order: [], items: {} },
    plate: { ...NO_PLATE },
    props: { order: [], items: {} },
    haze: { ...NO_HAZE },
    lights: {
      order: ['key', 'fill', 'rim', 'wall', 'dome'],
      items: {
        key: panel('Key', 'key', { azimuth: 40, elevation: 35, distance: 1.5 }, [0.5, 0.65], 3600, 5400),
        fill: panel('Fill', 'fill', { azimuth: -52, elevation: 5, distance: 1.8 }, [1.2, 1.2], 110, 6800),
        rim: panel('Rim', 'rim', { azimuth: -152, elevation: 24, distance: 1.5 }, [0.2, 1.1], 3400, 7600),
        wall: panel(
          'Back wall',
          'background',
          { azimuth: 170, elevation: -14, distance: 1.45, aim: [0.2, 0, -2] },
          [0.2, 0.16],
          4200,
          5400,
        ),
        dome: dome({ name: 'Dome' }),
      },
    },
    flags: { order: [], items: {} },
    look: { ...LOOK_DEFAULTS, view: 'neutral' },
  };
}
