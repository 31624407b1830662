import { describe, expect, it } from 'vitest'
import { defaultsOf, type SkyDoc, type Vec3 } from '../shot'
import { ambientOf, checkShot, marchScene, SKY_PARAMS, touchedFrom } from '.'
import { skyAbove } from './ambient'
import { quiet } from './testing/quiet'

const sky = (o: Partial<SkyDoc> = {}): SkyDoc => ({ ...(defaultsOf(SKY_PARAMS) as unknown as SkyDoc), ...o })

describe('the light of the surroundings', () => {
  it('of a sky is the irradiance of what is above, as adding it up over the half ball has it', () => {
    for (const haze of [0.1, 0.5, 1, 3]) {
      const s = sky({ haze, zenith: [0.1, 0.3, 0.9], horizon: [0.7, 0.5, 0.2] })
      const found = skyAbove(s)
      const sum = [0, 0, 0]
      const n = 20000
      for (let i = 0; i < n; i++) {
        const h = (((i + 0.5) / n) * Math.PI) / 2
        const share = Math.sin(h) ** haze
        // Rings at a height: 2π cos h dh of the ball, seen by sin h; over π.
        for (let k = 0; k < 3; k++)
          sum[k] += (s.horizon[k] + (s.zenith[k] - s.horizon[k]) * share) * 2 * Math.sin(h) * Math.cos(h) * (Math.PI / 2 / n)
      }
      found.forEach((v, k) => expect(v).toBeCloseTo(sum[k], 5))
    }
  })
  it('of a sky with curtains has what these give on the mean, more the higher they hang', () => {
    const dark = { zenith: [0, 0, 0] as Vec3, horizon: [0, 0, 0] as Vec3, curtainColour: [1, 0, 0] as Vec3, curtainTop: [0, 0, 1] as Vec3 }
    const given = (curtains: number, curtainHeight: number) => skyAbove(sky({ ...dark, curtains, curtainHeight }))
    expect(given(0, 20)).toEqual([0, 0, 0])
    expect(given(200, 16)).toEqual([0.046, 0, 0.0444])
    const lower = [1, 4, 6, 16, 20, 45, 80].map((h) => given(100, h)[0])
    lower.forEach((v, i) => expect(v).toBeGreaterThanOrEqual(lower[i - 1] ?? 0))
  })
  it('is its share of the sky, or the even light without one; gases see the same', () => {
    const s = quiet((d) => (d.surroundings = { colour: [0, 0, 0], light: [0.2, 0.4, 0.6] }))
    expect(ambientOf(s, 0)).toEqual({ above: [0.2, 0.4, 0.6], below: [0.2, 0.4, 0.6].map((x) => x * 0.35) })
    const clear = sky({ zenith: [0.5, 0.5, 0.5], horizon: [0.5, 0.5, 0.5], ground: [0.1, 0.1, 0.1], lights: 50 })
    const under = { ...s, surroundings: { ...s.surroundings, sky: clear } }
    expect(ambientOf(under, 0)).toEqual({ above: [0.25, 0.25, 0.25], below: [0.05, 0.05, 0.05] })
    expect(marchScene(under, 2, 0)).toMatchObject({ above: [0.5, 0.5, 0.5], below: [0.1, 0.1, 0.1] })
  })
  it('is checked as all else, and runs nothing again', () => {
    const s = quiet()
    const under = { ...structuredClone(s), surroundings: { ...s.surroundings, sky: sky() } }
    expect(checkShot(under).ok).toBe(true)
    expect(touchedFrom(s, under)).toBe(null)
    const bad = checkShot({ ...under, surroundings: { ...under.surroundings, sky: { ...sky(), haze: -1 } } })
    expect(bad.ok ? [] : bad.problems.map((p) => p.path)).toEqual(['surroundings.sky.haze'])
  })
})
