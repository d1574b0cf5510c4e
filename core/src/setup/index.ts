export * from './schema.ts';
export * from './patch.ts';
export * from './describe.ts';
export * from './place.ts';
export * from './balance.ts';
export * from './migrate.ts';
export * from './materials.ts';
