import { defineConfig } from '@playwright/test';

const port = 4321;

export default defineConfig({
  testDir: 'e2e',
  timeout: 150_000,
  // A busy machine may stall a browser for seconds; a journey that fails twice is broken.
  retries: process.env.CI ? 1 : 0,
  expect: { timeout: 15_000 },
  workers: 1,
  forbidOnly: !!process.env.CI,
  reporter: [['list']],
  outputDir: 'test-results',
  use: {
    baseURL: `http://localhost:${port}`,
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
  webServer: {
    command: `node node_modules/next/dist/bin/next start --port ${port}`,
    url: `http://localhost:${port}/api/health`,
    env: { NEXT_TELEMETRY_DISABLED: '1' },
    reuseExistingServer: false,
  },
});
