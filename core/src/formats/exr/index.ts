export * from './layout.ts';
export * from './write.ts';
export { fillChannels, layersOf, readExr } from './read.ts';
export type { ExrTarget } from './blocks.ts';
export { readExrHead, type ExrHead } from './head.ts';
