import { z } from 'zod';
import { orderOf, type Collection, type Ranked } from './rank.ts';
import { id } from './values.ts';

/** A part within its character, as the character's file calls it: nobody renames it here. */
export const partName = z.string().min(1).max(120);

/** The stage and its pieces. */
export const STAGE_PIECES = ['backdrop', 'front'] as const;

const FORM = new RegExp(
  `^(subjects/(?<subject>[^/]+)(/(?<part>.+))?|props/(?<prop>[^/]+)|stage(/(?<piece>${STAGE_PIECES.join('|')}))?)$`,
  's',
);

/** What a reference names: a whole character or a part of it, a thing on the stage, the stage or a piece of it. */
export type ObjectNamed = { of: 'subject'; id: string; part?: string } | { of: 'prop'; id: string } | { of: 'stage'; piece?: string };

/** Takes a reference apart; nothing when it is none. */
export function readRef(ref: string): ObjectNamed | undefined {
  const named = FORM.exec(ref)?.groups;
  if (!named) return undefined;
  const { subject, part, prop, piece } = named;
  if (subject !== undefined) {
    if (!id.safeParse(subject).success || (part !== undefined && !partName.safeParse(part).success)) return undefined;
    return { of: 'subject', id: subject, ...(part === undefined ? {} : { part }) };
  }
  if (prop !== undefined) return id.safeParse(prop).success ? { of: 'prop', id: prop } : undefined;
  return { of: 'stage', ...(piece === undefined ? {} : { piece }) };
}

/**
 * An object by its id: where it stands in the document, so that nothing is lost when it is renamed. One string, so that a merge patch
 * replaces it as a whole: `subjects/keeper`, `subjects/keeper/Skin`, `props/drum`, `stage`, `stage/backdrop`.
 */
export const objectRef = z
  .string()
  .max(200)
  .refine((ref) => readRef(ref) !== undefined, 'an object is named like “subjects/keeper/Skin”, “props/drum” or “stage/backdrop”');
export type ObjectRef = z.infer<typeof objectRef>;

/** Whether a reference means an object, itself or as part of what it names. */
export const refCovers = (ref: ObjectRef, object: ObjectRef): boolean => object === ref || object.startsWith(`${ref}/`);

export const partRef = (subject: string, part: string): ObjectRef => `subjects/${subject}/${part}`;
export const propRef = (prop: string): ObjectRef => `props/${prop}`;

/** What parts of eyes are called; common practice of those who name them, no source. */
const EYES = /\b(eyes?|iris|cornea|pupil|sclera)\b/i;

/** The part that an object is, if it belongs to an eye by its name. */
export function eyePart(object: ObjectRef): string | undefined {
  const named = readRef(object);
  return named?.of === 'subject' && named.part !== undefined && EYES.test(named.part) ? named.part : undefined;
}

interface Called extends Ranked {
  name: string;
}
/** What has names, of a setup. */
export interface CalledObjects {
  subjects: Collection<Called>;
  props: Collection<Called>;
}

/** What an object is called: “The keeper / Skin”, “Drum”, “backdrop”; what is not there any more says so. */
export function objectName({ subjects, props }: CalledObjects, ref: ObjectRef): string {
  const named = readRef(ref);
  if (!named) return ref;
  if (named.of === 'stage') return named.piece ?? 'stage';
  const name = (named.of === 'subject' ? subjects : props).items[named.id]?.name ?? 'something that is gone';
  return named.of === 'subject' && named.part !== undefined ? `${name} / ${named.part}` : name;
}

/** The reference of what documents before version 6 called by name; what nobody is called stays dark, as it was. */
export function refOfName({ subjects, props }: CalledObjects, name: string): ObjectRef {
  const stage = STAGE_PIECES.find((piece) => name === `stage/${piece}`);
  if (stage) return `stage/${stage}`;
  const prop = orderOf(props).find((id) => props.items[id]!.name === name);
  if (prop !== undefined) return propRef(prop);
  const subject = orderOf(subjects).find((id) => name.startsWith(`${subjects.items[id]!.name}/`));
  const part = subject === undefined ? '' : name.slice(subjects.items[subject]!.name.length + 1);
  return part === '' ? 'props/gone' : partRef(subject!, part);
}

/** What documents before version 6 called an object. */
export function nameOfRef({ subjects, props }: CalledObjects, ref: ObjectRef): string {
  const named = readRef(ref);
  if (named?.of === 'subject' && named.part !== undefined) return `${subjects.items[named.id]?.name ?? 'gone'}/${named.part}`;
  if (named?.of === 'prop') return props.items[named.id]?.name ?? 'gone';
  return ref;
}
