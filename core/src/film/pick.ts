import type { Vec3 } from '../math/index.ts';
import type { Scene } from '../scene/index.ts';
import type { ObjectRef } from '../setup/index.ts';
import type { Guides } from './film.ts';

/** What lies under a point of the picture. */
export interface Picked {
  object: ObjectRef;
  /** Metres along the camera's axis. */
  depth: number;
  position: Vec3;
}

/** What lies under a point of the picture, 0…1 from its left and top; nothing where no surface is. */
export function pickAt(guides: Guides, scene: Scene, x: number, y: number): Picked | undefined {
  const p = Math.floor(y * guides.height) * guides.width + Math.floor(x * guides.width);
  if (!(guides.mean(p, 10) > 0)) return undefined;
  const position = [guides.mean(p, 4), guides.mean(p, 5), guides.mean(p, 6)] as Vec3;
  const { origin, forward } = scene.camera;
  const depth = position.reduce((s, v, k) => s + (v - origin[k]!) * forward[k]!, 0);
  return { object: scene.geometry.objects[guides.ids[p * 2]!] ?? '', depth, position };
}
