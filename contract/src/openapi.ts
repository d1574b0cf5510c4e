import { z } from 'zod';
import { createDocument, type ZodOpenApiPathsObject } from 'zod-openapi';
import { labPaths } from './openapi-lab.ts';
import { peoplePaths } from './openapi-people.ts';
import { byId, bySha256, json, operation, paged, problem } from './openapi-parts.ts';
import {
  acceptedChangeSchema,
  alongSchema,
  alongWishSchema,
  addShotsSchema,
  assetListSchema,
  assetSchema,
  boardSchema,
  cubeSchema,
  createKitSchema,
  createProductionSchema,
  createRecipeSchema,
  createSequenceSchema,
  createSetupSchema,
  healthSchema,
  historySchema,
  holdingSchema,
  historyWishSchema,
  idSchema,
  lightFileSchema,
  originalSchema,
  patchSchema,
  pictureSchema,
  productionRecordSchema,
  productionsSchema,
  proofChangeSchema,
  proofListSchema,
  proofSchema,
  proofWishSchema,
  kitRecordSchema,
  recipeRecordSchema,
  requestIdSchema,
  revisionSchema,
  sequenceRecordSchema,
  setupListSchema,
  setupRecordSchema,
  sha256Schema,
  touchedSchema,
  touchesSchema,
} from './schemas.ts';

const KIT_FILE = { 'application/zip': { schema: z.string().meta({ format: 'binary' }) } };

/** What can be done with documents of one kind. */
const documentPaths = (path: string, noun: string, record: z.ZodType, create: z.ZodType): ZodOpenApiPathsObject => ({
  [path]: {
    get: operation(`A page of ${noun}s`, { '200': json(setupListSchema, 'Those changed last first') }, { requestParams: paged }),
    post: operation(
      `Keeps a new ${noun}`,
      { '201': json(record, 'Kept') },
      { requestBody: { content: { 'application/json': { schema: create } } } },
    ),
  },
  [`${path}/{id}`]: {
    get: operation(`One ${noun}`, { '200': json(record, 'ETag holds its revision') }, { requestParams: byId }),
    patch: operation(
      `Changes one ${noun} by a JSON Merge Patch (RFC 7396)`,
      {
        '200': json(record, 'Kept'),
        '410': problem('It was thrown away'),
        '412': problem('The revision is stale; `current` holds the newer document'),
        '428': problem('If-Match is missing'),
      },
      {
        requestParams: {
          ...byId,
          header: z.object({
            'If-Match': z.string().describe('The revision in quotation marks'),
            'Idempotency-Key': requestIdSchema.optional().describe('Sent again under the same id, a change is answered as the first time'),
          }),
        },
        requestBody: { content: { 'application/merge-patch+json': { schema: patchSchema } } },
      },
    ),
    delete: operation(`Throws one ${noun} away; it can be had back`, { '204': { description: 'Gone' } }, { requestParams: byId }),
  },
  [`${path}/{id}/restore`]: {
    post: operation(`Brings one ${noun} back`, { '200': json(record, 'Here again') }, { requestParams: byId }),
  },
  [`${path}/{id}/history`]: {
    get: operation(
      'A page of the accepted patches, in words',
      { '200': json(historySchema, 'The latest first, at most half a megabyte') },
      { requestParams: { ...byId, query: historyWishSchema } },
    ),
  },
  [`${path}/{id}/revisions/{revision}`]: {
    get: operation(
      `One ${noun} as it was`,
      { '200': json(record, 'At that revision') },
      { requestParams: { path: z.object({ id: idSchema, revision: revisionSchema }) } },
    ),
  },
});

