import { join } from 'node:path';
import { root } from './lib/paths.mjs';

export default {
  rootDir: root,
  testMatch: ['<rootDir>/{kernel,core,contract,engine,demo,lab,server,web,scripts}/**/*.test.ts'],
  testPathIgnorePatterns: ['/node_modules/', '/build/', '/dist/'],
  modulePathIgnorePatterns: ['/.cache/', '/.data/', '/dist/'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: { '\\.tsx?$': join(root, 'scripts/jest-transform.cjs') },
  maxWorkers: 2,
  testTimeout: 60_000,
};
