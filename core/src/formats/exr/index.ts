export * from './layout.ts';
export * from './write.ts';
export * from './read.ts';
export { readExrHead, type ExrHead } from './head.ts';
