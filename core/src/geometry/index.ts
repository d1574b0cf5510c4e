export * from './sweep.ts';
export * from './normals.ts';
export * from './ball.ts';
export * from './weld.ts';
export * from './stage.ts';
export * from './plinth.ts';
