import childProcess, { spawn } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { syncBuiltinESMExports } from 'node:module'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, it } from 'vitest'
import { demoShot } from '../../acts/testing/shots'
import type { RenderSettings } from '../jobs'
import { startDrawing, sweepDrawFolders } from './drawing'

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

it('a renderer that is killed before it hears its order has crashed, and says by what', async () => {
  const real = childProcess.fork
  // On a busy machine others run between the start of a process and the first word to it.
  childProcess.fork = ((...o: Parameters<typeof real>) => {
    const child = real(...o)
    child.kill('SIGKILL')
    Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 300)
    return child
  }) as typeof real
  syncBuiltinESMExports()
  try {
    const drawing = startDrawing(
      { shot: demoShot(), settings: {} as RenderSettings, data: tmpdir(), folder: tmpdir(), frames: [0] },
      { tag: `test${process.pid}`, frameMs: 60_000, frame: async () => {} },
    )
    expect(await drawing.over).toEqual({ how: 'crashed', code: null, signal: 'SIGKILL' })
  } finally {
    childProcess.fork = real
    syncBuiltinESMExports()
  }
})
