export { Cancelled, Pool, type KernelModule, type Watcher } from './pool.ts';
export { FilmSet, type LightFilms } from './film-set.ts';
export { Renderer } from './renderer.ts';
export { render, type RenderHow } from './render.ts';
export { Smoothing, type SmoothStep } from './smoothing.ts';
export { serveTracing } from './serve.ts';
export { keepsFilms, type RenderOptions, type Wish } from './wishes.ts';
export type { FromWorker, ToWorker, WorkerPort } from './protocol.ts';
export type { FilmMath } from '@plinket/kernel';
