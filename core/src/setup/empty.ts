import { CAMERA_DEFAULTS, LENS_OFF, LOOK_DEFAULTS, NO_HAZE, NO_PLATE, STAGE_DEFAULTS } from './migrate.ts';
import { CATCHER_DEFAULTS, type Catcher } from './catcher.ts';
import { SCHEMA_VERSION, type Setup } from './schema.ts';

/** A setup with nobody on a default stage and no light, and what is said of it; nothing in it is shared with another. */
export const emptySetup = (name: string, more: Partial<Setup> = {}): Setup => ({
  schemaVersion: SCHEMA_VERSION,
  name,
  brief: '',
  subjects: { items: {} },
  stage: { ...STAGE_DEFAULTS, kind: 'sweep', colour: [0.105, 0.102, 0.099] },
  camera: {
    ...CAMERA_DEFAULTS,
    position: [0, 1.5, 3],
    target: [0, 1.2, 0],
    focal: 50,
    aspect: 1,
    ev: 8,
    lens: { ...LENS_OFF },
  },
  cameras: { items: {} },
  plate: { ...NO_PLATE },
  props: { items: {} },
  haze: { ...NO_HAZE },
  // there from the beginning, so that undo of the first change of it takes back no more than that
  catcher: JSON.parse(JSON.stringify(CATCHER_DEFAULTS)) as Catcher,
  lights: { items: {} },
  flags: { items: {} },
  look: { ...LOOK_DEFAULTS, view: 'neutral' },
  ...more,
});
