// Bundles what runs in Node.js: the command line, its kernel threads, the job worker and the database set-up; and the page on
// which frames are drawn for files, and the workers of the page of a shot.

import { existsSync, readdirSync, rmSync } from 'node:fs'
import { build } from 'esbuild'

/** What was built, when: frames that are kept are those of one build. */
const BUILD = { 'process.env.EMBER_BUILD': JSON.stringify(String(Date.now())) }
const node = {
  bundle: true,
  define: BUILD,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  // Bundled packages halve the start-up time. These stay outside: they look for files beside their own.
  external: ['mariadb', 'next', 'playwright-core', 'sequelize', 'umzug', 'write-file-atomic'],
  banner: { js: "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);" },
  logLevel: 'warning',
  outdir: 'dist',
  outExtension: { '.js': '.mjs' },
  splitting: true,
  chunkNames: 'part-[hash]',
}
const entries = {
  ember: 'src/hosts/cli/main.ts',
  helper: 'src/hosts/node/helper.ts',
  web: 'src/server/web/main.ts',
  worker: 'src/server/worker/main.ts',
  drawjob: 'src/server/worker/drawJob.ts',
  bakejob: 'src/server/worker/bakeJob.ts',
  openingjob: 'src/server/worker/openingJob.ts',
  setup: 'src/server/setup.ts',
  backup: 'src/server/backup/main.ts',
  campaign: 'src/server/campaign/main.ts',
}
for (const old of existsSync('dist') ? readdirSync('dist').filter((n) => n.startsWith('part-')) : []) rmSync(`dist/${old}`)
await build({ ...node, entryPoints: Object.fromEntries(Object.entries(entries).filter(([, path]) => existsSync(path))) })
const browser = { bundle: true, platform: 'browser', target: 'es2022', format: 'esm', logLevel: 'warning' }
await build({
  ...browser,
  entryPoints: { 'stage-page': 'src/stage/page.ts', 'kernel-worker': 'src/machines/kernel.worker.ts' },
  outdir: 'dist',
})
// Each whole in one file: what they load comes in one answer, and they begin while the page itself is still being read.
const page = {
  ...browser,
  outdir: 'public/workers',
  minify: true,
  // A reader of GLB files would ask for them in Node.js alone.
  external: ['node:*'],
  define: { ...BUILD, 'process.env.NODE_ENV': '"production"' },
}
await build({
  ...page,
  entryPoints: { early: 'src/studio/early.ts', stage: 'src/stage/stage.worker.ts', kernel: 'src/machines/kernel.worker.ts' },
})
// Only readers of files that few shots have (letters, drawings, GLB, EXR) lie in files of their own.
for (const old of readdirSync('public/workers').filter((n) => n.startsWith('part-'))) rmSync(`public/workers/${old}`)
await build({ ...page, entryPoints: { sim: 'src/hosts/browser/sim.worker.ts' }, splitting: true, chunkNames: 'part-[hash]' })
