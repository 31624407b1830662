import { spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { cpSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, truncateSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
// @ts-expect-error: a plain script without types
import { build } from '../../../scripts/prepare.mjs'
import { compile } from '../../acts'
import { frameMark, World } from '../../engine'
import { WORLD_BYTES } from '../../machines/instantiate'
import { partOfFrame } from '../partialFrame'
import { bakedFile, bakedFrame } from './bakedFrames'
import { nodeKernels } from './kernels'
import { loadShot } from './shot'

const folder = mkdtempSync(join(tmpdir(), 'ember-bake-'))
beforeAll(() => build(() => {}, { web: false }))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

/** A small fire with embers that bounce, and a growing thing: every kind of state that there is. */
function small(): string {
  const shot = JSON.parse(readFileSync('demo/kiln-fire/shot.json', 'utf8'))
  for (const g of shot.gases) Object.assign(g, { voxel: g.voxel * 6, detail: 2, detailIn: 'renders' })
  Object.assign(shot, { warm: 0.1 })
  shot.range.last = 18
  shot.opens = null
  const path = join(folder, 'small.json')
  writeFileSync(path, JSON.stringify(shot))
  return path
}
const args = (shot: string, out: string, more: string[] = []) => [
  ...['dist/ember.mjs', 'bake', shot, '--assets', 'demo/kiln-fire/assets', '--out', out, '--threads', '1', '--state-every', '0.1', ...more],
]
/** Bakes, and is killed some milliseconds after so many frames; null: it may end. */
const baking = (shot: string, out: string, kill: { frames: number; ms: number } | null, more: string[] = []) =>
  new Promise<{ code: number | null; err: string }>((done) => {
    const child = spawn(process.execPath, args(shot, out, more), { env: { ...process.env, EMBER_ROOT: process.cwd() } })
    let err = ''
    let lines = 0
    const killed = () => kill && lines >= kill.frames && setTimeout(() => child.kill('SIGKILL'), kill.ms)
    child.stdout.on('data', (d) => {
      lines += String(d).split('\n').length - 1
      killed()
    })
    child.stderr.on('data', (d) => {
      err += d
    })
    killed()
    child.once('exit', (code) => done({ code, err }))
  })
const hashes = (out: string) =>
  Object.fromEntries(
    readdirSync(join(out, 'frames'))
      .filter((n) => n.endsWith('.bake'))
      .sort()
      .map((n) => [
        n,
        createHash('sha256')
          .update(readFileSync(join(out, 'frames', n)))
          .digest('hex'),
      ]),
  )

describe('a bake', () => {
  it('holds what a run computes, frame by frame', async () => {
    const path = small()
    const out = join(folder, 'whole')
    expect(await baking(path, out, null)).toEqual({ code: 0, err: '' })
    expect(Object.keys(hashes(out))).toHaveLength(19)
    // Coarse as it is, the gas spreads over its frames: a kill finds it at every size.
    const bytes = [0, 9, 18].map((f) => statSync(join(out, bakedFile(f))).size)
    expect(bytes[1]).toBeGreaterThan(1.5 * bytes[0])
    expect(bytes[2]).toBeGreaterThan(3 * bytes[0])
    const { shot, meshes } = await loadShot(path, 'demo/kiln-fire/assets')
    const host = await nodeKernels({ threads: 2 })
    const world = new World(host, compile(shot, meshes).plan, WORLD_BYTES)
    try {
      for (const f of [0, 9, 18]) {
        while (world.frame < f) world.step()
        const frame = await bakedFrame(out, f)
        expect(frame && frameMark(frame)).toBe(frameMark(world.capture()))
      }
    } finally {
      world.dispose()
      host.team.dispose()
    }
  })
  it('of some elements holds those, and says which go along with them', async () => {
    const path = small()
    const out = join(folder, 'embers')
    expect(await baking(path, out, null, ['--elements', 'embers'])).toEqual({ code: 0, err: '' })
    const [whole, apart] = await Promise.all([bakedFrame(join(folder, 'whole'), 18), bakedFrame(out, 18)])
    if (!whole || !apart) throw new Error('no frame')
    expect(apart.parts.map((p) => p.element)).toEqual(['embers'])
    expect(frameMark(apart)).toBe(frameMark(partOfFrame(whole, ['embers'])))
    expect((await baking(path, join(folder, 'fire'), null, ['--elements', 'Fire', '--frames', '0-1'])).err).toMatch(/Embers with it/)
    expect((await baking(path, out, null)).err).toMatch(/holds a bake of other elements/)
    expect((await baking(path, out, null, ['--elements', 'Smoke'])).err).toMatch(/“Smoke” is none of Embers, Fire/)
  })
  it('goes on after being killed at any moment, twenty times, to the same bytes', async () => {
    const path = small()
    const whole = hashes(join(folder, 'whole'))
    const out = join(folder, 'killed')
    let random = 99
    const next = () => (random = (Math.imul(random, 1103515245) + 12345) >>> 0) / 2 ** 32
    let kills = 0
    let resumed = 0
    while (kills < 20) {
      const { code } = await baking(
        path,
        out,
        next() < 0.2 ? { frames: 0, ms: next() * 900 } : { frames: 1 + Math.floor(next() * 4), ms: next() * 50 },
      )
      // Done: a frame and what came after it are taken away again.
      if (code !== null) {
        for (const n of readdirSync(join(out, 'frames')).slice(8)) rmSync(join(out, 'frames', n))
        continue
      }
      kills++
      resumed += existsSync(join(out, 'states')) && readdirSync(join(out, 'states')).length > 0 ? 1 : 0
      // What a stop of the machine may leave: a state that is cut off.
      const states = existsSync(join(out, 'states')) ? readdirSync(join(out, 'states')).sort() : []
      const last = states[states.length - 1]
      if (last && kills % 7 === 3) truncateSync(join(out, 'states', last), 1000)
      if (kills % 5 === 4 && existsSync(join(out, 'frames'))) {
        const frames = readdirSync(join(out, 'frames')).sort()
        if (frames.length > 3) rmSync(join(out, 'frames', frames[frames.length - 2]))
      }
    }
    expect((await baking(path, out, null)).code).toBe(0)
    expect(resumed).toBeGreaterThan(5)
    expect(hashes(out)).toEqual(whole)
    expect(readdirSync(join(out, 'frames')).every((n) => n.endsWith('.bake'))).toBe(true)
  })
  it('refuses a folder of another shot, and says from where on it differs', async () => {
    const path = small()
    const other = JSON.parse(readFileSync(path, 'utf8'))
    other.gases[0].voxel *= 1.5
    const changed = join(folder, 'changed.json')
    writeFileSync(changed, JSON.stringify(other))
    const out = join(folder, 'mixed')
    cpSync(join(folder, 'whole'), out, { recursive: true })
    const r = await baking(changed, out, null)
    expect(r.code).toBe(1)
    expect(r.err).toMatch(/holds a bake of a shot that differs from frame -?\d+ on/)
    // A look is none of its business.
    const look = JSON.parse(readFileSync(path, 'utf8'))
    look.gases[0].look = look.gases[0].look.slice(0, 1)
    look.lights[0].strength *= 2
    writeFileSync(changed, JSON.stringify(look))
    expect((await baking(changed, out, null)).code).toBe(0)
  })
})
