export { FILM_CHANNELS } from './batch.ts';
export { pictureHalf, type Tile } from './camera.ts';
export { MAX_TILE_PIXELS, Tracer, type TraceJob, type TraceResult } from './tracer.ts';
export { probe, type ProbeResult } from './probe.ts';
