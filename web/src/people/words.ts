import type { Deed, Role } from '@plinket/contract';

const ROLE: { readonly [role in Role]: string } = {
  look: 'looks: sees everything, changes nothing',
  light: 'lights: changes setups and sequences, renders',
  lead: 'leads: also people and render nodes',
};
export const roleWords = (role: Role): string => ROLE[role];

/** What was done to what, as a person says it, by method and address. */
const DONE: readonly (readonly [RegExp, string])[] = [
  [/^POST \/api\/[^/]+\/[^/]+\/restore$/, 'brought it back'],
  [/^POST \/api\/session$/, 'signed in'],
  [/^POST \/api\/join$/, 'came by an invitation'],
  [/^POST \/api\/setups$/, 'made a setup'],
  [/^POST \/api\/setups\/[^/]+\/proofs$/, 'kept a proof'],
  [/^POST \/api\/sequences$/, 'made a sequence'],
  [/^POST \/api\/sequences\/[^/]+\/shots$/, 'added shots'],
  [/^POST \/api\/productions$/, 'made a production'],
  [/^POST \/api\/kits/, 'brought a kit in'],
  [/^POST \/api\/recipes$/, 'kept an intention'],
  [/^POST \/api\/(assets|pictures|luts|light-files)/, 'brought a file in'],
  [/^POST \/api\/lab\/jobs$/, 'sent a job to the Lab'],
  [/^POST \/api\/lab\/jobs\/[^/]+\/again$/, 'tried dead frames again'],
  [/^PATCH \/api\/lab\/jobs\//, 'changed a job'],
  [/^DELETE \/api\/lab\/jobs\//, 'took a job off the list'],
  [/^POST \/api\/lab\/nodes$/, 'made a node’s token'],
  [/^DELETE \/api\/lab\/nodes\//, 'took a node’s token back'],
  [/^POST \/api\/invitations$/, 'invited somebody'],
  [/^DELETE \/api\/invitations\//, 'took an invitation back'],
  [/^PATCH \/api\/accounts\//, 'gave somebody another role'],
  [/^DELETE \/api\/accounts\//, 'took an account away'],
  [/^PATCH \/api\/proofs\//, 'changed a proof'],
  [/^DELETE \/api\//, 'threw it away'],
];

/** What a deed was, and whether it was refused. */
export function deedWords({ words, status }: Pick<Deed, 'words' | 'status'>): string {
  const said = DONE.find(([pattern]) => pattern.test(words))?.[1] ?? words;
  if (status === undefined) return `${said} (the server ended before it was answered)`;
  return status < 400 ? said : `${said} (refused: ${status})`;
}
