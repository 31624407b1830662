import { describe, expect, it } from 'vitest'
import { checkShot, compile, readerOf, tieShot } from '../acts'
import { gasDoc } from '../acts/testing/gas'
import { demoShot } from '../acts/testing/shots'
import { lacksDetail, type Shot } from '../shot'
import { parcelOf, withParcel } from './clipboard'
import { rehearsed } from './rehearsal'

const none = { solo: new Set<string>(), boost: 1 }

describe('what only the View shows', () => {
  it('is the shot itself while nothing is different', () => {
    const s = demoShot()
    expect(rehearsed(s, none)).toBe(s)
  })
  it('has detail of gases that is for renders in renders alone', () => {
    const s = demoShot()
    s.gases = [gasDoc({ id: 'fine', detail: 3 }), gasDoc({ id: 'shown', detail: 2, detailIn: 'view' }), gasDoc({ id: 'plain' })]
    const view = rehearsed(s, none)
    expect(view.gases.map((g) => g.detail)).toEqual([1, 2, 1])
    expect(view.gases[1]).toBe(s.gases[1])
    expect([lacksDetail(s), lacksDetail(view)]).toEqual([true, false])
    expect(s.gases[0].detail).toBe(3)
  })
  it('a boost multiplies what every kind of birth gives, keyed and modulated too, and leaves the shot alone', () => {
    const s = demoShot()
    const steady = s.systems[0].birth.find((b) => b.kind === 'steady') as Shot['systems'][0]['birth'][0]
    steady.rate = {
      keys: [
        { t: 0, v: 100, ease: 'curve', bend: [0.3, 5, 0.7, -5] },
        { t: 2, v: 300, ease: 'linear' },
      ],
    }
    s.systems[0].birth.push(
      {
        ...steady,
        id: 'wavy',
        rate: { value: 200, modulators: [{ id: 'w', kind: 'wave', seed: 1, mode: 'add', height: 50, period: 1, offset: 0 }] },
      },
      { ...steady, id: 'far', kind: 'travel', each: 0.5, rate: undefined } as never,
    )
    const before = JSON.stringify(s)
    const b = rehearsed(s, { ...none, boost: 10 })
    expect(JSON.stringify(s)).toBe(before)
    tieShot(s)
    const now = readerOf(s.systems[0].birth.find((x) => x.id === steady.id) as never),
      wavy = readerOf(s.systems[0].birth.find((x) => x.id === 'wavy') as never)
    const plain = [now.number('rate', 0.7), wavy.number('rate', 0.3)]
    tieShot(b)
    const of = (id: string) => readerOf(b.systems[0].birth.find((x) => x.id === id) as never)
    expect(of(steady.id).number('rate', 0.7)).toBeCloseTo(plain[0] * 10, 6)
    expect(of('wavy').number('rate', 0.3)).toBeCloseTo(plain[1] * 10, 6)
    expect(of('far').number('each')).toBeCloseTo(0.05, 9)
    expect(b.systems[0].birth[0].count).toBe((s.systems[0].birth[0].count as number) * 10)
    expect(rehearsed(s, { ...none, boost: 0.1 }).systems[0].birth[0].count).toBe(Math.ceil((s.systems[0].birth[0].count as number) / 10))
    expect(compile(b, new Map()).problems.filter((p) => /boost/.test(p.message))).toEqual([])
  })
  it('alone: others of the same group are set aside; objects stay where they push and stop', () => {
    const s = demoShot()
    s.systems.push({ ...s.systems[0], id: 'other', name: 'Other' })
    const r = rehearsed(s, { solo: new Set(['other', s.objects[1].id]), boost: 1 })
    expect(r.systems.map((x) => !!x.muted)).toEqual([true, false])
    expect(r.objects.map((o) => o.seen)).toEqual(s.objects.map((_, i) => i === 1))
    expect(r.objects.map((o) => o.roles)).toEqual(s.objects.map((o) => o.roles))
    expect(r.lights).toBe(s.lights)
    expect(rehearsed(s, { solo: new Set(['gone']), boost: 1 }).systems).toEqual(s.systems)
  })
})

describe('elements over the clipboard', () => {
  const empty = (): Shot => {
    const s = demoShot()
    return { ...s, name: 'Other', objects: [], systems: [], lights: [], shared: { looks: [] }, assets: [] }
  }
  it('a system goes into another shot with its look; what it started from is not there, so it starts in the middle', () => {
    const from = demoShot()
    const r = withParcel(empty(), parcelOf(from, from.systems[0].id) as string)
    if ('problem' in r) throw new Error(r.problem)
    const [s] = r.shot.systems
    expect(s.name).toBe(from.systems[0].name)
    expect(s.birth.every((b) => b.source === null)).toBe(true)
    expect(r.shot.shared.looks).toHaveLength(1)
    expect(s.whole.look.find((a) => a.kind === 'overLife')?.look).toBe(r.shot.shared.looks[0].id)
    expect(checkShot(r.shot).ok).toBe(true)
  })
  it('an object takes its file and all its children; references between them lead to the copies', () => {
    const from = demoShot()
    from.objects.push({
      ...from.objects[1],
      id: 'child',
      name: 'Child',
      parent: from.objects[0].id,
      regions: [
        {
          id: 'r',
          name: 'Near',
          acts: [{ id: 'n', kind: 'near', seed: 1, object: from.objects[0].id, shape: 'ball', reach: 0.1, soft: 0.1, how: 'only' }],
        },
      ],
    })
    const r = withParcel(empty(), parcelOf(from, from.objects[0].id) as string)
    if ('problem' in r) throw new Error(r.problem)
    const [a, b] = r.shot.objects
    expect(b.parent).toBe(a.id)
    expect(b.regions[0].acts[0].object).toBe(a.id)
    expect(a.id).not.toBe(from.objects[0].id)
    expect(r.shot.assets.map((x) => x.name).sort()).toEqual(['anvil.obj', 'stump.obj'])
  })
  it('pasted into its own shot it gets a name and a seed of its own and shares the look', () => {
    const from = demoShot()
    const r = withParcel(from, parcelOf(from, from.systems[0].id) as string)
    if ('problem' in r) throw new Error(r.problem)
    expect(r.shot.systems.map((s) => s.name)).toEqual([from.systems[0].name, `${from.systems[0].name} 2`])
    expect(r.shot.shared.looks).toHaveLength(from.shared.looks.length)
    expect(r.shot.systems[1].birth[0].source).toBe(from.systems[0].birth[0].source)
    expect(new Set(r.shot.systems.flatMap((s) => s.birth.map((b) => b.id))).size).toBe(from.systems[0].birth.length * 2)
  })
  it('anything else on the clipboard is refused with words', () => {
    for (const text of ['', 'hello', '{}', '[1]', 'null'])
      expect(withParcel(empty(), text)).toMatchObject({ problem: expect.stringMatching(/no elements/) })
    expect(withParcel(empty(), JSON.stringify({ foxEmber: 'elements', version: 1, elements: [] }))).toMatchObject({
      problem: expect.stringMatching(/another version/),
    })
    const bad = JSON.parse(parcelOf(demoShot(), demoShot().systems[0].id) as string)
    bad.elements[0].element.life = 'long'
    expect(withParcel(empty(), JSON.stringify(bad))).toMatchObject({
      problem: expect.stringMatching(/does not fit here: systems\[0\]\.life/),
    })
    expect(parcelOf(demoShot(), 'picture')).toBeNull()
  })
})
