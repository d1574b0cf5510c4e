// Names of finished pictures by template. A version is never written over, and no name leaves its folder.

/** What a template may name, with an example of each. */
export const NAME_WORDS = {
  job: 'lamp-room',
  production: 'the-tide-clock',
  sequence: 'lamp-room',
  shot: 'lr-020',
  version: 'v001',
  frame: '1001',
} as const;
export type NameWord = keyof typeof NAME_WORDS;

export const NAME_TEMPLATE = '{job}/{version}/{shot}.{frame}';
/** Most characters of a template, and of a name that it makes. */
export const MOST_TEMPLATE = 160,
  MOST_NAME = 240;

/** Letters that stand for others where names may hold no accents. */
const PLAIN: Record<string, string> = { ß: 'ss', æ: 'ae', ø: 'o', œ: 'oe', ł: 'l', đ: 'd', þ: 'th', ð: 'd' };

/** A value as part of a file's name: small letters, digits, `-`, `_` and `.` within; never empty, never only dots. */
export function nameOfValue(value: string): string {
  const plain = value
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[ßæøœłđþð]/g, (c) => PLAIN[c]!)
    .replace(/[^a-z0-9._]+/g, '-')
    .replace(/^[-.]+|[-.]+$/g, '');
  return plain.slice(0, 60).replace(/[-.]+$/, '') || 'unnamed';
}

/** Version `n` as it stands in names: v001. */
export const versionWord = (n: number): string => `v${String(n).padStart(3, '0')}`;
/** A frame's number as it stands in names, four digits or more. */
export const frameWord = (n: number): string => String(n).padStart(4, '0');

/**
 * What is wrong with a template, in words; nothing where it can be used.
 * @param of several frames of a shot, several shots: then the name must tell them apart
 * @example templateProblem('{job}/{version}', { frames: true, shots: false }) // 'it needs {frame}: several frames of one shot are made'
 */
export function templateProblem(template: string, of: { frames: boolean; shots: boolean }): string | undefined {
  if (!template.trim()) return 'it is empty';
  if (template.length > MOST_TEMPLATE) return `it is longer than ${MOST_TEMPLATE} characters`;
  const bare = template.replace(/\{([a-z]*)\}/g, (whole, word: string) => (word in NAME_WORDS ? 'x' : whole));
  const unknown = /\{[^}]*\}?|\}/.exec(bare);
  if (unknown)
    return `${unknown[0]} says nothing; ${Object.keys(NAME_WORDS)
      .map((w) => `{${w}}`)
      .join(', ')} can be said`;
  if (/^[/\\]|^[A-Za-z]:/.test(template)) return 'it must stay in the folder of finished pictures: no / at its beginning';
  if (template.includes('\\')) return 'folders are parted by /, not by \\';
  const parts = bare.split('/');
  if (parts.some((p) => p === '')) return 'between two / there must be a name';
  if (parts.some((p) => /^\.+$/.test(p))) return 'it must stay in the folder of finished pictures: no .. in it';
  if (parts.some((p) => p.startsWith('.'))) return 'no part begins with a dot';
  const odd = /[^A-Za-z0-9._/-]/.exec(bare);
  if (odd) return `“${odd[0]}” cannot stand in a name; letters, digits, - _ and . can`;
  if (!template.includes('{version}')) return 'it needs {version}: no version is written over another';
  if (of.frames && !template.includes('{frame}')) return 'it needs {frame}: several frames of one shot are made';
  if (of.shots && !template.includes('{shot}')) return 'it needs {shot}: several shots are made';
  return undefined;
}

/** A name by a template that has no problem, without an ending. Words that are not known are left out as `unnamed`. */
export const nameBy = (template: string, words: Partial<Record<NameWord, string>>): string =>
  template.replace(/\{([a-z]+)\}/g, (_, word: NameWord) => nameOfValue(words[word] ?? '')).slice(0, MOST_NAME);
