// Drawings for print, as SVG 1.1 text: millimetres on a sheet, black on white, no style but attributes, so that any reader takes them.

/** A4, landscape, millimetres (ISO 216, from memory), and its margin. */
export const SHEET = { width: 297, height: 210, margin: 12 } as const;

const NAMED: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
/** Signs that the fonts of the sheets lack, in others that mean the same. */
const WRITTEN: Record<string, string> = { '⅓': '1/3', '⅔': '2/3', '▸': '>' };

/** A text as XML takes it: without what may not stand there (XML 1.0, 2.2), and with fractions after whole numbers set apart. */
export const escaped = (text: string): string =>
  text
    // eslint-disable-next-line no-control-regex -- these are the signs that XML forbids
    .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, '')
    .replace(/(\d)([⅓⅔])/g, '$1 $2')
    .replace(/[⅓⅔▸]/g, (c) => WRITTEN[c]!)
    .replace(/[&<>"]/g, (c) => NAMED[c]!);

const round = (v: number): string => Number(v.toFixed(3)).toString();

/** An element; numbers are rounded to a thousandth of a millimetre. */
export function element(name: string, attributes: Record<string, string | number | undefined>, inner = ''): string {
  const said = Object.entries(attributes)
    .filter(([, v]) => v !== undefined)
    .map(([k, v]) => ` ${k}="${typeof v === 'number' ? round(v) : escaped(v!)}"`)
    .join('');
  return inner ? `<${name}${said}>${inner}</${name}>` : `<${name}${said}/>`;
}

export interface TextStyle {
  /** Height of the type, mm. */
  size?: number;
  bold?: boolean;
  anchor?: 'start' | 'middle' | 'end';
  fill?: string;
}

/** A line of text, its foot at x, y. */
export const text = (x: number, y: number, words: string, { size = 2.8, bold, anchor, fill = '#000' }: TextStyle = {}): string =>
  element(
    'text',
    { x, y, 'font-family': 'Archivo', 'font-size': size, 'font-weight': bold ? 'bold' : undefined, 'text-anchor': anchor, fill },
    escaped(words),
  );

/** Mean width of a letter against the height of the type: as Archivo has it in running text, taken generously. */
const LETTER = 0.52;

/** Words in lines that are no wider than so many mm; a word that is longer is cut, and what is beyond `most` lines ends in an ellipsis. */
export function wrapped(words: string, width: number, size = 2.8, most = Infinity): string[] {
  const letters = Math.max(4, Math.floor(width / (size * LETTER)));
  const lines: string[] = [''];
  for (let word of words.split(/\s+/).filter(Boolean)) {
    while (word.length > letters) {
      if (lines.at(-1)) lines.push('');
      lines[lines.length - 1] = word.slice(0, letters);
      lines.push('');
      word = word.slice(letters);
    }
    const last = lines.at(-1)!;
    if (last && last.length + 1 + word.length > letters) lines.push(word);
    else lines[lines.length - 1] = last ? `${last} ${word}` : word;
  }
  if (lines.length <= most) return lines;
  return [...lines.slice(0, most - 1), `${lines[most - 1]!.slice(0, letters - 1)}…`];
}

/** A whole sheet of paper. */
export const sheet = (title: string, inner: string): string =>
  element(
    'svg',
    {
      xmlns: 'http://www.w3.org/2000/svg',
      'xmlns:xlink': 'http://www.w3.org/1999/xlink',
      width: `${SHEET.width}mm`,
      height: `${SHEET.height}mm`,
      viewBox: `0 0 ${SHEET.width} ${SHEET.height}`,
    },
    element('title', {}, escaped(title)) + element('rect', { width: SHEET.width, height: SHEET.height, fill: '#fff' }) + inner,
  );

/** A picture, in a box that has its shape. */
export const picture = (href: string, x: number, y: number, width: number, height: number): string =>
  element('image', { x, y, width, height, href, 'xlink:href': href });
