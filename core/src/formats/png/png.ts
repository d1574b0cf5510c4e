import { decode, encode } from 'fast-png';
import { parseSetup, type Setup } from '../../setup/index.ts';

/** Keyword of the text chunk that carries the setup. */
export const SETUP_KEYWORD = 'plinket-setup';

/** JSON in plain ASCII, as a tEXt chunk wants it (PNG specification, 11.3.4.3: Latin-1). */
const asciiJson = (value: unknown): string =>
  JSON.stringify(value).replace(/[\u007f-\uffff]/g, (c) => '\\u' + c.charCodeAt(0).toString(16).padStart(4, '0'));

/** An 8-bit RGBA picture as a PNG, with the setup that made it inside. */
export function writePng(width: number, height: number, rgba: Uint8Array | Uint8ClampedArray, setup?: Setup): Uint8Array {
  return encode({ width, height, data: rgba, depth: 8, channels: 4, ...(setup ? { text: { [SETUP_KEYWORD]: asciiJson(setup) } } : {}) });
}

/**
 * The setup inside a PNG, or nothing when it carries none.
 * @throws SetupError when what it carries is not a setup; Error when the file is not a PNG.
 */
export function readPngSetup(bytes: Uint8Array): Setup | undefined {
  const text = decode(bytes).text[SETUP_KEYWORD];
  return text === undefined ? undefined : parseSetup(JSON.parse(text));
}
