import {
  collected,
  emptySetup,
  LOOK_DEFAULTS,
  rectangle,
  STAGE_DEFAULTS,
  type HeadFrame,
  type Light,
  type RectangleLight,
  type Setup,
  type Subject,
} from '../setup/index.ts';

export const HEAD: HeadFrame = { origin: [0, 1.6, 0.1], forward: [0, 0, 1], up: [0, 1, 0], height: 0.23, source: 'file' };

export const panelLight = (more: Partial<RectangleLight> = {}): RectangleLight =>
  rectangle({
    name: 'Key',
    role: 'key',
    kelvin: 6500,
    place: { azimuth: 40, elevation: 35, distance: 1.5, aim: [0, 0, 0] },
    width: 0.6,
    height: 0.8,
    output: { held: 'luminance', value: 1000, unit: 'cd/m²', efficacy: 15 },
    ...more,
  });

/** A character that nobody has moved. */
export const subjectWith = (more: Partial<Subject> = {}): Subject => ({
  rank: 'a0',
  name: 'S',
  asset: 'a'.repeat(64),
  visible: true,
  position: [0, 0, 0],
  turn: 0,
  scale: 1,
  head: HEAD,
  materials: {},
  ...more,
});

/** A setup without characters, with the given lights, for tests. */
export function setupWith(lights: Record<string, Light> = { key: panelLight() }, more: Partial<Setup> = {}): Setup {
  return emptySetup('Test', {
    stage: { ...STAGE_DEFAULTS, kind: 'sweep', width: 6, front: 3, back: 2, height: 3, fillet: 0.8, colour: [0.5, 0.5, 0.5], roughness: 1 },
    lights: collected(lights),
    look: { ...LOOK_DEFAULTS, view: 'plain', smooth: 0 },
    ...more,
  });
}
