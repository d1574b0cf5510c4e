export * from './rectangle.ts';
