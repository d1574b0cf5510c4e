export * from './exr/index.ts';
export * from './glb/index.ts';
export * from './png/index.ts';
