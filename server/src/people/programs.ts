import { createHash, timingSafeEqual } from 'node:crypto';

/** Shortest password of programs. */
export const MIN_TOKEN = 12;

const digest = (text: string): Buffer => createHash('sha256').update(text).digest();

/** Whether a request says the password that programs were given (`PLINKET_TOKEN`), as Bearer (RFC 6750). */
export function isProgram(header: string | undefined, token: string | undefined): boolean {
  const said = /^bearer +(\S.*)$/i.exec(header ?? '')?.[1];
  return token !== undefined && said !== undefined && timingSafeEqual(digest(said), digest(token));
}
