import { describe, expect, it } from 'vitest'
import { crossAt } from '../../acts'
import type { Shot } from '../../shot'
import { FrameRenderer } from './renderer'
import { loadShot } from './shot'
import { pixels, sharedBrowser } from './testing/pictures'

/** A fire of half a second with coarse voxels: what a gas does, it never does again. */
async function fire(cross: number): Promise<{ shot: Shot; renderer: FrameRenderer }> {
  const { shot, meshes } = await loadShot('demo/kiln-fire/shot.json')
  Object.assign(shot, { range: { first: 0, last: 11 }, loop: { cross }, systems: [], substeps: 1 })
  for (const g of shot.gases) Object.assign(g, { voxel: g.voxel * 5, detail: 1, steps: 1 })
  // Made ready for each renderer, it took longer than all frames.
  shot.lights = shot.lights.filter((l) => l.kind !== 'around')
  return { shot, renderer: await FrameRenderer.open(shot, meshes, 1, await sharedBrowser()) }
}
const drawn = async (r: FrameRenderer, frame: number) =>
  pixels((await r.render(frame, { width: 96, height: 54, transparent: false })).png).data
const far = (a: Uint8Array, b: Uint8Array) => a.reduce((sum, v, i) => sum + Math.abs(v - b[i]), 0) / a.length

describe('the end of a loop', () => {
  it('goes over into its beginning where nothing comes around by itself, the same however one came to a frame', async () => {
    const [hard, soft] = [await fire(0), await fire(0.3)]
    const [begun, hardEnd, softEnd] = [await drawn(hard.renderer, 0), await drawn(hard.renderer, 11), await drawn(soft.renderer, 11)]
    const usual = far(begun, await drawn(hard.renderer, 1))
    expect(far(begun, hardEnd)).toBeGreaterThan(1.5 * usual)
    expect(far(begun, softEnd)).toBeLessThan(0.75 * far(begun, hardEnd))
    expect(await drawn(soft.renderer, 0)).toEqual(begun)
    // The first half is what it is without.
    expect(await drawn(soft.renderer, 4)).toEqual(await drawn(hard.renderer, 4))
    await drawn(soft.renderer, 9)
    expect(await drawn(soft.renderer, 11)).toEqual(softEnd)
    for (const { renderer } of [hard, soft]) await renderer.dispose()
  })
  it('passes of its light add up: what glows and what it lights, and each lamp', async () => {
    const { renderer } = await fire(0)
    const [width, height] = [96, 54]
    const { got } = await renderer.outputs(
      4,
      { width, height, transparent: false },
      { screen: false, deep: false, light: false, passes: ['lights', 'emission', 'unfinished'] },
    )
    const floats = (name: string) => {
      const b = got.get(name) as Uint8Array
      return new Float32Array(b.buffer, b.byteOffset, b.byteLength / 4)
    }
    const [all, shining, emission] = ['unfinished', 'shining', 'emission'].map(floats)
    const lights = [...got.keys()].filter((k) => k.startsWith('light ')).map(floats)
    let [most, brightest] = [0, 0]
    all.forEach((v, i) => {
      if (i % 4 === 3) return
      const sum = shining[i] + lights.reduce((s, l) => s + l[i], 0)
      most = Math.max(most, Math.abs(sum - v) / Math.max(1, v))
      brightest = Math.max(brightest, emission[i])
      expect(emission[i]).toBeLessThanOrEqual(shining[i] + 1e-3)
    })
    expect(most).toBeLessThan(1e-3)
    expect(brightest).toBeGreaterThan(0.5)
    await renderer.dispose()
  })
  it('is as long as it says, and sets in and ends gently', async () => {
    const { shot, renderer } = await fire(0.3)
    const parts = Array.from({ length: 12 }, (_, f) => crossAt(shot, f)?.part ?? 0)
    expect(parts.filter((p) => p > 0)).toHaveLength(Math.round(0.3 * 24))
    expect(crossAt(shot, 11)?.frame).toBe(-1)
    expect(parts[11]).toBeGreaterThan(0.9)
    for (let f = 1; f < 12; f++) expect(parts[f]).toBeGreaterThanOrEqual(parts[f - 1])
    await renderer.dispose()
  })
})
