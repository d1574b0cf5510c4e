export * from './departures.ts';
export * from './following.ts';
export * from './continuity.ts';
export * from './matching.ts';
export * from './along.ts';
