export * from './numbers.ts';
export { once } from './once.ts';
export * from './vec3.ts';
export * from './sampling.ts';
export * from './fast.ts';
export * from './mask.ts';
export * from './memory.ts';
export { FILE_LIMITS } from './limits.ts';
