export * from './difference.ts';
export * from './observer.ts';
export * from './colour.ts';
export * from './white.ts';
export * from './gels.ts';
export * from './quantity.ts';
export * from './units.ts';
