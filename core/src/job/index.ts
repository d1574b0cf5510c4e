// What is asked of the Lab: names, qualities, frames.
export * from './names.ts';
export * from './quality.ts';
export * from './rebalance.ts';
