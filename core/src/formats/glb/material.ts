import type { Material as GltfMaterial } from '@gltf-transform/core';
import type { Clearcoat, EmissiveStrength, IOR, Sheen, Specular, Transmission } from '@gltf-transform/extensions';
import type { Vec3 } from '../../math/index.ts';
import { material, type Material, type MaterialTextures } from '../../surface/index.ts';
import type { Pictures } from './pictures.ts';

/** What Plinket keeps of a material that glTF has no word for: `extras.plinket`, paths in millimetres. */
interface Extras {
  subsurface?: number;
  freePath?: number[];
  fibres?: number;
}

const finite = (v: unknown, fallback: number): number =>
  typeof v === 'number' && Number.isFinite(v) ? Math.min(1, Math.max(0, v)) : fallback;

/** Reads materials of a file once each. */
export class MaterialReader {
  private readonly pictures: Pictures;
  private readonly known = new Map<GltfMaterial | null, Material>();

  constructor(pictures: Pictures) {
    this.pictures = pictures;
  }

  read(source: GltfMaterial | null): Material {
    let found = this.known.get(source);
    if (!found) {
      found = source ? this.convert(source) : material();
      this.known.set(source, found);
    }
    return found;
  }

  private convert(m: GltfMaterial): Material {
    const coat = m.getExtension<Clearcoat>('KHR_materials_clearcoat'),
      sheen = m.getExtension<Sheen>('KHR_materials_sheen'),
      specular = m.getExtension<Specular>('KHR_materials_specular'),
      strength = m.getExtension<EmissiveStrength>('KHR_materials_emissive_strength')?.getEmissiveStrength() ?? 1;
    const [r, g, b, a] = m.getBaseColorFactor();
    const textures = this.textures(m);
    return material({
      name: m.getName() || 'material',
      base: [r, g, b],
      alpha: a,
      metallic: m.getMetallicFactor(),
      roughness: m.getRoughnessFactor(),
      ior: m.getExtension<IOR>('KHR_materials_ior')?.getIOR() || 1.5,
      specular: specular?.getSpecularFactor() ?? 1,
      specularTint: (specular?.getSpecularColorFactor() ?? [1, 1, 1]) as Vec3,
      coat: coat?.getClearcoatFactor() ?? 0,
      coatRoughness: coat?.getClearcoatRoughnessFactor() ?? 0,
      sheen: (sheen?.getSheenColorFactor() ?? [0, 0, 0]) as Vec3,
      sheenRoughness: sheen?.getSheenRoughnessFactor() ?? 0,
      emission: m.getEmissiveFactor().map((v) => v * strength) as Vec3,
      unlit: m.getExtension('KHR_materials_unlit') !== null,
      transmission: m.getExtension<Transmission>('KHR_materials_transmission')?.getTransmissionFactor() ?? 0,
      alphaMode: ({ OPAQUE: 'opaque', MASK: 'mask', BLEND: 'blend' } as const)[m.getAlphaMode()],
      alphaCutoff: m.getAlphaCutoff(),
      normalScale: m.getNormalScale(),
      ...(textures ? { textures } : {}),
      ...this.extras(m.getExtras()['plinket']),
    });
  }

  private extras(value: unknown): Partial<Material> {
    if (typeof value !== 'object' || value === null) return {};
    const { subsurface, freePath, fibres } = value as Extras;
    const out: Partial<Material> = { subsurface: finite(subsurface, 0), fibres: finite(fibres, 0) };
    if (Array.isArray(freePath) && freePath.length === 3 && freePath.every((v) => Number.isFinite(v) && v >= 0))
      out.freePath = freePath.map((mm) => Math.min(100, mm) / 1000) as Vec3;
    return out;
  }

  private textures(m: GltfMaterial): MaterialTextures | undefined {
    const base = this.pictures.use(m.getBaseColorTexture(), m.getBaseColorTextureInfo()),
      metallicRoughness = this.pictures.use(m.getMetallicRoughnessTexture(), m.getMetallicRoughnessTextureInfo()),
      normal = this.pictures.use(m.getNormalTexture(), m.getNormalTextureInfo()),
      emission = this.pictures.use(m.getEmissiveTexture(), m.getEmissiveTextureInfo());
    if (!base && !metallicRoughness && !normal && !emission) return undefined;
    return {
      ...(base ? { base } : {}),
      ...(metallicRoughness ? { metallicRoughness } : {}),
      ...(normal ? { normal } : {}),
      ...(emission ? { emission } : {}),
    };
  }
}
