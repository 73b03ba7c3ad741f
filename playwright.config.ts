import { defineConfig } from '@playwright/test';
import { chromiumFlags } from './scripts/lib/packages.ts';

export default defineConfig({
  testDir: 'tests/e2e',
  timeout: 180_000,
  expect: { timeout: 20_000 },
  workers: 2,
  retries: 0,
  use: {
    viewport: { width: 1280, height: 800 },
    trace: 'retain-on-failure',
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
      args: chromiumFlags,
    },
  },
});
