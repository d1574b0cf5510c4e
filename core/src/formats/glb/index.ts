export { readGlb } from './read.ts';
export { decodePicture, PictureError } from './pictures.ts';
export { writeGlb } from './write.ts';
export type { ReadOptions } from './decoders.ts';
export { mendGlb, mends } from './mend.ts';
export { NO_MENDING, type Mending } from './mending.ts';
export { packGltf } from './pack.ts';
