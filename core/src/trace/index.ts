export { cellsOfJob, faceJob, faceLightOf, readLightOf } from './face-light.ts';
export * from './join.ts';
export * from './tracer.ts';
export * from './camera.ts';
export * from './probe.ts';
export type { ReadJob, ReadResult } from './read.ts';
export { GUIDE_CHANNELS, type GuideSums } from './guides.ts';
export { phase } from './haze.ts';
export * from './moment.ts';
