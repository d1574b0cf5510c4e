// Sums, view transforms and noise removal over films. Owns no memory, like ../index.ts.
export * from './develop';
export * from './smooth';
export * from './sum';
