export * from './film.ts';
export * from './balance.ts';
export * from './view.ts';
export * from './histogram.ts';
