export * from './error.ts';
export * from './finish.ts';
export * from './progress.ts';
export * from './scale.ts';
export * from './stance.ts';
export * from './stand-in.ts';
