export * from './schemas.ts';
export { openApiDocument } from './openapi.ts';
