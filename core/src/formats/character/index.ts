export * from './error.ts';
export * from './finish.ts';
export * from './head.ts';
export * from './landmarks.ts';
export * from './progress.ts';
export * from './scale.ts';
export * from './stance.ts';
export * from './stand-in.ts';
