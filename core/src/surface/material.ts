import type { Vec3 } from '../math/index.ts';

/** A picture on a surface, 8 bits a channel, RGBA, row by row from the top. */
export interface Texture {
  name: string;
  width: number;
  height: number;
  data: Uint8Array;
}

export type Wrap = 'repeat' | 'mirror' | 'clamp';

/** How a picture lies on a surface (glTF textureInfo with KHR_texture_transform). */
export interface TextureUse {
  texture: Texture;
  wrapU: Wrap;
  wrapV: Wrap;
  /** u' = a·u + b·v + c, v' = d·u + e·v + f. */
  transform: [number, number, number, number, number, number];
}

/** The pictures that a material may carry. Occlusion is not among them: what blocks light is traced. */
export interface MaterialTextures {
  base?: TextureUse;
  /** Green: roughness, blue: metallic. */
  metallicRoughness?: TextureUse;
  normal?: TextureUse;
  emission?: TextureUse;
}

/** A surface as glTF 2.0 and its KHR extensions describe it, with depth for skin and fibres for hair. Linear Rec.709. */
export interface Material {
  name: string;
  base: Vec3;
  metallic: number;
  /** Perceptual roughness, 0…1. */
  roughness: number;
  /** KHR_materials_ior. */
  ior: number;
  /** KHR_materials_specular: strength and tint of the dielectric reflection. */
  specular: number;
  specularTint: Vec3;
  /** KHR_materials_clearcoat. */
  coat: number;
  coatRoughness: number;
  /** KHR_materials_sheen. */
  sheen: Vec3;
  sheenRoughness: number;
  /** Light of its own, cd/m² (KHR_materials_emissive_strength). */
  emission: Vec3;
  /** KHR_materials_unlit: shows its base colour and takes no light. */
  unlit: boolean;
  /** KHR_materials_transmission without thickness: what is not reflected passes straight on, tinted by the base colour. */
  transmission: number;
  alphaMode: 'opaque' | 'mask' | 'blend';
  alpha: number;
  alphaCutoff: number;
  /** One-sided surfaces let paths pass from behind. */
  twoSided: boolean;
  /** How much of the diffuse light goes in and comes out elsewhere, 0…1, and how far it travels, metres for red, green, blue. */
  subsurface: number;
  freePath: Vec3;
  /** A mass of fibres, 0…1: this share of the diffuse light passes through, and the highlight runs along the strands. */
  fibres: number;
  normalScale: number;
  textures?: MaterialTextures;
}

/** Reflectance at normal incidence of a dielectric: ((n−1)/(n+1))² (Fresnel's equations at 0°). */
export const normalReflectance = (ior: number): number => ((ior - 1) / (ior + 1)) ** 2;

/** Reflectance at normal incidence of glTF's default dielectric, index 1.5. */
export const DIELECTRIC_F0 = 0.04;

/** The default material of Plinket with changes. @example material({ name: 'clay', base: [0.5, 0.5, 0.5] }) */
export function material(more: Partial<Material> = {}): Material {
  return {
    name: 'default',
    base: [0.8, 0.8, 0.8],
    metallic: 0,
    roughness: 0.6,
    ior: 1.5,
    specular: 1,
    specularTint: [1, 1, 1],
    coat: 0,
    coatRoughness: 0,
    sheen: [0, 0, 0],
    sheenRoughness: 0,
    emission: [0, 0, 0],
    unlit: false,
    transmission: 0,
    alphaMode: 'opaque',
    alpha: 1,
    alphaCutoff: 0.5,
    twoSided: true,
    subsurface: 0,
    freePath: [0.0037, 0.0014, 0.0007],
    fibres: 0,
    normalScale: 1,
    ...more,
  };
}

/** A material that light passes: shadow rays do not stop at it. */
export const isClear = (m: Material): boolean => m.transmission >= 0.5;
/** A material with holes or half-transparent places. */
export const hasAlpha = (m: Material): boolean => m.alphaMode !== 'opaque';
/** A material that shadow rays do not simply stop at. */
export const isVeil = (m: Material): boolean => isClear(m) || hasAlpha(m);
/** A material that gives light. */
export const glows = (m: Material): boolean => m.unlit || m.emission.some((v) => v > 0);

/** Grey clay for judging form and light without colour. */
export const clayOf = (m: Material): Material =>
  isClear(m) || m.alphaMode === 'blend' ? m : material({ name: m.name, base: [0.42, 0.42, 0.42], roughness: 0.75 });
