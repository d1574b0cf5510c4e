export { readObj } from './read.ts';
export { readMtl } from './mtl.ts';
