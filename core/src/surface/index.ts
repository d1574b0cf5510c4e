export * from './albedo.ts';
export * from './diffusion.ts';
export * from './ggx.ts';
export * from './material.ts';
export * from './sheen.ts';
export * from './texture.ts';
