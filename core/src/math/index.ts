export * from './vec3.ts';
export * from './sampling.ts';
export * from './fast.ts';
