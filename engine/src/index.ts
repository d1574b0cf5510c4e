export { Cancelled, Pool, type KernelModule } from './pool.ts';
export { FilmSet, type LightFilms } from './film-set.ts';
export { Renderer } from './renderer.ts';
export { render, type RenderHow } from './render.ts';
export { Smoothing, type SmoothStep } from './smoothing.ts';
export { serveTracing } from './serve.ts';
export type { RenderOptions, Wish } from './wishes.ts';
export type { FromWorker, ToWorker, WorkerPort } from './protocol.ts';
export type { FilmMath } from '@plinket/kernel';
