import childProcess, { spawn } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { syncBuiltinESMExports } from 'node:module'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { demoShot } from '../../acts/testing/shots'
import type { RenderSettings } from '../jobs'
import { childrenOf } from '../testing/children'
import { type DrawEnd, endWaiting, startDrawing, sweepDrawFolders } from './drawing'

afterAll(endWaiting)

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

it('a renderer goes on with the next job, and draws it as another would; one that failed or was ended does not', async () => {
  const tag = `test${process.pid}-waits`
  const folder = mkdtempSync(join(tmpdir(), 'fox-ember-drawn-'))
  mkdirSync(join(folder, 'frames'))
  // Finishes and what is seen are tested elsewhere: a renderer that draws little starts sooner.
  const shot = (count: number, colour: number) => {
    const doc = demoShot()
    doc.systems[0].birth[0].count = count
    doc.surroundings.colour = [colour, 0.1, 0.1]
    for (const o of doc.objects) {
      o.seen = false
      if (o.shape.kind === 'mesh') o.shape = { kind: 'box', width: 1, height: 1, depth: 1 }
    }
    doc.assets = []
    for (const l of doc.layers) l.finish = []
    return doc
  }
  const settings = { ...{ first: 0, last: 9, width: 96, height: 54 }, transparent: false, formats: ['png'] } as unknown as RenderSettings
  const draw = async (doc: ReturnType<typeof demoShot>, frames: number[], ends = false): Promise<[DrawEnd, Buffer[]]> => {
    const order = { shot: doc, settings, data: folder, folder, frames }
    const drawing = startDrawing(order, { tag, frameMs: 60_000, frame: async () => void (ends && drawing.end()) })
    const over = await drawing.over
    const file = (f: number) => join(folder, 'frames', `${String(f).padStart(4, '0')}.png`)
    return [over, over.how === 'done' ? frames.map((f) => readFileSync(file(f))) : []]
  }
  const renderers = () => childrenOf(process.pid, 'drawjob.mjs')
  const folders = () => readdirSync(tmpdir()).filter((name) => name.startsWith(`fox-ember-draw-${tag}-`))
  try {
    const [done, first] = await draw(shot(300, 0.1), [2, 6])
    expect(done).toEqual({ how: 'done' })
    const one = renderers()
    expect([one.length, folders().length]).toEqual([1, 1])
    // Another shot, and the first one again.
    const [, other] = await draw(shot(40, 0.6), [6])
    expect(other[0].equals(first[1])).toBe(false)
    const [, again] = await draw(shot(300, 0.1), [2, 6])
    expect(again.map((bytes, i) => bytes.equals(first[i]))).toEqual([true, true])
    expect(renderers()).toEqual(one)
    // One that is ended takes its place with it.
    expect((await draw(shot(300, 0.1), [2, 6], true))[0].how).toBe('ended')
    expect((await draw(shot(40, 0.6), [6]))[1][0].equals(other[0])).toBe(true)
    const two = renderers()
    expect(two).not.toEqual(one)
    // A shot without one of its files fails; who comes next gets another renderer.
    const broken = shot(40, 0.6)
    broken.objects[0].shape = {
      kind: 'mesh',
      asset: 'c'.repeat(64),
      unit: 1,
      up: 'y',
      poses: [],
      rate: 24,
      start: 0,
      speed: 1,
      after: 'hold',
    }
    broken.assets.push({ hash: 'c'.repeat(64), name: 'lost bell.glb' })
    expect((await draw(broken, [6]))[0]).toMatchObject({ how: 'failed', message: expect.stringContaining('lost bell.glb') })
    expect(renderers()).toEqual([])
    expect((await draw(shot(40, 0.6), [6]))[1][0].equals(other[0])).toBe(true)
    await endWaiting()
    expect([renderers(), folders()]).toEqual([[], []])
  } finally {
    await endWaiting()
    rmSync(folder, { recursive: true, force: true })
  }
})
