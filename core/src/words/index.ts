export * from './reading.ts';
