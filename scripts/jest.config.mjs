import { root } from './lib/paths.mjs';

export default {
  rootDir: root,
  testMatch: ['<rootDir>/{kernel,core,contract,engine,demo,lab,server,web,scripts}/**/*.test.ts'],
  testPathIgnorePatterns: ['/node_modules/', '/build/', '/dist/'],
  modulePathIgnorePatterns: ['/.cache/', '/.data/', '/dist/'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: {
    '\\.tsx?$': ['@swc/jest', { jsc: { target: 'es2023', parser: { syntax: 'typescript', tsx: false } }, module: { type: 'es6' } }],
  },
  maxWorkers: 2,
  testTimeout: 60_000,
};
