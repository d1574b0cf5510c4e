export * from './schemas.ts';
export * from './lab.ts';
export { openApiDocument } from './openapi.ts';
