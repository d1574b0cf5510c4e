export { ImportError, type ImportErrorCode } from './container.ts';
export { readGlb } from './read.ts';
export { decodePicture, PictureError } from './pictures.ts';
