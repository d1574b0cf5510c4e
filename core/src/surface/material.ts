import type { Vec3 } from '../math/index.ts';

/** A surface as glTF 2.0 describes it (metallic-roughness), colours in linear Rec.709. */
export interface Material {
  name: string;
  base: Vec3;
  metallic: number;
  /** Perceptual roughness, 0…1. */
  roughness: number;
  /** A thin clear coat of glass (the cornea): reflects, and lets all else pass straight on. */
  clear: boolean;
}

/** Reflectance at normal incidence of glTF's dielectric (index 1.5): ((n−1)/(n+1))². */
export const DIELECTRIC_F0 = 0.04;

export const DEFAULT_MATERIAL: Material = { name: 'default', base: [0.8, 0.8, 0.8], metallic: 0, roughness: 0.6, clear: false };
