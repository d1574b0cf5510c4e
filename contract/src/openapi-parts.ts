// What all operations of the OpenAPI document share.
import { z } from 'zod';
import type { ZodOpenApiOperationObject } from 'zod-openapi';
import { idSchema, listWishSchema, problemSchema, PROBLEM, sha256Schema } from './schemas.ts';

export const json = (schema: z.ZodType, description: string) => ({ description, content: { 'application/json': { schema } } });
export const problem = (description: string) => ({ description, content: { [PROBLEM]: { schema: problemSchema } } });
const problems = {
  '400': problem('Cannot be read'),
  '401': problem('People sign in here, and nobody has'),
  '403': problem('Foreign origin or host, or a role that may not'),
  '404': problem('No such thing'),
  '413': problem('Too large'),
  '415': problem('A body of another type, or a compressed one'),
  '422': problem('Breaks the schema, or cannot be read'),
  '429': problem('Too many writes in one minute; Retry-After says when to ask again'),
  '503': problem('The database does not answer; Retry-After says when to ask again'),
  '507': problem('The disk is full; Retry-After says when to ask again'),
} as const;
export const byId = { path: z.object({ id: idSchema }) };
export const bySha256 = { path: z.object({ sha256: sha256Schema }) };
export const paged = { query: listWishSchema };

export const operation = (
  summary: string,
  responses: ZodOpenApiOperationObject['responses'],
  more: Partial<ZodOpenApiOperationObject> = {},
): ZodOpenApiOperationObject => ({ summary, responses: { ...responses, ...problems }, ...more });
