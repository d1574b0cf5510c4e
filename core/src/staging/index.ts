// What the artist's hand does to a setup, as patches: lights moved and added, frames, figures and things put in, and the set on paper.
export * from './moves.ts';
export * from './recipes.ts';
export * from './framing.ts';
export * from './projection.ts';
export { apart, letterOf, ringStep } from './labels.ts';
export * from './replace.ts';
export * from './things.ts';
export * from './kits.ts';
export * from './ties.ts';
export { Scaling } from './scaling.ts';
export * from './stages.ts';
export * from './reach.ts';
export { togetherPatch } from './together.ts';
export * from './catcher.ts';
export * from './parts.ts';
