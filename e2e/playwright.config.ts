import { defineConfig } from '@playwright/test'

export default defineConfig({
  testDir: '.',
  testMatch: '*.spec.ts',
  workers: 1,
  timeout: 240_000,
  expect: { timeout: 30_000 },
  reporter: process.env.QUILL_E2E_REPORT ? [['list'], ['json', { outputFile: process.env.QUILL_E2E_REPORT }]] : [['list']],
  use: {
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    contextOptions: { reducedMotion: 'reduce' },
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
})
