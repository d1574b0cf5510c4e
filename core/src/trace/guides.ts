import type { SceneGeometry } from '../scene/index.ts';
import { OPAQUE, UNSCATTERED, type Batch } from './batch.ts';
import { addMatte, emptyMattes, type Mattes } from './mattes.ts';

/** Floats of the guides for each pixel: samples that met something, normal, position, albedo, depth. */
export const GUIDE_CHANNELS = 11;

/** What the first opaque surface of every pixel is, found on the walk at no extra ray. Sums over samples, and identities. */
export interface GuideSums {
  /** pixels × GUIDE_CHANNELS. */
  sums: Float32Array;
  /** Object and material of the first sample, −1 where there is none: pixels × 2. */
  ids: Int32Array;
  /** What all samples met, where it is asked for. */
  mattes?: Mattes;
}

export const emptyGuides = (pixels: number, mattes = false): GuideSums => ({
  sums: new Float32Array(pixels * GUIDE_CHANNELS),
  ids: new Int32Array(pixels * 2).fill(-1),
  ...(mattes ? { mattes: emptyMattes(pixels) } : {}),
});

/** Writes down the surfaces that unscattered paths stand on. */
export function writeGuides(batch: Batch, geometry: SceneGeometry, guides: GuideSums, count: number): void {
  const { sums, ids, mattes } = guides;
  for (let i = 0; i < count; i++) {
    if (batch.fields.pass[i] !== OPAQUE || batch.fields.label[i] !== UNSCATTERED) continue;
    const m = geometry.materials[batch.fields.material[i]!]!;
    const p = batch.fields.pixel[i]!,
      g = p * GUIDE_CHANNELS;
    sums[g] = sums[g]! + 1;
    sums[g + 1] = sums[g + 1]! + batch.fields.nx[i]!;
    sums[g + 2] = sums[g + 2]! + batch.fields.ny[i]!;
    sums[g + 3] = sums[g + 3]! + batch.fields.nz[i]!;
    sums[g + 4] = sums[g + 4]! + batch.fields.px[i]!;
    sums[g + 5] = sums[g + 5]! + batch.fields.py[i]!;
    sums[g + 6] = sums[g + 6]! + batch.fields.pz[i]!;
    // of metals, which have no diffuse albedo, the reflection's colour
    const metal = m.metallic;
    sums[g + 7] = sums[g + 7]! + batch.fields.dr[i]! + batch.fields.fr[i]! * metal;
    sums[g + 8] = sums[g + 8]! + batch.fields.dg[i]! + batch.fields.fg[i]! * metal;
    sums[g + 9] = sums[g + 9]! + batch.fields.db[i]! + batch.fields.fb[i]! * metal;
    sums[g + 10] = sums[g + 10]! + batch.fields.travelled[i]!;
    const object = geometry.triangleObject[batch.fields.triangle[i]!]!,
      material = batch.fields.material[i]!;
    if (ids[p * 2]! < 0) {
      ids[p * 2] = object;
      ids[p * 2 + 1] = material;
    }
    if (mattes) {
      addMatte(mattes.objects, p, object, 1);
      addMatte(mattes.materials, p, material, 1);
    }
  }
}
