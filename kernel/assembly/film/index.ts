// Sums, view transforms and noise removal over films. Owns no memory, like ../index.ts.
export * from './behind';
export * from './develop';
export * from './enlarge';
export * from './smooth';
export * from './stored';
export * from './sum';
