import type { Weave } from '../maps/weave.ts';

export interface Finish {
  base: [number, number, number];
  roughness: number;
  metal?: number;
  clear?: boolean;
  /** Cloth: how it is woven, millimetres from thread to thread, and the colour of its sheen. */
  cloth?: { weave: Weave; pitch: number; sheen?: [number, number, number] };
  /** What glTF has no word for: depth in millimetres for red, green, blue; a mass of fibres. */
  plinket?: { subsurface?: number; freePath?: [number, number, number]; fibres?: number };
}

const skin = { subsurface: 1, freePath: [3.2, 1.25, 0.65] as [number, number, number] };

/** What each part is made of; skin, whites and irises carry their colour at the vertices. */
const FINISHES: Record<string, Finish> = {
  skin: { base: [1, 1, 1], roughness: 0.44, plinket: skin },
  hands: { base: [0.58, 0.37, 0.28], roughness: 0.48, plinket: skin },
  brows: { base: [1, 1, 1], roughness: 0.5, plinket: { fibres: 0.5 } },
  lashes: { base: [1, 1, 1], roughness: 0.5, plinket: { fibres: 0.3 } },
  hair: { base: [1, 1, 1], roughness: 0.42, plinket: { fibres: 0.6 } },
  knot: { base: [1, 1, 1], roughness: 0.36, plinket: { fibres: 0.5 } },
  beard: { base: [1, 1, 1], roughness: 0.45, plinket: { fibres: 0.6 } },
  fur: { base: [1, 1, 1], roughness: 0.55, plinket: { fibres: 0.6 } },
  coat: { base: [0.03, 0.042, 0.064], roughness: 0.78, cloth: { weave: 'twill', pitch: 1.5, sheen: [0.05, 0.06, 0.075] } },
  shirt: { base: [0.47, 0.43, 0.36], roughness: 0.85, cloth: { weave: 'plain', pitch: 1.3 } },
  trousers: { base: [0.05, 0.046, 0.042], roughness: 0.85, cloth: { weave: 'twill', pitch: 2 } },
  boots: { base: [0.03, 0.022, 0.017], roughness: 0.38 },
  'coat buttons': { base: [0.62, 0.44, 0.2], roughness: 0.32, metal: 1 },
  'shirt buttons': { base: [0.5, 0.46, 0.4], roughness: 0.25 },
  'jacket buttons': { base: [0.06, 0.035, 0.02], roughness: 0.28 },
  stitches: { base: [1, 1, 1], roughness: 0.7, plinket: { fibres: 0.3 } },
  'wet line': { base: [0.72, 0.5, 0.45], roughness: 0.06 },
  lantern: { base: [0.48, 0.31, 0.12], roughness: 0.34, metal: 1 },
  'lantern glass': { base: [1, 0.98, 0.94], roughness: 0.04, clear: true },
  flame: { base: [0.9, 0.62, 0.3], roughness: 1 },
  jacket: { base: [0.5, 0.25, 0.045], roughness: 0.55, cloth: { weave: 'plain', pitch: 1.6 } },
  scarf: { base: [0.03, 0.125, 0.13], roughness: 0.95, cloth: { weave: 'knit', pitch: 2.6, sheen: [0.06, 0.12, 0.12] } },
  poncho: { base: [0.125, 0.105, 0.085], roughness: 0.95, cloth: { weave: 'felt', pitch: 2.2, sheen: [0.1, 0.09, 0.08] } },
  rope: { base: [0.42, 0.33, 0.2], roughness: 0.9 },
  horns: { base: [0.16, 0.12, 0.08], roughness: 0.36 },
  'goat legs': { base: [0.3, 0.27, 0.23], roughness: 0.65, plinket: { fibres: 0.6 } },
  hooves: { base: [0.035, 0.03, 0.026], roughness: 0.3 },
  'eye white': { base: [1, 1, 1], roughness: 0.35, plinket: { subsurface: 0.6, freePath: [1.2, 0.9, 0.8] } },
  iris: { base: [1, 1, 1], roughness: 0.6 },
  cornea: { base: [1, 1, 1], roughness: 0.02, clear: true },
};

/** Where somebody differs. */
const OWN: Record<string, Record<string, Partial<Finish>>> = {
  signaller: {
    hair: { roughness: 0.36 },
    hands: { base: [0.62, 0.4, 0.31], roughness: 0.44 },
    trousers: { base: [0.04, 0.047, 0.065], roughness: 0.8 },
  },
  goat: { skin: { roughness: 0.6, plinket: { subsurface: 0.6, freePath: [1.3, 1, 0.8] } } },
};

/** @throws RangeError for a part that nobody said what it is made of */
export function finishOf(id: string, part: string): Finish {
  const finish = FINISHES[part];
  if (!finish) throw new RangeError(`No finish for ${part}.`);
  return { ...finish, ...OWN[id]?.[part] };
}
