export { pngSize, PngError, readingText, readPngReading, readPngSetup, READING_KEYWORD, SETUP_KEYWORD, writePng } from './png.ts';
export { ALPHA_KEYWORD, writeCutPng } from './png.ts';
