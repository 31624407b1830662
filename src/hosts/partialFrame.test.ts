import { describe, expect, it } from 'vitest'
import { bakedTogether, compile, neededBy, touchedFrom, withoutBaked } from '../acts'
import { gasDoc } from '../acts/testing/gas'
import { act, quiet } from '../acts/testing/quiet'
import { demoShot } from '../acts/testing/shots'
import { type Frame, frameMark, World } from '../engine'
import { WORLD_BYTES } from '../machines/instantiate'
import type { Shot } from '../shot'
import { nodeKernels } from './node/kernels'
import { loadShot } from './node/shot'
import { partOfFrame, wholeFrame } from './partialFrame'

const demo = async (name: string, change: (s: Shot) => void = () => {}) => {
  const { shot, meshes } = await loadShot(`demo/${name}/shot.json`, `demo/${name}/assets`)
  const copy = structuredClone(shot)
  change(copy)
  return { shot: copy, meshes }
}
async function framesOf({ shot, meshes }: Awaited<ReturnType<typeof demo>>, frames: number): Promise<Frame[]> {
  const host = await nodeKernels({ threads: 1 })
  const world = new World(host, compile(shot, meshes).plan, WORLD_BYTES)
  const out: Frame[] = []
  while (out.length < frames) {
    world.step()
    out.push(world.capture())
  }
  world.dispose()
  host.team.dispose()
  return out
}
const coarse = (s: Shot) => {
  for (const g of s.gases) Object.assign(g, { voxel: g.voxel * 3.2, detail: 1 })
  s.warm = 0
}

describe('what is baked of a shot', () => {
  it.each([
    ['kiln-fire', ['fire'], 8],
    ['powder-barge', ['blast'], 6],
    ['quay-sparklers', ['drops'], 6],
    ['umbrella-rain', ['splashes'], 6],
    ['curtain', ['motes'], 6],
    // With trails, which those that are muted have not.
    ['quay-fireworks', ['gold'], 14],
  ] as const)('and the rest computed without it are the whole: %s', async (name, asked, frames) => {
    const d = await demo(name, coarse)
    const ids = bakedTogether(d.shot, asked) as string[]
    expect(ids).toEqual(expect.arrayContaining([...asked]))
    const whole = await framesOf(d, frames)
    const rest = await framesOf({ ...d, shot: withoutBaked(d.shot, ids) }, frames)
    const baked = await framesOf({ ...d, shot: neededBy(d.shot, ids) }, frames)
    expect(whole.some((f) => f.parts.length > 0)).toBe(true)
    rest.forEach((f, i) => {
      const both = wholeFrame(f, partOfFrame(baked[i], ids), ids)
      expect(frameMark(both)).toBe(frameMark(whole[i]))
      expect(both.stats).toEqual(whole[i].stats)
    })
  })
  it('takes along who depends on it, and whom it hands particles to', async () => {
    const rain = (await demo('umbrella-rain')).shot
    expect(bakedTogether(rain, ['splashes'])).toEqual(['rain', 'splashes'])
    expect(bakedTogether(rain, ['rain'])).toEqual(['rain', 'splashes'])
    const fire = (await demo('kiln-fire')).shot
    // Embers are carried by the fire, not the other way round.
    expect(bakedTogether(fire, ['embers'])).toEqual(['embers'])
    expect(bakedTogether(fire, ['fire'])).toEqual(['embers', 'fire'])
    const foils = (await demo('paper-leaves')).shot
    expect(bakedTogether(foils, ['foil'])).toEqual(['foil'])
  })
  it('is not to be had apart where an object depends on it', () => {
    const s = quiet((x) => {
      x.objects = demoShot()
        .objects.slice(0, 1)
        .map((o) => ({ ...o, offspring: [act('growth', { system: x.systems[0].id })] }))
    })
    expect(bakedTogether(s, [s.systems[0].id])).toBeNull()
  })
  it('is not touched by another that meets the same objects', async () => {
    const { shot } = await demo('anvil-strike', (s) => {
      const second = JSON.parse(JSON.stringify(s.systems[0]).replaceAll('"id":"', '"id":"second-'))
      s.systems.push({ ...second, name: 'Second' })
    })
    const id = shot.systems[1].id
    expect(bakedTogether(shot, [id])).toEqual([id])
    const changed = structuredClone(shot)
    changed.systems[0].life = { value: 0.2, vary: 0 }
    expect(touchedFrom(shot, changed)).not.toBeNull()
    expect(touchedFrom(neededBy(shot, [id]), neededBy(changed, [id]))).toBeNull()
  })
  it('is not to be had apart where a force takes it to objects that are thrown; what throws them is needed', () => {
    const s = quiet((x) => {
      const [stone] = demoShot().objects
      x.objects = [{ ...stone, body: { at: 0 } as never }]
      x.gases = [gasDoc({ id: 'air' })]
      const carries = act('gasCarry', { gas: 'air' })
      x.forces = [{ id: 'f', name: 'f', seed: 1, reaches: [stone.id], shares: [], act: carries }]
    })
    expect(bakedTogether(s, ['air'])).toBeNull()
    const system = s.systems[0].id
    expect(bakedTogether(s, [system])).toEqual([system])
    const needs = neededBy(s, [system])
    expect([needs.forces.map((f) => f.id), needs.gases.map((g) => g.id)]).toEqual([['f'], ['air']])
  })
  it('is touched by what it needs alone', async () => {
    const fire = (await demo('kiln-fire')).shot
    const changed = structuredClone(fire)
    changed.systems[0].life = { value: 0.5, vary: 0 }
    expect(touchedFrom(fire, changed)).not.toBeNull()
    expect(touchedFrom(neededBy(fire, ['fire']), neededBy(changed, ['fire']))).toBeNull()
    const hotter = structuredClone(fire)
    hotter.gases[0].voxel *= 2
    expect(touchedFrom(neededBy(fire, ['fire']), neededBy(hotter, ['fire']))).not.toBeNull()
    // What carries the embers counts for them.
    expect(touchedFrom(neededBy(fire, ['embers']), neededBy(hotter, ['embers']))).not.toBeNull()
  })
})
