export * from './departures.ts';
export * from './following.ts';
export * from './continuity.ts';
