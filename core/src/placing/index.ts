export * from './directions.ts';
export * from './pattern.ts';
export * from './ratio.ts';
