// What whoever places a light must know.
import type { FaceLight, FaceMap, FaceMeter, Reading, ReadLight } from '../face/index.ts';
import type { SceneCamera } from '../scene/index.ts';
import { placeOf, type Setup } from '../setup/index.ts';

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
  /** Where the camera stands about the head, degrees; and by how much the head is turned from it. */
  cameraAzimuth: number;
  turn: number;
  /** A light of a changed setup as a face asks it; nothing for what gives no light. */
  at(changed: Setup, id: string): FaceLight | undefined;
}

/** The rest of what is known follows from these. */
export function standOf(known: Omit<Stand, 'cameraAzimuth' | 'turn'>): Stand {
  const { azimuth } = placeOf(known.map.face.frame, known.camera.origin);
  return { ...known, cameraAzimuth: azimuth, turn: azimuth };
}
