// What whoever places a light must know.
import type { FaceLight, FaceMap, FaceMeter, Reading, ReadLight } from '../face/index.ts';
import type { SceneCamera } from '../scene/index.ts';
import { placeOf, type Light, type Setup } from '../setup/index.ts';

/** How things stand: the setup, the face that is read, what was read last. */
export interface Stand {
  setup: Setup;
  /** Whose face. */
  subject: string;
  map: FaceMap;
  meter: FaceMeter;
  camera: SceneCamera;
  /** What was read last, and the lights of it. */
  reading: Reading | undefined;
  lights: readonly ReadLight[];
  /** Where the camera stands about the head, degrees: positive where the head shows it its left. */
  cameraAzimuth: number;
  /** A light of a changed setup as a face asks it; nothing for what gives no light. */
  at(changed: Setup, id: string): FaceLight | undefined;
}

/** The rest of what is known follows from these. */
export const standOf = (known: Omit<Stand, 'cameraAzimuth'>): Stand => ({
  ...known,
  cameraAzimuth: placeOf(known.map.face.frame, known.camera.origin).azimuth,
});

/** A setup with one light more, or another in its place. */
export const withLight = (setup: Setup, id: string, light: Light): Setup => ({
  ...setup,
  lights: { items: { ...setup.lights.items, [id]: light } },
});
