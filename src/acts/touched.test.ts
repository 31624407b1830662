import { describe, expect, it } from 'vitest'
import { touchedFrom } from '.'
import { act } from './testing/quiet'
import { change, demoShot } from './testing/shots'

const shot = demoShot()
const after = (path: string, value: unknown) => touchedFrom(shot, change(shot, path, value))

describe('the earliest frame that a change touches', () => {
  it('is none for looks, cameras, lights, materials, names and finishes', () => {
    expect(after('systems.0.whole.look.0.size', 0.5)).toBeNull()
    expect(after('shared.looks.0.colour.stops.0.colour', [0, 1, 0])).toBeNull()
    expect(after('cameras.0.lens', 50)).toBeNull()
    expect(after('lights.0.strength', 1)).toBeNull()
    expect(after('objects.0.material.colour', [1, 0, 0])).toBeNull()
    expect(after('objects.0.seen', false)).toBeNull()
    expect(after('layers.0.finish.0.strength', 1)).toBeNull()
    expect(after('name', 'Other')).toBeNull()
    expect(touchedFrom(shot, shot)).toBeNull()
    expect(touchedFrom(shot, structuredClone(shot))).toBeNull()
  })
  it('is just after the first birth for a force, since nobody felt it before', () => {
    expect(after('systems.0.whole.movement.0.strength', 5)).toBe(7)
    expect(after('systems.0.phases.0.movement.0.muted', true)).toBe(7)
    expect(after('systems.0.life', 2)).toBe(7)
    expect(after('objects.0.place.1', 1)).toBe(7)
  })
  it('is the change itself for a key late in the shot', () => {
    const keyed = (v: number) => ({
      keys: [
        { t: 0, v: 9.81, ease: 'hold' as const },
        { t: 2, v: 9.81, ease: 'linear' as const },
        { t: 2.5, v, ease: 'hold' as const },
      ],
    })
    const a = change(shot, 'systems.0.whole.movement.0.strength', keyed(3))
    const b = change(shot, 'systems.0.whole.movement.0.strength', keyed(4))
    expect(touchedFrom(a, b)).toBe(49)
  })
  it('is the earlier end when births end elsewhere', () => {
    const a = change(shot, 'systems.0.birth.1.end', 2)
    const b = change(shot, 'systems.0.birth.1.end', 2.5)
    expect(touchedFrom(a, b)).toBe(49)
    expect(touchedFrom(b, a)).toBe(49)
    expect(touchedFrom(a, change(a, 'systems.0.birth.1.end', null))).toBe(49)
  })
  it('is the first frame for what changes time or chance itself', () => {
    for (const [path, value] of [
      ['rate.num', 30],
      ['substeps', 4],
      ['seed', 9],
    ] as const)
      expect(after(path, value)).toBe(0)
  })
  it('a longer range touches nothing that is there', () => {
    expect(after('range.last', 100)).toBeNull()
  })
  it('an object without a role does not matter, one that a birth starts from does', () => {
    const plain = change(change(shot, 'objects.4.roles.collider', false), 'objects.4.roles.source', false)
    expect(touchedFrom(plain, change(plain, 'objects.4.place.0', 3))).toBeNull()
    const hidden = change(shot, 'objects.0.roles.source', false)
    expect(touchedFrom(hidden, change(hidden, 'objects.0.place.0', 3))).toBe(7)
  })
  it('a reshape step counts from the first birth on, from its first key on where the step itself was there', () => {
    const twist = { id: 't', kind: 'twist', seed: 1, axis: 'y', angle: 10 }
    const a = change(shot, 'objects.0.reshape', [twist])
    expect(touchedFrom(shot, a)).toBe(7)
    const keyed = (v: number) => ({
      keys: [
        { t: 0, v: 0, ease: 'linear' },
        { t: 2, v: 0, ease: 'linear' },
        { t: 2.5, v, ease: 'linear' },
      ],
    })
    expect(touchedFrom(change(a, 'objects.0.reshape.0.angle', keyed(5)), change(a, 'objects.0.reshape.0.angle', keyed(90)))).toBe(49)
  })
  it('a region counts once births follow it', () => {
    const region = (from: number) => [
      { id: 'r', name: 'Rim', acts: [{ id: 'h', kind: 'height', seed: 1, axis: 'y', from, to: 100, how: 'only' }] },
    ]
    const a = change(shot, 'objects.0.regions', region(60)),
      b = change(shot, 'objects.0.regions', region(20))
    expect(touchedFrom(shot, a)).toBeNull()
    expect(touchedFrom(a, b)).toBeNull()
    const follow = (s: typeof shot) => change(change(s, 'systems.0.birth.0.region', 'r'), 'systems.0.birth.0.source', s.objects[0].id)
    expect(touchedFrom(a, follow(a))).toBe(7)
    expect(touchedFrom(follow(a), follow(b))).toBe(7)
  })
  it('with a warm start a change goes back before the first frame, one of a late key does not', () => {
    const warm = change(shot, 'warm', 1)
    expect(touchedFrom(shot, warm)).toBe(-24)
    expect(touchedFrom(warm, change(warm, 'systems.0.birth.1.start', 0))).toBe(-24)
    const whole = (end: number) => change(warm, 'systems.0.birth', [act('total', { start: 0, end, count: 5 })])
    expect([touchedFrom(whole(0), whole(0.5)), touchedFrom(whole(0.5), whole(0))]).toEqual([-24, -24])
    const keyed = (v: number) => ({
      keys: [
        { t: 2, v: 9.81, ease: 'linear' },
        { t: 2.5, v, ease: 'linear' },
      ],
    })
    expect(
      touchedFrom(
        change(warm, 'systems.0.whole.movement.0.strength', keyed(3)),
        change(warm, 'systems.0.whole.movement.0.strength', keyed(4)),
      ),
    ).toBe(49)
  })
})
