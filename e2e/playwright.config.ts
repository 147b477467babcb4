import { defineConfig } from '@playwright/test'

/** Tests that measure how soon the picture follows the hand. */
const BY_THE_CLOCK = ['drag.spec.ts']

export default defineConfig({
  testDir: '.',
  globalSetup: './studio.ts',
  // two browsers, each with a studio of its own: what one waits for, the other does not
  workers: 2,
  projects: [
    { name: 'together', testMatch: '*.spec.ts', testIgnore: BY_THE_CLOCK },
    // one after the other; run by itself, it has the machine to itself
    { name: 'by the clock', testMatch: BY_THE_CLOCK, workers: 1 },
  ],
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
