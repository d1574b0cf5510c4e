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
    // a quarter of the pixels: the picture, which the Stage traces no finer than the screen, is there four times as soon
    deviceScaleFactor: 0.5,
    baseURL: process.env['PLINKET_URL'],
    launchOptions: {
      executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
      args: FLAGS,
    },
  },
});
