// Who one is here, and who else.
import {
  deedsSchema,
  hereSchema,
  invitationsSchema,
  madeInvitationSchema,
  peopleSchema,
  type Deeds,
  type Here,
  type Invitations,
  type ListWish,
  type MadeInvitation,
  type People,
  type Role,
} from '@plinket/contract';
import { call, JSON_TYPE, posting, query, read } from './client.ts';

export const peopleApi = {
  here: (): Promise<Here> => read(hereSchema, call('/session')),
  signIn: (name: string, password: string): Promise<Here> => read(hereSchema, call('/session', posting({ name, password }))),
  signOut: async (): Promise<void> => void (await call('/session', { method: 'DELETE' })),
  join: (invitation: string, name: string, password: string): Promise<Here> =>
    read(hereSchema, call('/join', posting({ invitation, name, password }))),
  changePassword: async (password: string, next: string): Promise<void> =>
    void (await call('/session/password', posting({ password, next }))),
  people: (): Promise<People> => read(peopleSchema, call('/accounts')),
  changeRole: async (id: string, role: Role): Promise<void> =>
    void (await call(`/accounts/${id}`, { method: 'PATCH', headers: JSON_TYPE, body: JSON.stringify({ role }) })),
  remove: async (id: string): Promise<void> => void (await call(`/accounts/${id}`, { method: 'DELETE' })),
  invitations: (): Promise<Invitations> => read(invitationsSchema, call('/invitations')),
  invite: (role: Role): Promise<MadeInvitation> => read(madeInvitationSchema, call('/invitations', posting({ role }))),
  uninvite: async (id: string): Promise<void> => void (await call(`/invitations/${id}`, { method: 'DELETE' })),
  deeds: (wish: ListWish = {}): Promise<Deeds> => read(deedsSchema, call(`/deeds${query(wish)}`)),
};