/** The OpenAPI 3.1 document of the server, made from the contract. */
export function openApiDocument(version: string): object {
  return createDocument({
    openapi: '3.1.0',
    info: { title: 'Plinket', version, description: 'Setups, characters and proofs of a Plinket server.' },
    paths: {
      '/api/health': { get: operation('How the server is', { '200': json(healthSchema, 'Well') }) },
      ...documentPaths('/api/setups', 'setup', setupRecordSchema, createSetupSchema),
      '/api/setups/{id}/events': {
        get: operation(
          'Changes as they are accepted (server-sent events); each has its revision as id',
          { '200': { description: 'As long as one listens', content: { 'text/event-stream': { schema: acceptedChangeSchema } } } },
          { requestParams: { ...byId, query: z.object({ after: revisionSchema.optional().describe('What came since is told first') }) } },
        ),
      },
      '/api/setups/{id}/proofs': {
        get: operation(
          'A page of the proofs of a setup, without their documents',
          { '200': json(proofListSchema, 'The latest first') },
          { requestParams: { ...byId, ...paged } },
        ),
        post: operation(
          'Keeps a proof: a PNG that carries its setup',
          { '201': json(proofSchema, 'Kept') },
          { requestParams: byId, requestBody: { content: { 'image/png': { schema: z.string().meta({ format: 'binary' }) } } } },
        ),
      },
      ...documentPaths('/api/kits', 'kit', kitRecordSchema, createKitSchema),
      '/api/kits/{id}/file': {
        get: operation(
          'A kit with all files that it names (.plinket)',
          {
            '200': { description: 'A zip; docs/kits.md says what it holds', content: KIT_FILE },
            '409': problem('A file that it names is gone'),
          },
          { requestParams: byId },
        ),
      },
      '/api/kits/file': {
        post: operation(
          'Keeps a kit that comes as a file',
          { '201': json(kitRecordSchema, 'Kept') },
          { requestParams: { query: z.object({ name: z.string() }) }, requestBody: { content: KIT_FILE } },
        ),
      },
      ...documentPaths('/api/productions', 'production', productionRecordSchema, createProductionSchema),
      ...documentPaths('/api/sequences', 'sequence', sequenceRecordSchema, createSequenceSchema),
      '/api/sequences/{id}/shots': {
        post: operation(
          'Adds shots, each a setup that follows the sequence’s',
          { '201': json(sequenceRecordSchema, 'The sequence with them') },
          { requestParams: byId, requestBody: { content: { 'application/json': { schema: addShotsSchema } } } },
        ),
      },
      ...Object.fromEntries(
        ['setups', 'sequences'].map((kind) => [
          `/api/${kind}/{id}/hand`,
          {
            post: operation(
              'What a page has in hand, said to the others for as long as it listens',
              { '204': { description: 'Told' } },
              { requestParams: byId, requestBody: { content: { 'application/json': { schema: holdingSchema } } } },
            ),
          },
        ]),
      ),
      '/api/sequences/{id}/along': {
        get: operation(
          'A value of its light in each shot',
          { '200': json(alongSchema, 'In the order of the shots') },
          { requestParams: { ...byId, query: alongWishSchema } },
        ),
      },
      '/api/sequences/{id}/events': {
        get: operation(
          'Changes of a sequence as they are accepted (server-sent events)',
          { '200': { description: 'As long as one listens', content: { 'text/event-stream': { schema: acceptedChangeSchema } } } },
          { requestParams: { ...byId, query: z.object({ after: revisionSchema.optional().describe('What came since is told first') }) } },
        ),
      },
      '/api/sequences/{id}/board': {
        get: operation('How the shots of a sequence stand', { '200': json(boardSchema, 'In no order') }, { requestParams: byId }),
      },
      '/api/sequences/{id}/touched': {
        post: operation(
          'Which shots a change of the sequence’s setup would be seen in',
          { '200': json(touchedSchema, 'Nothing is changed') },
          { requestParams: byId, requestBody: { content: { 'application/json': { schema: touchesSchema } } } },
        ),
      },
      '/api/setups/{id}/sequence': {
        get: operation(
          'The sequence that a setup is a shot of, or that follows it',
          { '200': json(sequenceRecordSchema, 'ETag holds its revision'), '204': { description: 'It is of none' } },
          { requestParams: byId },
        ),
      },
      '/api/board': { get: operation('Productions with their sequences', { '200': json(productionsSchema, 'The newest first') }) },
      ...documentPaths('/api/recipes', 'intention', recipeRecordSchema, createRecipeSchema),
      '/api/proofs': {
        get: operation(
          'A page of the proofs of all setups, without their documents',
          { '200': json(proofListSchema, 'The latest first') },
          { requestParams: { query: proofWishSchema } },
        ),
      },
      '/api/proofs/{id}': {
        get: operation('A proof with its document', { '200': json(proofSchema, 'The proof') }, { requestParams: byId }),
        patch: operation(
          'Changes what is said about a proof: name, notes, pins',
          { '200': json(proofSchema, 'Kept') },
          { requestParams: byId, requestBody: { content: { 'application/merge-patch+json': { schema: proofChangeSchema } } } },
        ),
        delete: operation('Throws a proof away; it can be had back', { '204': { description: 'Gone' } }, { requestParams: byId }),
      },
      '/api/proofs/{id}/restore': {
        post: operation('Brings a proof back', { '200': json(proofSchema, 'Here again') }, { requestParams: byId }),
      },
      '/api/assets': {
        get: operation('A page of characters', { '200': json(assetListSchema, 'The latest first') }, { requestParams: paged }),
        post: operation(
          'Brings a character in',
          { '201': json(assetSchema, 'Kept') },
          {
            requestParams: { query: z.object({ name: z.string() }) },
            requestBody: { content: { 'model/gltf-binary': { schema: z.string().meta({ format: 'binary' }) } } },
          },
        ),
      },
      '/api/assets/{sha256}': {
        delete: operation(
          'Throws a character away that nothing needs; it can be had back',
          { '204': { description: 'Gone' }, '409': problem('Setups or proofs need it; they are named') },
          { requestParams: bySha256 },
        ),
      },
      '/api/assets/{sha256}/restore': {
        post: operation('Brings a character back', { '200': json(assetSchema, 'Here again') }, { requestParams: bySha256 }),
      },
      '/api/assets/{sha256}/originals': {
        get: operation(
          'The files that a character was made of, as they came',
          { '200': json(z.array(originalSchema), 'In the order in which they came; none where the character is as it came') },
          { requestParams: bySha256 },
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
      '/api/pictures': {
        post: operation(
          'Keeps a picture of a kit: .png or .jpg',
          { '201': json(pictureSchema, 'Kept') },
          {
            requestParams: { query: z.object({ name: z.string() }) },
            requestBody: { content: { 'application/octet-stream': { schema: z.string() } } },
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
      ...labPaths(),
      ...peoplePaths(),
      '/api/blobs/{sha256}': {
        get: operation('A file by its SHA-256', { '200': { description: 'The bytes' } }, { requestParams: bySha256 }),
      },
    },
  });
}
