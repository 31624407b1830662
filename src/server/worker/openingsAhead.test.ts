import { readdirSync, readFileSync } from 'node:fs'
import { afterAll, beforeAll, expect, it, vi } from 'vitest'
import { compile } from '../../acts'
import { demoShot } from '../../acts/testing/shots'
import { frameMark, World } from '../../engine'
import { openingName } from '../../hosts/frameKey'
import { unpackFrame } from '../../hosts/framePack'
import { nodeKernels } from '../../hosts/node/kernels'
import { WORLD_BYTES } from '../../machines/instantiate'
import type { Shot } from '../../shot'
import { openingBytes, readOpening } from '../openings'
import { createProject, createShot } from '../shots'
import { openTestServer, type TestServer } from '../testing/open'
import { OpeningsAhead } from './openingsAhead'

let s: TestServer
let project: string
beforeAll(async () => {
  s = await openTestServer()
  project = (await createProject(s.db, 'Quay')).id
})
afterAll(() => s.close())
const plain = (change: (s: Shot) => void): Shot => {
  const shot = demoShot()
  shot.objects = shot.objects.map((o) => ({ ...o, shape: o.shape.kind === 'mesh' ? { kind: 'plane', size: 1, endless: false } : o.shape }))
  change(shot)
  return shot
}
const all = async (ahead: OpeningsAhead) => {
  while (await ahead.goOn());
}

it('frames that shots open with are computed ahead, for this build, as a run computes them; what cannot be is left', async () => {
  const doc = plain((d) => {
    d.opens = 9
  })
  await createShot(s.db, project, doc)
  const lost = plain((d) => {
    d.objects[0].shape = { kind: 'mesh', asset: 'c'.repeat(64), unit: 1, up: 'y', poses: [], rate: 24, start: 0, speed: 1, after: 'hold' }
    d.assets.push({ hash: 'c'.repeat(64), name: 'lost bell.glb' })
  })
  await createShot(s.db, project, lost)
  await all(new OpeningsAhead(s.db, s.data, 'one build'))
  const name = await openingName(doc, 'one build')
  expect(name).toMatch(/-9$/)
  expect(openingBytes(s.data, await openingName(lost, 'one build'))).toBe(null)
  expect(openingBytes(s.data, await openingName(doc, 'another'))).toBe(null)
  const bytes = readOpening(s.data, name) as Uint8Array
  const frame = await unpackFrame(new Uint8Array(bytes).buffer, 9)
  const host = await nodeKernels({ threads: 2 })
  const world = new World(host, compile(doc, new Map()).plan, WORLD_BYTES)
  while (world.frame < 9) world.step()
  expect(frame && frameMark(frame)).toBe(frameMark(world.capture()))
  expect(frame?.stats).toEqual(world.capture().stats)
  host.team.dispose()
})
it('makes room for who wants to work at once, and begins again after that', async () => {
  await s.db.Shot.destroy({ where: {} })
  // Nobody waits for the end of it.
  const heavy = plain((d) => {
    d.warm = 3600
    d.substeps = 64
  })
  await createShot(s.db, project, heavy)
  const ahead = new OpeningsAhead(s.db, s.data, 'third build')
  const inside = ahead as unknown as { child: { pid: number; exitCode: number | null } | null; waiting: string[] }
  const began = async () => {
    const under = ahead.goOn()
    while (!inside.child) await new Promise((next) => setTimeout(next, 20))
    return { under, pid: inside.child.pid }
  }
  const first = await began()
  const left = inside.waiting.length
  // All of its threads, and before it knows what it is to do: `nice` becomes it at once.
  const threads = () =>
    readdirSync(`/proc/${first.pid}/task`).map((t) => readFileSync(`/proc/${first.pid}/task/${t}/stat`, 'utf8').split(') ')[1])
  await vi.waitFor(() => expect(threads().length).toBeGreaterThan(4))
  expect(new Set(threads().map((t) => t.split(' ')[16]))).toEqual(new Set(['19']))
  ahead.pause()
  expect(await first.under).toBe(true)
  expect(() => process.kill(first.pid, 0)).toThrow('ESRCH')
  expect(inside.waiting).toHaveLength(left)
  const second = await began()
  expect(second.pid).not.toBe(first.pid)
  ahead.pause()
  await second.under
})
