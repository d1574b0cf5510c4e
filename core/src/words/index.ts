export * from './reading.ts';
export * from './placing.ts';
export * from './seen.ts';
export * from './reach.ts';
export * from './kept.ts';
