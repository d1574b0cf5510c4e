import { z } from 'zod';
import { createDocument, type ZodOpenApiOperationObject } from 'zod-openapi';
import {
  assetSchema,
  cubeSchema,
  createSetupSchema,
  healthSchema,
  historySchema,
  idSchema,
  lightFileSchema,
  originalSchema,
  patchSchema,
  problemSchema,
  proofListSchema,
  proofSchema,
  setupListSchema,
  setupRecordSchema,
  sha256Schema,
} from './schemas.ts';

const json = (schema: z.ZodType, description: string) => ({ description, content: { 'application/json': { schema } } });
const problem = (description: string) => ({ description, content: { 'application/problem+json': { schema: problemSchema } } });
const problems = {
  '400': problem('Cannot be read'),
  '403': problem('Foreign origin or host'),
  '404': problem('No such thing'),
  '413': problem('Too large'),
  '422': problem('Breaks the schema'),
  '503': problem('The database does not answer'),
} as const;
const byId = { path: z.object({ id: idSchema }) };

const operation = (
  summary: string,
  responses: ZodOpenApiOperationObject['responses'],
  more: Partial<ZodOpenApiOperationObject> = {},
): ZodOpenApiOperationObject => ({ summary, responses: { ...responses, ...problems }, ...more });

/** The OpenAPI 3.1 document of the server, made from the contract. */
export function openApiDocument(version: string): object {
  return createDocument({
    openapi: '3.1.0',
    info: { title: 'Plinket', version, description: 'Setups, characters and proofs of a Plinket server.' },
    paths: {
      '/api/health': { get: operation('How the server is', { '200': json(healthSchema, 'Well') }) },
      '/api/setups': {
        get: operation('All setups', { '200': json(setupListSchema, 'The latest first') }),
        post: operation(
          'A new setup',
          { '201': json(setupRecordSchema, 'Kept') },
          { requestBody: { content: { 'application/json': { schema: createSetupSchema } } } },
        ),
      },
      '/api/setups/{id}': {
        get: operation('One setup', { '200': json(setupRecordSchema, 'ETag holds its revision') }, { requestParams: byId }),
        patch: operation(
          'Changes a setup by a JSON Merge Patch (RFC 7396)',
          {
            '200': json(setupRecordSchema, 'Kept'),
            '412': problem('The revision is stale; `current` holds the newer document'),
            '428': problem('If-Match is missing'),
          },
          {
            requestParams: { ...byId, header: z.object({ 'If-Match': z.string().describe('The revision in quotation marks') }) },
            requestBody: { content: { 'application/merge-patch+json': { schema: patchSchema } } },
          },
        ),
      },
      '/api/setups/{id}/history': {
        get: operation('Every accepted patch, in words', { '200': json(historySchema, 'The latest first') }, { requestParams: byId }),
      },
      '/api/setups/{id}/revisions/{revision}': {
        get: operation(
          'A setup as it was',
          { '200': json(setupRecordSchema, 'At that revision') },
          { requestParams: { path: z.object({ id: idSchema, revision: z.coerce.number().int().positive() }) } },
        ),
      },
      '/api/setups/{id}/proofs': {
        get: operation('The proofs of a setup', { '200': json(proofListSchema, 'The latest first') }, { requestParams: byId }),
        post: operation(
          'Keeps a proof: a PNG that carries its setup',
          { '201': json(proofSchema, 'Kept') },
          { requestParams: byId, requestBody: { content: { 'image/png': { schema: z.string().meta({ format: 'binary' }) } } } },
        ),
      },
      '/api/proofs/{id}': { delete: operation('Throws a proof away', { '204': { description: 'Gone' } }, { requestParams: byId }) },
      '/api/assets': {
        get: operation('All characters', { '200': json(z.array(assetSchema), 'The latest first') }),
        post: operation(
          'Brings a character in',
          { '201': json(assetSchema, 'Kept') },
          {
            requestParams: { query: z.object({ name: z.string() }) },
            requestBody: { content: { 'model/gltf-binary': { schema: z.string().meta({ format: 'binary' }) } } },
          },
        ),
      },
      '/api/assets/{sha256}/originals': {
        get: operation(
          'The files that a character was made of, as they came',
          { '200': json(z.array(originalSchema), 'In the order in which they came; none where the character is as it came') },
          { requestParams: { path: z.object({ sha256: sha256Schema }) } },
        ),
        post: operation(
          'Keeps a file that a character was made of',
          { '201': json(originalSchema, 'Kept') },
          {
            requestParams: { path: z.object({ sha256: sha256Schema }), query: z.object({ name: z.string() }) },
            requestBody: { content: { 'application/octet-stream': { schema: z.string().meta({ format: 'binary' }) } } },
          },
        ),
      },
      '/api/luts': {
        post: operation(
          'Keeps a look-up table (.cube)',
          { '201': json(cubeSchema, 'Kept') },
          {
            requestParams: { query: z.object({ name: z.string() }) },
            requestBody: { content: { 'text/plain': { schema: z.string() } } },
          },
        ),
      },
      '/api/light-files': {
        post: operation(
          'Keeps a file for a light: .hdr, .exr, .ies or .png',
          { '201': json(lightFileSchema, 'Kept') },
          {
            requestParams: { query: z.object({ name: z.string() }) },
            requestBody: { content: { 'application/octet-stream': { schema: z.string() } } },
          },
        ),
      },
      '/api/blobs/{sha256}': {
        get: operation(
          'A file by its SHA-256',
          { '200': { description: 'The bytes' } },
          { requestParams: { path: z.object({ sha256: sha256Schema }) } },
        ),
      },
    },
  });
}
