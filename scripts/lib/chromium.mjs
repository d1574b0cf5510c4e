import { existsSync } from 'node:fs';
import { debian } from './run.mjs';

/** Debian's Chromium; installed when it is missing. */
export function ensureChromium() {
  const path = '/usr/bin/chromium';
  if (!existsSync(path)) debian(['chromium'], 'Chromium');
  return path;
}

const QUIET = [
  '--no-sandbox',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];
/** How Chromium is started without a screen: nothing of it asks the network, nothing draws in 3D. */
export const FLAGS = ['--disable-gpu', ...QUIET];
/** The same with 3D graphics in software. */
export const FLAGS_3D = ['--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--ignore-gpu-blocklist', ...QUIET];
