export * from './ggx.ts';
export * from './material.ts';
