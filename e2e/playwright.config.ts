import { defineConfig } from '@playwright/test';
import { FLAGS } from '../scripts/lib/chromium.mjs';

export default defineConfig({
  testDir: '.',
  testMatch: '*.spec.ts',
  fullyParallel: false,
  workers: 1,
  timeout: 150_000,
  expect: { timeout: 30_000 },
  reporter: [['list'], ['json', { outputFile: '../.cache/e2e.json' }]],
  outputDir: '../test-results',
  use: {
    viewport: { width: 1280, height: 800 },
    baseURL: process.env['PLINKET_URL'],
    launchOptions: {
      executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
      args: FLAGS,
    },
  },
});
