import { spawn } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, it } from 'vitest'
import { sweepDrawFolders } from './drawing'

it('folders of workers that are gone are swept with what is in them; those of one that is alive and of other data folders stay', async () => {
  const child = spawn(process.execPath, ['-e', ''])
  await new Promise((done) => child.once('exit', done))
  const tag = `test${process.pid}`
  const make = (owner: string) => mkdtempSync(join(tmpdir(), `fox-ember-draw-${owner}`))
  const gone = make(`${tag}-${child.pid}-`)
  mkdirSync(join(gone, 'profile'))
  writeFileSync(join(gone, 'profile', 'lock'), 'x')
  // Process 1 is always there; those without a process come from earlier versions.
  const stay = [make(`${tag}-1-`), make(`other${tag}-${child.pid}-`)]
  const unnamed = make(`${tag}-x`)
  try {
    await sweepDrawFolders(tag)
    expect([gone, unnamed].map((f) => existsSync(f))).toEqual([false, false])
    expect(stay.map((f) => existsSync(f))).toEqual([true, true])
  } finally {
    for (const f of [gone, unnamed, ...stay]) rmSync(f, { recursive: true, force: true })
  }
})
