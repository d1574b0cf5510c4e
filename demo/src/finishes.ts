export interface Finish {
  base: [number, number, number];
  roughness: number;
  metal?: number;
  clear?: boolean;
  /** What glTF has no word for: depth in millimetres for red, green, blue; a mass of fibres. */
  plinket?: { subsurface?: number; freePath?: [number, number, number]; fibres?: number };
}

const skin = { subsurface: 1, freePath: [3.2, 1.25, 0.65] as [number, number, number] };

/** What each part is made of; skin, whites and irises carry their colour at the vertices. */
const FINISHES: Record<string, Finish> = {
  skin: { base: [1, 1, 1], roughness: 0.44, plinket: skin },
  hands: { base: [0.58, 0.37, 0.28], roughness: 0.48, plinket: skin },
  brows: { base: [0.3, 0.28, 0.26], roughness: 0.5, plinket: { fibres: 0.5 } },
  lashes: { base: [0.06, 0.05, 0.045], roughness: 0.6 },
  hair: { base: [0.42, 0.4, 0.38], roughness: 0.42, plinket: { fibres: 0.7 } },
  coat: { base: [0.032, 0.042, 0.058], roughness: 0.6 },
  shirt: { base: [0.42, 0.39, 0.34], roughness: 0.8 },
  trousers: { base: [0.05, 0.046, 0.042], roughness: 0.85 },
  boots: { base: [0.03, 0.022, 0.017], roughness: 0.38 },
  lantern: { base: [0.48, 0.31, 0.12], roughness: 0.34, metal: 1 },
  'lantern glass': { base: [1, 0.98, 0.94], roughness: 0.04, clear: true },
  flame: { base: [0.9, 0.62, 0.3], roughness: 1 },
  jacket: { base: [0.5, 0.27, 0.055], roughness: 0.46 },
  scarf: { base: [0.035, 0.12, 0.125], roughness: 0.95, plinket: { fibres: 0.35 } },
  poncho: { base: [0.115, 0.1, 0.085], roughness: 0.95, plinket: { fibres: 0.25 } },
  rope: { base: [0.42, 0.33, 0.2], roughness: 0.9 },
  horns: { base: [0.16, 0.12, 0.08], roughness: 0.36 },
  tuft: { base: [0.5, 0.46, 0.4], roughness: 0.5, plinket: { fibres: 0.7 } },
  'goat legs': { base: [0.3, 0.27, 0.23], roughness: 0.65, plinket: { fibres: 0.6 } },
  hooves: { base: [0.035, 0.03, 0.026], roughness: 0.3 },
  'eye white': { base: [1, 1, 1], roughness: 0.35, plinket: { subsurface: 0.6, freePath: [1.2, 0.9, 0.8] } },
  iris: { base: [1, 1, 1], roughness: 0.6 },
  cornea: { base: [1, 1, 1], roughness: 0.02, clear: true },
};

/** Where somebody differs. */
const OWN: Record<string, Record<string, Partial<Finish>>> = {
  signaller: {
    hair: { base: [0.085, 0.038, 0.02], roughness: 0.34 },
    brows: { base: [0.09, 0.045, 0.026] },
    hands: { base: [0.62, 0.4, 0.31], roughness: 0.44 },
    trousers: { base: [0.04, 0.047, 0.065], roughness: 0.8 },
  },
  goat: { hair: { base: [0.3, 0.265, 0.22] }, brows: { base: [0.17, 0.15, 0.13] }, skin: { roughness: 0.6 } },
};

/** @throws RangeError for a part that nobody said what it is made of */
export function finishOf(id: string, part: string): Finish {
  const finish = FINISHES[part];
  if (!finish) throw new RangeError(`No finish for ${part}.`);
  return { ...finish, ...OWN[id]?.[part] };
}
