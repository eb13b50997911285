import { defineConfig } from '@playwright/test'

const FULL = 4310
const EMPTY = 4311
const serve = (port: number, empty: boolean) => ({
  command: 'node .output/server/index.mjs',
  url: `http://localhost:${port}/api/formats`,
  env: { PORT: String(port), HOST: 'localhost', NUXT_EMPTY: String(empty) },
  reuseExistingServer: false
})

export default defineConfig({
  testDir: 'tests/e2e',
  timeout: 180_000,
  expect: { timeout: 45_000 },
  workers: 1,
  reporter: 'list',
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync'
      ]
    }
  },
  projects: [
    { name: 'demo', testMatch: /demo\.spec\.ts/, use: { baseURL: `http://localhost:${FULL}` } },
    { name: 'empty', testIgnore: /demo\.spec\.ts/, use: { baseURL: `http://localhost:${EMPTY}` } }
  ],
  webServer: [serve(FULL, false), serve(EMPTY, true)]
})
