import { layPlate, type Guides, type LightFileShelf, type Plate, type Scene } from '@plinket/core';
import type { Picked } from './messages.ts';

/** How much of each pixel is covered, as a picture: white where something is. */
export function alphaPicture(guides: Guides, out: Uint8ClampedArray<ArrayBufferLike>): void {
  for (let i = 0; i < out.length / 4; i++) {
    const v = Math.round(guides.alphaAt(i) * 255);
    out[i * 4] = out[i * 4 + 1] = out[i * 4 + 2] = v;
    out[i * 4 + 3] = 255;
  }
}

/** What lies under a point of the picture, 0…1 from its left and top; nothing where no surface is. */
export function pickAt(guides: Guides, scene: Scene, x: number, y: number): Picked | undefined {
  const p = Math.floor(y * guides.height) * guides.width + Math.floor(x * guides.width);
  if (!(guides.mean(p, 10) > 0)) return undefined;
  const position = [guides.mean(p, 4), guides.mean(p, 5), guides.mean(p, 6)] as Picked['position'];
  const { origin, forward } = scene.camera;
  const depth = position.reduce((s, v, k) => s + (v - origin[k]!) * forward[k]!, 0);
  return { object: scene.geometry.objects[guides.ids[p * 2]!] ?? '', depth, position };
}

/** Lays a plate behind a balanced picture, once it is known what is covered. */
export function layBehind(plate: Plate, picture: Float32Array, guides: Guides, files: Pick<LightFileShelf, 'gobo'>): void {
  if (plate.kind === 'none' || guides.width * guides.height * 3 !== picture.length) return;
  const image = plate.kind === 'picture' && plate.asset ? files.gobo(plate.asset) : undefined;
  layPlate(picture, guides.width, guides.height, (p) => guides.alphaAt(p), plate, image);
}
