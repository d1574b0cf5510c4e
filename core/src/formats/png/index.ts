export { pngSize, readPngSetup, SETUP_KEYWORD, writePng } from './png.ts';
