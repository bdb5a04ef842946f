import { defineConfig } from '@playwright/test';
import { chromiumLaunch } from './scripts/browser.mjs';

export default defineConfig({
  testDir: 'e2e',
  globalSetup: './e2e/global-setup.ts',
  // Each has an installation and a browser to itself.
  workers: 2,
  // For what hangs: whoever shares the machine may slow it down to a third, and no journey is about how long it takes.
  timeout: 600_000,
  expect: { timeout: 120_000 },
  reporter: [['line'], ['json']],
  use: {
    viewport: { width: 1280, height: 800 },
    locale: 'en-GB',
    timezoneId: 'America/St_Johns',
    // A page of a journey is gone after some seconds, before it has won back what making its programs fast takes.
    launchOptions: {
      ...chromiumLaunch,
      args: [...chromiumLaunch.args, '--js-flags=--no-maglev --no-turbofan'],
    },
    screenshot: 'only-on-failure',
  },
});
