import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { defineConfig } from '@playwright/test';

const PORT = 4191;

export default defineConfig({
  testDir: 'e2e',
  globalSetup: './e2e/prepare.ts',
  // Bounds a test that hangs; on a busy machine a long one takes minutes, and an answer half of one.
  timeout: 600_000,
  expect: { timeout: 90_000 },
  // A busy machine can upset a test once, which is then told as flaky; what fails twice fails.
  retries: 1,
  // Files beside each other, the tests of one file one after the other: those of the bench share its devices.
  workers: 2,
  forbidOnly: true,
  reporter: [['list']],
  use: {
    actionTimeout: 180_000,
    navigationTimeout: 180_000,
    baseURL: `http://127.0.0.1:${PORT}`,
    viewport: { width: 1280, height: 800 },
    colorScheme: 'light',
    // Each test has a browser of its own, which would fetch the whole application to keep it.
    serviceWorkers: 'block',
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync'
      ]
    },
    // Recording costs time in every test; TRACE=1 records those that fail.
    trace: process.env.TRACE ? 'retain-on-failure' : 'off'
  },
  webServer: {
    command: 'node scripts/serve.mjs',
    // Simulated devices begin as they are found, and leave nothing behind.
    env: {
      HOST: '127.0.0.1',
      PORT: String(PORT),
      XDG_STATE_HOME: mkdtempSync(join(tmpdir(), 'ombudsman-bench-'))
    },
    url: `http://127.0.0.1:${PORT}/`,
    reuseExistingServer: false
  }
});
