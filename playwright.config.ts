import { defineConfig } from '@playwright/test'
import { CHROMIUM_FLAGS, chromiumPath } from './src/hosts/node/chromium'

export default defineConfig({
  testDir: 'e2e',
  // They share a server. While one waits for a page, another draws; more than two only take each other's cores.
  workers: 3,
  // Generous: on a machine that does other work meanwhile a journey takes three times as long.
  timeout: 300000,
  expect: { timeout: 40000 },
  retries: 0,
  reporter: [['list'], ['json', { outputFile: process.env.EMBER_E2E_REPORT ?? 'test-results/report.json' }]],
  use: {
    baseURL: process.env.EMBER_URL ?? 'http://127.0.0.1:4600',
    // Lower than the windows of artists: without a GPU what is drawn in the View is most of the time that journeys take.
    viewport: { width: 1180, height: 600 },
    // Without a GPU the page itself is painted, and put together, quicker by plain code than through software GL.
    launchOptions: {
      executablePath: chromiumPath(),
      args: [...CHROMIUM_FLAGS, '--disable-gpu-rasterization', '--disable-gpu-compositing'],
    },
    trace: 'off',
  },
})
