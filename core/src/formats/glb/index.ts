export { ImportError, type ImportErrorCode } from './container.ts';
export { readGlb } from './read.ts';
