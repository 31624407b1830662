import { describe, expect, it } from 'vitest'
import { SKY_PARAMS } from '../acts'
import { demoShot } from '../acts/testing/shots'
import { defaultsOf, type Shot, type SkyDoc } from '../shot'
import { withSameParts } from './sameParts'

const base = (): Shot => {
  const s = demoShot()
  s.surroundings.sky = defaultsOf(SKY_PARAMS) as unknown as SkyDoc
  return s
}
/** As it comes through a port: equal, and nothing of it the same. */
const edited = (s: Shot, change: (d: Shot) => void): Shot => {
  const copy = structuredClone(s)
  change(copy)
  return copy
}

describe('the next state of a shot', () => {
  it('has the very objects and the very sky of the one before while these are equal, and the change', () => {
    const s = base()
    const next = withSameParts(
      s,
      edited(s, (d) => (d.seed = 99)),
    )
    expect(next.objects).toBe(s.objects)
    expect(next.surroundings.sky).toBe(s.surroundings.sky)
    expect(next.seed).toBe(99)
    expect(withSameParts(null, s)).toBe(s)
  })
  it('has others where they were edited', () => {
    const s = base()
    const moved = withSameParts(
      s,
      edited(s, (d) => (d.objects[0].place = [1, 2, 3])),
    )
    expect(moved.objects).not.toBe(s.objects)
    expect(moved.objects[0].place).toEqual([1, 2, 3])
    expect(moved.surroundings.sky).toBe(s.surroundings.sky)
    const clear = withSameParts(
      s,
      edited(s, (d) => (d.surroundings.sky = null)),
    )
    expect(clear.surroundings.sky).toBe(null)
    expect(clear.objects).toBe(s.objects)
  })
  it('takes objects anew whose values follow others: what they follow may have changed', () => {
    const s = base()
    s.objects[0].place[1] = { value: 0, modulators: [{ id: 'm', kind: 'wander', seed: 1 }] } as never
    expect(
      withSameParts(
        s,
        edited(s, (d) => (d.seed = 1)),
      ).objects,
    ).not.toBe(s.objects)
  })
})
