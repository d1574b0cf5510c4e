import type { Document, Material, Texture } from '@gltf-transform/core';
import { KHRMaterialsSheen, KHRTextureTransform } from '@gltf-transform/extensions';
import type { Skinned } from '../cast/character.ts';
import type { Finish } from './finishes.ts';
import { unwrap } from '../maps/unwrap.ts';
import { THREADS, weaveNormals, type Weave } from '../maps/weave.ts';
import { withVertices } from './vertices.ts';

/** Lays weaves on surfaces of one file; each weave is one picture in it. */
export class ClothWriter {
  private readonly document: Document;
  private readonly woven = new Map<Weave, Texture>();

  constructor(document: Document) {
    this.document = document;
  }

  /** Unwraps a surface and repeats the weave over it. `scale`: metres for a millimetre of the weave. */
  lay(material: Material, surface: Skinned, { weave, pitch, sheen }: NonNullable<Finish['cloth']>, scale: number): Skinned {
    const { surface: laid, side } = unwrap(surface, withVertices);
    const times = side / scale / (pitch * THREADS);
    const transform = this.document.createExtension(KHRTextureTransform).createTransform().setScale([times, times]);
    material.setNormalTexture(this.texture(weave)).getNormalTextureInfo()!.setExtension('KHR_texture_transform', transform);
    if (sheen)
      material.setExtension(
        'KHR_materials_sheen',
        this.document.createExtension(KHRMaterialsSheen).createSheen().setSheenColorFactor(sheen).setSheenRoughnessFactor(0.5),
      );
    return laid;
  }

  private texture(weave: Weave): Texture {
    const known = this.woven.get(weave);
    if (known) return known;
    const made = this.document.createTexture(weave).setMimeType('image/jpeg').setImage(weaveNormals(weave));
    this.woven.set(weave, made);
    return made;
  }
}
