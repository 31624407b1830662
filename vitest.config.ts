import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

/** Tests that mock modules: each in a process of its own. */
const MOCKING = ['finding', 'references', 'saver'].map((name) => `src/studio/${name}.test.ts`)
const root = fileURLToPath(new URL('.', import.meta.url))
process.env.EMBER_ROOT ??= root.replace(/\/$/, '')
process.env.EMBER_HELPER ??= `${root}dist/helper.mjs`

export default defineConfig({
  resolve: { alias: { '@': `${root}src` } },
  test: {
    setupFiles: ['vitest.setup.ts'],
    // What one project has made of a module the others take too.
    experimental: { fsModuleCache: true },
    // One more than the cores of a small machine: the server's tests wait for what they started (two took 309 and 311 s, three 286; measured.md).
    maxWorkers: 3,
    testTimeout: 240000,
    hookTimeout: 240000,
    projects: [
      // Most tests share a process from file to file: what they import is read once.
      {
        extends: true,
        test: {
          name: 'unit',
          include: ['src/**/*.test.ts', 'scripts/**/*.test.ts'],
          exclude: ['src/server/**', ...MOCKING],
          pool: 'forks',
          isolate: false,
        },
      },
      { extends: true, test: { name: 'page', include: MOCKING, pool: 'forks' } },
      // The server's tests share one real MariaDB, started by the set-up; each file has a database of its own in it.
      {
        extends: true,
        test: {
          name: 'server',
          include: ['src/server/**/*.test.ts'],
          pool: 'forks',
          isolate: false,
          globalSetup: ['src/server/testing/database.ts'],
        },
      },
    ],
  },
})
