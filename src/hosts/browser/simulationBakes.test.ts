import { describe, expect, it } from 'vitest'
import { compile, neededBy } from '../../acts'
import { type Frame, frameMark, type Run, World } from '../../engine'
import { given, points } from '../../engine/testing/plans'
import { packFrames } from '../framePack'
import { nodeKernels } from '../node/kernels'
import { loadShot } from '../node/shot'
import { partOfFrame } from '../partialFrame'
import { edited, exact, hosts, open, small } from './testing/open'

describe('the simulation of what was baked', () => {
  it('leaves out what was baked apart, shows the whole, and computes all when that is lost', async () => {
    const shot = edited(small(), (s) => {
      const second = JSON.parse(JSON.stringify(s.systems[0]).replaceAll('"id":"', '"id":"second-'))
      s.systems.push({ ...second, name: 'Second', seed: 5 })
    })
    const id = shot.systems[1].id
    const { meshes } = await loadShot('demo/anvil-strike/shot.json')
    const host = await nodeKernels()
    hosts.push(host)
    const world = new World(host, compile(neededBy(shot, [id]), meshes).plan, 1 << 28)
    const baked: ArrayBuffer[] = []
    for (let f = 0; f <= 40; f++) {
      baked.push(await new Blob(packFrames([partOfFrame(world.capture(), [id])]) as BlobPart[]).arrayBuffer())
      if (f < 40) world.step()
    }
    world.dispose()
    let lost = false
    const t = await open({ bakes: { doc: async () => shot, frame: async (_, f) => (lost ? null : baked[f]) } })
    t.sim.setBakes([{ id: 'apart', elements: [id], frames: baked.map((_, f) => f), old: false }])
    t.sim.setShot(shot)
    t.sim.show(30)
    await t.rest()
    expect(t.status()?.apart).toEqual(['apart'])
    expect(t.status()?.beads).toBe('r'.repeat(41))
    expect(frameMark(given(t.frames().at(-1)).frame)).toBe(await exact(shot, 30))
    expect((t.sim as unknown as { run: Run }).run.world.columnsOf(id)?.count ?? 0).toBe(0)
    t.sim.ask(7, { what: 'field', system: id, frame: 30, places: new Float32Array(3) })
    await t.until(() => t.toPage.some((m) => m.type === 'settled'), 'answered')
    expect(JSON.stringify(t.toPage.find((m) => m.type === 'settled'))).toMatch(/Second comes from a bake/)
    const turn = async (life: number) => {
      const next = edited(shot, (s) => void (s.systems[0].life = { value: life, vary: 0 }))
      t.sim.setShot(next, life)
      await t.until(() => t.toPage.some((m) => m.type === 'taken' && m.change === life), 'taken')
      await t.until(() => t.status()?.beads === 'r'.repeat(41), 'at rest')
      expect(frameMark(given(t.frames().at(-1)).frame)).toBe(await exact(next, 30))
    }
    await turn(2)
    expect(t.status()?.apart).toEqual(['apart'])
    lost = true
    await turn(3)
    expect(t.status()?.apart).toEqual([])
  })
  it('opens with a frame of a bake alone: those after it come when it is drawn', async () => {
    const { meshes } = await loadShot('demo/anvil-strike/shot.json')
    const host = await nodeKernels()
    hosts.push(host)
    const shot = edited(small(), (s) => void (s.range.last = 12))
    const world = new World(host, compile(shot, meshes).plan, 1 << 28)
    while (world.frame < 5) world.step()
    const bytes = await new Blob(packFrames([world.capture()]) as BlobPart[]).arrayBuffer()
    world.dispose()
    const asked: number[] = []
    const read: string[] = []
    const t = await open({
      bakes: {
        doc: async () => shot,
        async frame(_, f) {
          asked.push(f)
          return f === 5 ? bytes : null
        },
      },
      openings: {
        fromMs: 0,
        async read(name) {
          read.push(name)
          return null
        },
        keep: async () => {},
      },
    })
    const sharp = t.sim.sharp.bind(t.sim)
    t.sim.sharp = () => {}
    t.sim.setBakes([{ id: 'whole', elements: [], frames: [5, 6, 7], old: false }])
    t.sim.setShot(shot)
    t.sim.show(5)
    await t.until(() => t.frames().length > 0, 'shown')
    const first = given(t.frames()[0])
    expect(frameMark(first.frame)).toBe(await exact(shot, 5))
    expect([asked, read]).toEqual([[5], []])
    sharp(first.serial)
    await t.rest()
    expect(asked.length).toBeGreaterThan(1)
  })
  it('hands over frames of a bake beside those of the shot, also when that has changed since', async () => {
    const before = edited(small(), (s) => void (s.range.last = 12))
    const { meshes } = await loadShot('demo/anvil-strike/shot.json')
    const host = await nodeKernels()
    hosts.push(host)
    const world = new World(host, compile(before, meshes).plan, 1 << 28)
    const baked: ArrayBuffer[] = []
    for (let f = 0; f < 9; f++) {
      baked.push(await new Blob(packFrames([world.capture()]) as BlobPart[]).arrayBuffer())
      world.step()
    }
    world.dispose()
    const t = await open({ bakes: { doc: async () => before, frame: async (_, f) => baked[f] ?? null } })
    const now = edited(before, (s) => void (s.systems[0].birth[0].count = 150))
    const told = () => t.toPage.findLast((m) => m.type === 'beside')
    t.sim.setBakes([{ id: 'whole', elements: [], frames: baked.map((_, f) => f), old: false }])
    t.sim.setShot(now)
    t.sim.showBeside('whole')
    t.sim.show(8)
    await t.until(() => told()?.frame === 8, 'beside')
    const beside = t.toStage.findLast((m) => m.type === 'beside')
    expect(frameMark(beside?.frame as Frame)).toBe(await exact(before, 8))
    await t.rest()
    expect(frameMark(given(t.frames().at(-1)).frame)).toBe(await exact(now, 8))
    const [then, later] = [beside?.frame, given(t.frames().at(-1)).frame].map((f) => points(f as Frame).count)
    expect(then).not.toBe(later)
    expect(told()).toMatchObject({ bake: 'whole', alive: { bake: then, now: later } })
    t.sim.show(10)
    await t.until(() => told()?.frame === 10, 'past its end')
    expect(told()?.alive).toBeNull()
    expect(t.toStage.findLast((m) => m.type === 'beside')?.frame).toBeNull()
    t.sim.showBeside(null)
    const many = t.toPage.filter((m) => m.type === 'beside').length
    t.sim.show(3)
    await t.until(() => t.frames().at(-1)?.frame.frame === 3, 'on')
    expect(t.toPage.filter((m) => m.type === 'beside')).toHaveLength(many)
  })
})
