// Formats the kernels as the formatter does everything else. AssemblyScript's decorators on functions are no TypeScript, so they pass as
// comments. With --check it changes nothing and fails where something would change.
import { spawnSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

const check = process.argv.includes('--check')
const folder = 'src/kernels'
let failed = false
// Made by kernelTables.mjs, for the compiler alone.
const MADE = ['layout.ts', 'dispatch.ts']
// All at once: the formatter takes longer to start than to format. Where other checks that run meanwhile do not look.
mkdirSync('dist', { recursive: true })
const beside = mkdtempSync(join('dist', 'kernels-'))
try {
  const names = readdirSync(folder).filter((n) => n.endsWith('.ts') && !MADE.includes(n))
  const before = new Map(names.map((name) => [name, readFileSync(join(folder, name), 'utf8')]))
  for (const [name, text] of before) writeFileSync(join(beside, name), text.replace(/^@(\w+) /gm, '/*@$1*/ '))
  const biome = ['node_modules/@biomejs/biome/bin/biome', 'format', '--write', '--vcs-enabled=false', beside]
  const r = spawnSync(process.execPath, biome, { encoding: 'utf8' })
  if (r.status !== 0) {
    process.stderr.write(r.stderr)
    failed = true
  }
  for (const [name, text] of before) {
    const path = join(folder, name)
    const after = readFileSync(join(beside, name), 'utf8').replace(/^\/\*@(\w+)\*\/ /gm, '@$1 ')
    if (after === text) continue
    if (check) {
      process.stderr.write(`${path} is not formatted; run: npm run format\n`)
      failed = true
    } else writeFileSync(path, after)
  }
} finally {
  rmSync(beside, { recursive: true, force: true })
}
process.exit(failed ? 1 : 0)
