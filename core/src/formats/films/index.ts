export * from './mattes.ts';
export * from './write.ts';
export * from './read.ts';
