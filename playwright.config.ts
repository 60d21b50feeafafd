import { defineConfig } from '@playwright/test'

const port = 4187

/** The real application in Debian's headless Chromium: its own port, its own data folder, laid out fresh. */
export default defineConfig({
  testDir: 'tests/browser',
  // A busy machine does the same several times slower; what is there at once is seen at once all the same.
  timeout: 240_000,
  expect: { timeout: 60_000 },
  workers: 1,
  // A busy machine may draw so late that a click goes beside what moves: that is tried once more, and told as flaky.
  retries: 1,
  forbidOnly: Boolean(process.env.CI),
  reporter: [['list']],
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-background-networking', '--disable-gpu'] },
    trace: 'off',
  },
  webServer: {
    command: `rm -rf .build/browser-data && node scripts/supervisor.mjs ${port} --lay-demo`,
    url: `http://127.0.0.1:${port}/api/status`,
    env: { COPPER_LOOP_DATA: '.build/browser-data', COPPER_LOOP_LOG: 'warn' },
    reuseExistingServer: false,
    timeout: 120_000,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 10_000 },
  },
})
