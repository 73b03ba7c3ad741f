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
    // A trace costs a third of the time: TRACE=1 when a failure cannot be understood without it.
    trace: process.env.TRACE ? 'retain-on-failure' : 'off',
    screenshot: 'only-on-failure',
    // Nothing moves but what is tried: what spins keeps a processor busy.
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
      args: chromiumFlags,
    },
  },
});
