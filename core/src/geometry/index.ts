export * from './sweep.ts';
export * from './normals.ts';
