import { defineConfig } from '@playwright/test';

const apart = ['edges.spec.ts', 'underWay.spec.ts'];

export default defineConfig({
  testDir: 'test/e2e',
  timeout: 180_000,
  expect: { timeout: 20_000 },
  workers: 2,
  retries: 0,
  forbidOnly: true,
  reporter: [['list'], ['json']],
  outputDir: '.data/e2e',
  projects: [
    // Two walks go on at once on two cores, but for those that end processes, throw everybody out, or move the clock.
    { name: 'together', testIgnore: apart },
    { name: 'apart', testMatch: apart, dependencies: ['together'], workers: 1 },
  ],
  use: {
    baseURL: process.env.E2E_URL,
    actionTimeout: 20_000,
    viewport: { width: 1280, height: 800 },
    contextOptions: { reducedMotion: 'reduce' },
    locale: 'en-GB',
    timezoneId: 'Europe/Oslo',
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: '/usr/bin/chromium-headless-shell',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-dev-shm-usage',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
