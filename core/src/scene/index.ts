export * from './types.ts';
export * from './asset.ts';
export * from './compile.ts';
