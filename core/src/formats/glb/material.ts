import type { Material as GltfMaterial, Texture as GltfTexture, TextureInfo } from '@gltf-transform/core';
import type { Clearcoat, EmissiveStrength, IOR, Sheen, Specular, Transform, Transmission } from '@gltf-transform/extensions';
import type { Vec3 } from '../../math/index.ts';
import { material, type Material, type MaterialTextures } from '../../surface/index.ts';
import type { Pictures } from './pictures.ts';

/** What Plinket keeps of a material that glTF has no word for: `extras.plinket`, paths in millimetres. */
interface Extras {
  subsurface?: number;
  freePath?: number[];
  fibres?: number;
}

/** Brightest glow that a material may have, cd/m²: the sun's disc has 1.6e9. */
const BRIGHTEST = 1e9;
/** Indices of refraction, from vacuum to beyond diamond's 2.4. */
const REFRACTION = [1, 5] as const;

const finite = (v: unknown, fallback: number): number =>
  typeof v === 'number' && Number.isFinite(v) ? Math.min(1, Math.max(0, v)) : fallback;

/** A material's pictures, the base first, and which set of coordinates each lies by: its transform's word counts more (KHR_texture_transform). */
function infosOf(m: GltfMaterial): { use: keyof MaterialTextures; texture: GltfTexture; info: TextureInfo; set: number }[] {
  const all = [
    ['base', m.getBaseColorTexture(), m.getBaseColorTextureInfo()],
    ['metallicRoughness', m.getMetallicRoughnessTexture(), m.getMetallicRoughnessTextureInfo()],
    ['normal', m.getNormalTexture(), m.getNormalTextureInfo()],
    ['emission', m.getEmissiveTexture(), m.getEmissiveTextureInfo()],
  ] as const;
  return all.flatMap(([use, texture, info]) => {
    if (!texture || !info) return [];
    return [{ use, texture, info, set: info.getExtension<Transform>('KHR_texture_transform')?.getTexCoord() ?? info.getTexCoord() }];
  });
}

/** Reads materials of a file once each. */
export class MaterialReader {
  private readonly pictures: Pictures;
  private readonly known = new Map<GltfMaterial | null, Material>();
  /** Materials of which a value lay beyond what it can be. */
  readonly clamped = new Set<string>();

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

  /** Which set of texture coordinates a material's pictures lie by: that of its base, or of the first there is. */
  coordinates(m: GltfMaterial | null): number {
    return m ? (infosOf(m)[0]?.set ?? 0) : 0;
  }

  private convert(m: GltfMaterial): Material {
    const coat = m.getExtension<Clearcoat>('KHR_materials_clearcoat'),
      sheen = m.getExtension<Sheen>('KHR_materials_sheen'),
      specular = m.getExtension<Specular>('KHR_materials_specular'),
      strength = m.getExtension<EmissiveStrength>('KHR_materials_emissive_strength')?.getEmissiveStrength() ?? 1;
    const name = m.getName() || 'material';
    const within = (v: number, low: number, high: number): number => {
      if (v >= low && v <= high) return v;
      this.clamped.add(name);
      return v > high ? high : low;
    };
    const share = (v: number): number => within(v, 0, 1);
    const shares = (v: number[], most = 1): Vec3 => v.map((c) => within(c, 0, most)) as Vec3;
    const [r, g, b, a] = m.getBaseColorFactor();
    const textures = this.textures(m);
    return material({
      name,
      base: shares([r, g, b]),
      alpha: share(a),
      metallic: share(m.getMetallicFactor()),
      roughness: share(m.getRoughnessFactor()),
      ior: within(m.getExtension<IOR>('KHR_materials_ior')?.getIOR() || 1.5, ...REFRACTION),
      specular: share(specular?.getSpecularFactor() ?? 1),
      // the specification lets colours go beyond 1, and what is reflected not
      specularTint: shares(specular?.getSpecularColorFactor() ?? [1, 1, 1], BRIGHTEST),
      coat: share(coat?.getClearcoatFactor() ?? 0),
      coatRoughness: share(coat?.getClearcoatRoughnessFactor() ?? 0),
      sheen: shares(sheen?.getSheenColorFactor() ?? [0, 0, 0]),
      sheenRoughness: share(sheen?.getSheenRoughnessFactor() ?? 0),
      emission: shares(
        m.getEmissiveFactor().map((v) => v * strength),
        BRIGHTEST,
      ),
      unlit: m.getExtension('KHR_materials_unlit') !== null,
      transmission: share(m.getExtension<Transmission>('KHR_materials_transmission')?.getTransmissionFactor() ?? 0),
      alphaMode: ({ OPAQUE: 'opaque', MASK: 'mask', BLEND: 'blend' } as const)[m.getAlphaMode()] ?? 'opaque',
      alphaCutoff: within(m.getAlphaCutoff(), 0, 1e6),
      normalScale: within(m.getNormalScale(), -1000, 1000),
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
    const out: MaterialTextures = {},
      set = this.coordinates(m);
    for (const { use, texture, info, set: by } of infosOf(m)) {
      if (by !== set) {
        this.pictures.problems.push(`${texture.getName() || texture.getURI() || 'a picture'} lies by other coordinates than the base`);
        continue;
      }
      const used = this.pictures.use(texture, info);
      if (used) out[use] = used;
    }
    return Object.keys(out).length ? out : undefined;
  }
}
