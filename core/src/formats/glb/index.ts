export { readGlb } from './read.ts';
export { decodePicture, PictureError } from './pictures.ts';
export { writeGlb } from './write.ts';
export type { MeshDecoders } from './decoders.ts';
