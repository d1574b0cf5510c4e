export { createApp, VERSION, type AppOptions } from './app.ts';
export { BlobStore } from './data/blobs.ts';
export { openDatabase } from './data/source.ts';
