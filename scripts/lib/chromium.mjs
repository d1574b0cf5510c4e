import { existsSync } from 'node:fs';
import { debian } from './run.mjs';

/** Debian's Chromium; installed when it is missing. */
export function ensureChromium() {
  const path = '/usr/bin/chromium';
  if (!existsSync(path)) debian(['chromium'], 'Chromium');
  return path;
}
