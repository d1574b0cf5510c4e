// Who asks: accounts with their roles, sessions, invitations, and the record of who did what. Only a server that listens beyond loopback wants to know.
import { z } from 'zod';
import { idSchema } from './schemas.ts';

const iso = z.iso.datetime();

/** What somebody may do: look; light (change and render); lead (also people, render nodes and the record of what was done). Each may what those before it may. */
export const ROLES = ['look', 'light', 'lead'] as const;
export type Role = (typeof ROLES)[number];
const roleSchema = z.enum(ROLES);

/** Shortest password (NIST SP 800-63B asks for at least 8, from memory) and the longest that is read. */
export const MIN_PASSWORD = 12,
  MAX_PASSWORD = 200;
const newPassword = z.string().min(MIN_PASSWORD, `at least ${MIN_PASSWORD} characters`).max(MAX_PASSWORD);
const anyPassword = z.string().max(MAX_PASSWORD);
const personName = z
  .string()
  .trim()
  .min(1, 'a name is needed')
  .max(60)
  .regex(/^[^\p{Cc}\p{Cf}]*$/u, 'holds characters that cannot be seen');

export const accountSchema = z.object({
  id: idSchema,
  name: z.string(),
  role: roleSchema,
  createdAt: iso,
  /** When it last signed in. */
  seenAt: iso.optional(),
});
export type Account = z.infer<typeof accountSchema>;

/** Who asks; where the server listens on loopback only, nobody needs to say. */
export const hereSchema = z.object({
  guarded: z.boolean(),
  account: accountSchema.pick({ id: true, name: true, role: true }).optional(),
});
export type Here = z.infer<typeof hereSchema>;

export const signInSchema = z.strictObject({ name: personName, password: anyPassword });
export const passwordChangeSchema = z.strictObject({ password: anyPassword, next: newPassword });
export const joinSchema = z.strictObject({ invitation: z.string().max(200), name: personName, password: newPassword });
export const roleChangeSchema = z.strictObject({ role: roleSchema });

export const peopleSchema = z.object({ items: z.array(accountSchema) });
export type People = z.infer<typeof peopleSchema>;

export const invitingSchema = z.strictObject({ role: roleSchema });
export const invitationSchema = z.object({ id: idSchema, role: roleSchema, by: z.string().optional(), createdAt: iso, expiresAt: iso });
export type Invitation = z.infer<typeof invitationSchema>;
export const invitationsSchema = z.object({ items: z.array(invitationSchema) });
export type Invitations = z.infer<typeof invitationsSchema>;
/** The word that lets somebody in once; it is said only now. */
export const madeInvitationSchema = invitationSchema.extend({ invitation: z.string() });
export type MadeInvitation = z.infer<typeof madeInvitationSchema>;

/** One thing that was done, by whom. */
export const deedSchema = z.object({
  id: z.string(),
  at: iso,
  name: z.string(),
  /** In words: of a change of a document what it changed, of anything else method and address. */
  words: z.string(),
  /** The document it was done to, where there is one. */
  document: z.object({ id: idSchema, kind: z.string(), name: z.string() }).optional(),
  /** How it was answered (HTTP); none where the server ended meanwhile. */
  status: z.number().int().optional(),
});
export type Deed = z.infer<typeof deedSchema>;
export const deedsSchema = z.object({ items: z.array(deedSchema), next: z.string().optional() });
export type Deeds = z.infer<typeof deedsSchema>;
