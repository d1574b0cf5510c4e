import { spawnSync } from 'node:child_process';
import { debian } from './run.mjs';

/** Debian's programs that read our files after us, in tests only, and their packages. */
const PROGRAMS = {
  'rsvg-convert': 'librsvg2-bin',
  pdftotext: 'poppler-utils',
  ffprobe: 'ffmpeg',
  unzip: 'unzip',
  exrheader: 'openexr',
  oiiotool: 'openimageio-tools',
};

/** Installs those that are missing. */
export function ensureSecondReaders() {
  const missing = Object.entries(PROGRAMS).filter(([program]) => spawnSync('which', [program]).status !== 0);
  if (missing.length) debian([...new Set(missing.map(([, name]) => name))], 'A second reader for the tests');
}
