import type { Material } from '../surface/index.ts';
import type { MaterialChange } from './schema.ts';

/** A part's material with the artist's changes. */
export function changedMaterial(source: Material, change: MaterialChange | undefined): Material {
  if (!change) return source;
  const { freePath, sheen, emission, ...plain } = change;
  const base = change.base ?? source.base;
  return {
    ...source,
    ...plain,
    ...(freePath ? { freePath: freePath.map((mm) => mm / 1000) as Material['freePath'] } : {}),
    ...(sheen === undefined ? {} : { sheen: [sheen, sheen, sheen] as Material['sheen'] }),
    ...(emission === undefined ? {} : { emission: base.map((c) => c * emission) as Material['emission'] }),
  };
}

/** Ready-made depths. Mean free paths in millimetres; skin and marble after Jensen, Marschner, Levoy, Hanrahan 2001 (table 1,
 * "skin 1" and "marble": 1/σ't), wax and clay by eye. */
export const MATERIAL_PRESETS: Record<string, MaterialChange> = {
  skin: { subsurface: 1, freePath: [3.7, 1.4, 0.7], roughness: 0.45, coat: 0, sheen: 0, fibres: 0, metallic: 0 },
  wax: { subsurface: 1, freePath: [6, 4.5, 2.5], roughness: 0.4, coat: 0.2, coatRoughness: 0.3, sheen: 0, fibres: 0, metallic: 0 },
  clay: { subsurface: 0, roughness: 0.75, coat: 0, sheen: 0, fibres: 0, metallic: 0 },
  marble: { subsurface: 1, freePath: [0.46, 0.38, 0.33], roughness: 0.3, coat: 0.5, coatRoughness: 0.15, sheen: 0, fibres: 0, metallic: 0 },
  cloth: { subsurface: 0, roughness: 0.85, coat: 0, sheen: 0.4, sheenRoughness: 0.5, fibres: 0, metallic: 0 },
  hair: { subsurface: 0, roughness: 0.45, coat: 0, sheen: 0, fibres: 0.8, metallic: 0 },
};
