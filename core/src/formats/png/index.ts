export { pngSize, readPngSetup, SETUP_KEYWORD, writePng } from './png.ts';
export { ALPHA_KEYWORD, writeCutPng } from './png.ts';
