export * from './write.ts';
export * from './read.ts';
