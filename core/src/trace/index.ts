export * from './tracer.ts';
export * from './camera.ts';
export * from './probe.ts';
export { FILM_CHANNELS } from './batch.ts';
export { GUIDE_CHANNELS, type GuideSums } from './guides.ts';
export { phase } from './haze.ts';
