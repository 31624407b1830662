// Formats the kernels as the formatter does everything else. AssemblyScript's decorators on functions are no TypeScript, so they pass as
// comments. With --check it changes nothing and fails where something would change.
import { spawnSync } from 'node:child_process'
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

const check = process.argv.includes('--check')
const folder = 'src/kernels'
let failed = false
// Made by kernelTables.mjs, for the compiler alone.
const MADE = ['layout.ts', 'dispatch.ts']
for (const name of readdirSync(folder).filter((n) => n.endsWith('.ts') && !MADE.includes(n))) {
  const path = join(folder, name)
  const before = readFileSync(path, 'utf8')
  const hidden = before.replace(/^@(\w+) /gm, '/*@$1*/ ')
  const r = spawnSync(process.execPath, ['node_modules/@biomejs/biome/bin/biome', 'format', `--stdin-file-path=scripts/${name}`], {
    input: hidden,
    encoding: 'utf8',
  })
  if (r.status !== 0) {
    process.stderr.write(`${path}: ${r.stderr}`)
    failed = true
    continue
  }
  const after = r.stdout.replace(/^\/\*@(\w+)\*\/ /gm, '@$1 ')
  if (after === before) continue
  if (check) {
    process.stderr.write(`${path} is not formatted; run: npm run format\n`)
    failed = true
  } else writeFileSync(path, after)
}
process.exit(failed ? 1 : 0)
