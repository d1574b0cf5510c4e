// What is known of a face: the frame of its head, its landmarks.
export * from './head.ts';
export { sureOfHead } from './sure.ts';
export * from './landmarks.ts';
export * from './known.ts';
export * from './grid.ts';
export * from './regions.ts';
export * from './directions.ts';
export * from './sight.ts';
export * from './map.ts';
export * from './lookup.ts';
export * from './dark.ts';
export * from './features.ts';
export * from './pattern.ts';
export * from './seen.ts';
export * from './catchlight.ts';
export * from './reading.ts';
