export * from './hdr/index.ts';
export * from './ies/index.ts';
export * from './radiance.ts';
export * from './exr/index.ts';
export * from './glb/index.ts';
export * from './png/index.ts';
export * from './light-files.ts';
