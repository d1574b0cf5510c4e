import type { Patch } from '../setup/index.ts';

/** Stages that are ready to use; names are ours. */
export const STAGES: { id: string; name: string; words: string; stage: Patch; plate?: Patch }[] = [
  {
    id: 'night-sweep',
    name: 'Night sweep',
    words: 'dark, matt, curved: a safe start',
    stage: { kind: 'sweep', width: 9, front: 4, back: 1.9, height: 4.2, fillet: 0.9, colour: [0.105, 0.102, 0.099], roughness: 0.85 },
  },
  {
    id: 'chalk-sweep',
    name: 'Chalk sweep',
    words: 'bright paper, no horizon',
    stage: { kind: 'sweep', width: 9, front: 4, back: 2.4, height: 4.2, fillet: 1.4, colour: [0.72, 0.71, 0.69], roughness: 0.9 },
  },
  {
    id: 'slate-pool',
    name: 'Slate pool',
    words: 'dark with a soft reflection at the feet',
    stage: { kind: 'sweep', width: 10, front: 5, back: 2.6, height: 4.2, fillet: 1.2, colour: [0.07, 0.075, 0.08], roughness: 0.25 },
  },
  {
    id: 'kelp-corner',
    name: 'Kelp corner',
    words: 'two green walls that meet behind',
    stage: { kind: 'corner', width: 7, front: 3, back: 2.2, height: 3.6, fillet: 0.25, colour: [0.12, 0.16, 0.13], roughness: 0.8 },
  },
  {
    id: 'light-room',
    name: 'Light room',
    words: 'rounded; its bright front half lights the face back',
    stage: {
      kind: 'room',
      width: 6,
      front: 3.4,
      back: 2.4,
      height: 3.4,
      fillet: 1.6,
      colour: [0.12, 0.118, 0.115],
      frontColour: [0.75, 0.74, 0.72],
      roughness: 0.9,
    },
  },
  {
    id: 'dusk-wall',
    name: 'Dusk wall',
    words: 'warm below, it darkens upwards; the curve sets in gently',
    stage: {
      kind: 'sweep',
      width: 9,
      front: 4,
      back: 2.4,
      height: 4.2,
      fillet: 1.6,
      smoothness: 1,
      colour: [0.34, 0.24, 0.17],
      gradient: { colour: [0.03, 0.045, 0.09], from: 0.3, to: 2.2 },
      roughness: 0.85,
    },
  },
  {
    id: 'sail-flat',
    name: 'Sail flat',
    words: 'a hanging cloth, warm grey',
    stage: { kind: 'flat', width: 5, back: 1.6, height: 4, colour: [0.3, 0.28, 0.25], roughness: 0.95 },
  },
  {
    id: 'tide-floor',
    name: 'Tide floor',
    words: 'a wet floor before a gradient',
    stage: { kind: 'floor', width: 14, front: 6, back: 6, colour: [0.05, 0.055, 0.06], roughness: 0.15 },
    plate: { kind: 'linear', from: [0.1, 0.14, 0.2], to: [0.5, 0.44, 0.36] },
  },
  {
    id: 'fog-halo',
    name: 'Fog halo',
    words: 'nothing but a soft spot behind',
    stage: { kind: 'none' },
    plate: { kind: 'radial', from: [0.42, 0.43, 0.45], to: [0.06, 0.065, 0.07], centre: [0.5, 0.42], reach: 0.75 },
  },
  { id: 'black', name: 'Black', words: 'no stage: start from nothing', stage: { kind: 'none' } },
];

const NO_PLATE: Patch = { kind: 'none' };

/** What a preset changes; measures that it does not name stay, a changing tone and a gentle curve do not. */
export const stagePatch = (preset: (typeof STAGES)[number]): Patch => ({
  stage: { gradient: null, smoothness: null, ...preset.stage },
  plate: preset.plate ?? NO_PLATE,
});
