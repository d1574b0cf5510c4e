import { NO_HEAD, SCHEMA_VERSION, type HeadFrame, type Light, type Setup } from '@plinket/core';

type Panel = Extract<Light, { kind: 'rectangle' }>;

const panel = (name: string, place: Partial<Panel['place']>, size: [number, number], luminance: number, kelvin: number, more: Partial<Panel> = {}): Panel => ({
  kind: 'rectangle',
  name,
  on: true,
  stops: 0,
  kelvin,
  diffuse: 1,
  specular: 1,
  place: { azimuth: 0, elevation: 0, distance: 1.5, aim: [0, 0, 0], ...place },
  width: size[0],
  height: size[1],
  output: { held: 'luminance', value: luminance },
  ...more,
});

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
      items: { keeper: { name: 'The old keeper', asset, visible: true, position: [0, 0, 0], turn: 0, scale: 1, head } },
    },
    stage: { kind: 'sweep', width: 9, front: 4, back: 1.9, height: 4.2, fillet: 0.9, floor: 0, colour: [0.2, 0.185, 0.17], roughness: 0.85 },
    camera: { position: [-0.62, eye - 0.02, 2.35], target: [0.012, eye - 0.075, 0], focal: 85, aspect: 0.8, ev: 7.6 },
    lights: {
      order: ['key', 'fill', 'rim', 'wall', 'dome'],
      items: {
        key: panel('Key', { azimuth: 40, elevation: 35, distance: 1.5 }, [0.7, 0.9], 1500, 5200),
        fill: panel('Fill', { azimuth: -52, elevation: 5, distance: 1.8 }, [1.2, 1.2], 150, 6500),
        rim: panel('Rim', { azimuth: -150, elevation: 40, distance: 1.6 }, [0.25, 1], 2600, 7800),
        wall: panel('Back wall', { azimuth: 180, elevation: -22, distance: 0.95, aim: [0, 0.12, -1.95] }, [0.4, 0.3], 1500, 4300),
        dome: { kind: 'dome', name: 'Dome', on: true, stops: 0, kelvin: 6500, diffuse: 1, specular: 1, output: { held: 'luminance', value: 6 } },
      },
    },
    look: { view: 'neutral' },
  };
}
