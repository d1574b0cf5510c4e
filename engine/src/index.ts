export { Cancelled, Pool, type KernelModule } from './pool.ts';
export { Renderer, type LightFilms, type RenderOptions } from './renderer.ts';
export { serveTracing } from './serve.ts';
export type { FromWorker, ToWorker, WorkerPort } from './protocol.ts';
export type { FilmMath } from '@plinket/kernel';
