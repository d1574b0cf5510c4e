export * from './read.ts';
