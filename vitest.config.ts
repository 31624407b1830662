import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

const root = fileURLToPath(new URL('.', import.meta.url))
process.env.EMBER_ROOT ??= root.replace(/\/$/, '')
process.env.EMBER_HELPER ??= `${root}dist/helper.mjs`

export default defineConfig({
  resolve: { alias: { '@': `${root}src` } },
  test: {
    maxWorkers: 2,
    testTimeout: 240000,
    hookTimeout: 240000,
    projects: [
      // Most tests share a process from file to file: what they import is read once.
      {
        extends: true,
        test: {
          name: 'unit',
          include: ['src/**/*.test.ts', 'scripts/**/*.test.ts'],
          exclude: ['src/server/**', 'src/studio/**'],
          pool: 'forks',
          isolate: false,
        },
      },
      // The page's put other things in place of modules.
      { extends: true, test: { name: 'page', include: ['src/studio/**/*.test.ts'], pool: 'forks' } },
      // The server's tests share one real MariaDB, started by the set-up; each file has a database of its own in it.
      {
        extends: true,
        test: {
          name: 'server',
          include: ['src/server/**/*.test.ts'],
          pool: 'forks',
          globalSetup: ['src/server/testing/database.ts'],
        },
      },
    ],
  },
})
