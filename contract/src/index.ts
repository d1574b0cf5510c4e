export * from './schemas.ts';
export * from './lab.ts';
export * from './people.ts';
export { openApiDocument } from './openapi.ts';
