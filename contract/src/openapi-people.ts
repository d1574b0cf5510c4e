// The part of the OpenAPI document about who asks.
import type { z } from 'zod';
import type { ZodOpenApiPathsObject } from 'zod-openapi';
import { byId, json, operation, paged, problem } from './openapi-parts.ts';
import {
  accountSchema,
  deedsSchema,
  hereSchema,
  invitationsSchema,
  invitingSchema,
  joinSchema,
  madeInvitationSchema,
  passwordChangeSchema,
  peopleSchema,
  roleChangeSchema,
  signInSchema,
} from './people.ts';

const body = (schema: z.ZodType) => ({ requestBody: { content: { 'application/json': { schema } } } });
const DONE = { '204': { description: 'Done' } };

/** Signing in and out, people, invitations, and who did what: on a server where people sign in. */
export const peoplePaths = (): ZodOpenApiPathsObject => ({
  '/api/session': {
    get: operation('Who one is here', { '200': json(hereSchema, 'Also on a server where nobody needs to sign in') }),
    post: operation(
      'Signs in',
      { '200': json(hereSchema, 'Signed in, by a cookie'), '403': problem('Name and password do not fit') },
      body(signInSchema),
    ),
    delete: operation('Signs out', DONE),
  },
  '/api/session/password': { post: operation('Gives oneself another password; other sessions end', DONE, body(passwordChangeSchema)) },
  '/api/join': {
    post: operation('Makes an account by an invitation, and signs in', { '201': json(hereSchema, 'Signed in') }, body(joinSchema)),
  },
  '/api/accounts': { get: operation('The people of this server', { '200': json(peopleSchema, 'By name') }) },
  '/api/accounts/{id}': {
    patch: operation(
      'Gives somebody another role',
      { '200': json(accountSchema, 'Changed'), '409': problem('Nobody would lead') },
      { requestParams: byId, ...body(roleChangeSchema) },
    ),
    delete: operation(
      'Takes an account away and ends its sessions',
      { ...DONE, '409': problem('Nobody would lead') },
      { requestParams: byId },
    ),
  },
  '/api/invitations': {
    get: operation('Invitations that nobody has used', { '200': json(invitationsSchema, 'The latest first') }),
    post: operation('Invites somebody', { '201': json(madeInvitationSchema, 'The word is said only now') }, body(invitingSchema)),
  },
  '/api/invitations/{id}': { delete: operation('Takes an invitation back', DONE, { requestParams: byId }) },
  '/api/deeds': { get: operation('Who did what', { '200': json(deedsSchema, 'The latest first') }, { requestParams: paged }) },
});
