// A character turned before the camera: where everything stands at a frame, and a frame that nothing leaves.
export * from './timing.ts';
export * from './clips.ts';
export { figurePoints, sweptCircles, type Circle } from './profile.ts';
export * from './framing.ts';
