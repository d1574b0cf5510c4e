export { createApp, createServer, VERSION, type AppOptions } from './app.ts';
export { BlobStore } from './data/blobs.ts';
export { openDatabase } from './data/source.ts';
export { serverOf } from './listen.ts';
export { Readers } from './readers/index.ts';
export { FrameQueue, type Lab } from './lab/index.ts';
