import fc from 'fast-check'
import { beforeEach, describe, expect, it } from 'vitest'
import { demoShot } from '../../acts/testing/shots'
import { isKeyed, type Key, setKey } from '../../shot'
import { edit, loadStudio, shotNow, studio } from '../store'
import { changeKeys, copyKeys, dropKeys, moveKeys, pasteKeys, SAME, scaleKeys, tracksOf, writeKeys, writeLoop } from './tracks'

const keys = (...list: [number, unknown][]): Key<unknown>[] => list.map(([t, v]) => ({ t, v, ease: 'smooth' }))
const times = (k: Key<unknown>[]) => k.map((x) => Number(x.t.toFixed(6)))

describe('moving keys', () => {
  const k = keys([0, 1], [1, 2], [2, 3])
  it('goes by whole frames, keeps order, and what a key lands on gives way', () => {
    const m = moveKeys(k, [0], 0.98, 0.5, 1 / 24)
    expect(times(m.keys)).toEqual([1, 2])
    expect(m.keys[0].v).toBe(1.5)
    expect(m.chosen).toEqual([1])
  })
  it('several keep their distances, and none goes before the first frame', () => {
    const m = moveKeys(k, [1, 2], -5, 0, 0)
    expect(times(m.keys)).toEqual([0, 1])
    expect(m.keys.map((x) => x.v)).toEqual([2, 3])
  })
  it('values stay within what the parameter allows; colours and words do not move up', () => {
    expect(moveKeys(k, [1], 0, 99, 0, [0, 10]).keys[1].v).toBe(10)
    expect(moveKeys(keys([0, 'push']), [0], 1, 5, 0).keys[0]).toMatchObject({ t: 1, v: 'push' })
  })
  it('never gives two keys at one time, never loses one that was not chosen and not landed on (property)', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 0, max: 40 }), { minLength: 1, maxLength: 12 }),
        fc.integer({ min: -30, max: 30 }),
        fc.func(fc.boolean()),
        (at, by, pick) => {
          const all = keys(...at.sort((a, b) => a - b).map((f): [number, unknown] => [f / 24, f]))
          const chosen = all.map((x) => x.t).filter((t) => pick(t))
          if (!chosen.length) return true
          const m = moveKeys(all, chosen, by / 24, 0, 1 / 24)
          const t = m.keys.map((x) => Math.round(x.t * 24))
          expect(new Set(t).size).toBe(t.length)
          expect([...t].sort((a, b) => a - b)).toEqual(t)
          for (const x of all)
            if (!chosen.includes(x.t) && !m.chosen.some((c) => Math.abs(c - x.t) < 1e-3)) expect(m.keys).toContainEqual(x)
          return m.chosen.length === chosen.length && m.keys.every((x) => x.t >= -SAME)
        },
      ),
    )
  })
})
describe('scaling, copying, dropping', () => {
  const k = keys([0, 1], [1, 2], [2, 3], [4, 9])
  it('stretches about a moment and snaps', () => {
    expect(times(scaleKeys(k, [0, 1, 2], 0, 1.5, 0).keys)).toEqual([0, 1.5, 3, 4])
    expect(times(scaleKeys(k, [1, 2], 2, 0.52, 0.5).keys)).toEqual([0, 1.5, 2, 4])
  })
  it('drops and changes only the chosen', () => {
    expect(times(dropKeys(k, [1, 4]))).toEqual([0, 2])
    expect(changeKeys(k, [2], (x) => ({ ...x, ease: 'hold' })).map((x) => x.ease)).toEqual(['smooth', 'smooth', 'hold', 'smooth'])
  })
  it('pastes with the first at the playhead', () => {
    const clip = copyKeys({ kind: 'number', keys: k } as never, [1, 2])
    const m = pasteKeys(k, clip, 3)
    expect(times(m.keys)).toEqual([0, 1, 2, 3, 4])
    expect(m.keys.map((x) => x.v)).toEqual([1, 2, 3, 2, 3])
    expect(m.chosen).toEqual([3, 4])
  })
})
describe('tracks of a shot', () => {
  beforeEach(() => loadStudio('id', { id: 'p', name: 'Quay' }, demoShot()))
  it('are its values with keys or modulators, by component', () => {
    edit('test', (s) => {
      const o = s.objects[0]
      o.place[1] = setKey(o.place[1], 1, 5)
      o.rotate[2] = {
        value: 0,
        modulators: [{ id: 'm', kind: 'wave', seed: 1, mode: 'add', height: 1, period: 1, offset: 0, shape: 'sine' }],
      }
    })
    const list = tracksOf(shotNow()).filter((t) => t.element === 'anvil')
    expect(list.map((t) => [t.name, t.keys.length, t.modulators])).toEqual([
      ['Anvil, place Y', 1, []],
      ['Anvil, rotate Z', 0, ['wave']],
    ])
    writeKeys(list[1], 'keys', keys([0, 1], [1, 4]), null)
    writeLoop(tracksOf(shotNow())[1], 'mirror')
    expect(shotNow().objects[0].rotate[2]).toMatchObject({ loop: 'mirror', modulators: [{ kind: 'wave' }] })
    writeKeys(tracksOf(shotNow())[0], 'gone', [], null)
    expect(isKeyed(shotNow().objects[0].place[1])).toBe(false)
    expect(shotNow().objects[0].place[1]).toBe(5)
    expect(studio().line.past).toHaveLength(4)
  })
})
