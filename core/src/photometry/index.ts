export * from './colour.ts';
export * from './units.ts';
