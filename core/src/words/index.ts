export * from './reading.ts';
export * from './placing.ts';
