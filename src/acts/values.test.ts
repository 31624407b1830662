import { describe, expect, it } from 'vitest'
import { type Animated, integral, type ModulatorDoc, type ObjectDoc, type Shot, sampleColour, sampleNumber } from '../shot'
import { checkShot, compile, readers, tieShot, touchedFrom, values, worldMatrix } from '.'
import { demoShot } from './testing/shots'

const modulator = (kind: string, values: Record<string, unknown> = {}, mode: ModulatorDoc['mode'] = 'add'): ModulatorDoc => ({
  id: `m${++made}`,
  kind,
  seed: 5,
  mode,
  ...(
    {
      wave: { height: 1, period: 2, offset: 0, shape: 'sine' },
      wander: { height: 1, rate: 1, roughness: 30, offset: 0 },
      follow: { of: null, scale: 1, offset: 0, delay: 0 },
      expression: { formula: 'keyed', names: [] },
    } as Record<string, object>
  )[kind],
  ...values,
})
let made = 0
/** The demo with changes, checked as a document, tied. */
function tied(change: (s: Shot) => void): { shot: Shot; problems: string[] } {
  const s = demoShot()
  change(s)
  const r = checkShot(JSON.parse(JSON.stringify(s)))
  if (!r.ok) throw new Error(r.problems.map((p) => `${p.path}: ${p.message}`).join('\n'))
  return { shot: r.shot, problems: tieShot(r.shot).map((p) => `${p.element}: ${p.message}`) }
}
const object = (s: Shot, id: string) => s.objects.find((o) => o.id === id) as ObjectDoc
const at = (a: Animated<number>, t: number) => sampleNumber(a, t)

describe('modulators', () => {
  it('wave: closed forms of all four shapes, ahead by the offset', () => {
    const { shot } = tied((s) => {
      for (const [i, shape] of ['sine', 'triangle', 'square'].entries())
        object(s, 'anvil').place[i] = { value: 10, modulators: [modulator('wave', { height: 3, period: 4, offset: 1, shape })] }
      object(s, 'anvil').rotate[0] = { value: 0, modulators: [modulator('wave', { height: 1, period: 4, shape: 'ramp' })] }
    })
    const [sine, triangle, square] = object(shot, 'anvil').place
    for (let t = 0; t < 9; t += 0.37) {
      const x = (t + 1) / 4
      expect(at(sine, t)).toBeCloseTo(10 + 3 * Math.sin(2 * Math.PI * x), 10)
      expect(at(triangle, t)).toBeCloseTo(10 + (6 / Math.PI) * Math.asin(Math.sin(2 * Math.PI * x)), 6)
      expect(at(square, t)).toBe(10 + 3 * Math.sign(Math.sin(2 * Math.PI * x)))
      expect(at(object(shot, 'anvil').rotate[0], t)).toBeCloseTo(2 * ((t / 4) % 1) - 1, 10)
    }
  })
  it('wander: repeats for its seed, stays near its height, moves smoothly, and an offset is a companion', () => {
    const { shot } = tied((s) => {
      object(s, 'anvil').place[0] = { value: 0, modulators: [modulator('wander', { height: 2 })] }
      object(s, 'anvil').place[1] = { value: 0, modulators: [{ ...modulator('wander', { height: 2 }), seed: 6 }] }
      object(s, 'anvil').place[2] = { value: 0, modulators: [modulator('wander', { height: 2, offset: 0.75 })] }
    })
    const [a, b, c] = object(shot, 'anvil').place
    let maximum = 0
    let step = 0
    for (let t = 0; t < 200; t += 0.01) {
      maximum = Math.max(maximum, Math.abs(at(a, t)))
      step = Math.max(step, Math.abs(at(a, t + 0.01) - at(a, t)))
      expect(at(c, t)).toBeCloseTo(at(a, t + 0.75), 9)
    }
    expect(maximum).toBeGreaterThan(1.2)
    expect(maximum).toBeLessThanOrEqual(2)
    expect(step).toBeLessThan(0.12)
    expect(at(a, 3.3)).not.toBe(at(b, 3.3))
  })
  it('count in their order: added, multiplied, instead; a muted one does not', () => {
    const { shot } = tied((s) => {
      object(s, 'anvil').place[0] = {
        keys: [
          { t: 0, v: 1, ease: 'linear' },
          { t: 2, v: 3, ease: 'linear' },
        ],
        modulators: [
          modulator('expression', { formula: '10' }),
          modulator('expression', { formula: 'time + 1' }, 'multiply'),
          { ...modulator('expression', { formula: '99' }, 'replace'), muted: true },
        ],
      }
      object(s, 'anvil').place[1] = { value: 4, modulators: [modulator('expression', { formula: 'keyed * 2 + frame' }, 'replace')] }
    })
    expect(at(object(shot, 'anvil').place[0], 1)).toBe((2 + 10) * 2)
    expect(at(object(shot, 'anvil').place[1], 1)).toBe(4 * 2 + 24)
  })
  it('a swing that is multiplied is a share of the value', () => {
    const { shot } = tied(
      (s) => void (object(s, 'anvil').place[0] = { value: 8, modulators: [modulator('wave', { height: 0.25, period: 4 }, 'multiply')] }),
    )
    expect([0, 1, 3].map((t) => at(object(shot, 'anvil').place[0], t))).toEqual([8, 10, 6])
  })
  it('follow: another value, a place with its parents, a distance, later by the delay', () => {
    const { shot, problems } = tied((s) => {
      object(s, 'stump').parent = 'anvil'
      object(s, 'stump').place = [1, 0, 0]
      object(s, 'anvil').place = [
        {
          keys: [
            { t: 0, v: 0, ease: 'linear' },
            { t: 2, v: 4, ease: 'linear' },
          ],
        },
        2,
        0,
      ]
      object(s, 'anvil').rotate = [0, 90, 0]
      s.lights[0].place = [
        0,
        { value: 0, modulators: [modulator('follow', { of: { element: 'stump', value: 'world.2' }, scale: 10, offset: 1 }, 'replace')] },
        0,
      ]
      s.lights[0].aim[0] = {
        value: 0,
        modulators: [modulator('follow', { of: { element: 'anvil', value: 'place.0' }, delay: 0.5 }, 'replace')],
      }
      s.lights[0].aim[1] = {
        value: 0,
        modulators: [modulator('follow', { of: { element: 'anvil', value: 'distance', to: 'stump' } }, 'replace')],
      }
    })
    expect(problems).toEqual([])
    // Turned by 90° about Y, the stump's own +X is −Z of the shot.
    expect(at(shot.lights[0].place[1], 1)).toBeCloseTo(-9, 10)
    expect(at(shot.lights[0].aim[0], 1)).toBe(1)
    expect(at(shot.lights[0].aim[1], 1)).toBeCloseTo(1, 12)
  })
  it('controls: many values follow one, each in its own way, and the control knows them', () => {
    const { shot } = tied((s) => {
      s.controls.push({ id: 'warmth', name: 'Heat', seed: 1, value: { keys: [{ t: 0, v: 2, ease: 'hold' }] }, unit: '' })
      const names = [{ name: 'heat', element: 'warmth', value: 'value' }]
      ;(s.systems[0].whole.movement[0] as Record<string, unknown>).strength = {
        value: 0,
        modulators: [modulator('follow', { of: { element: 'warmth', value: 'value' } }, 'replace')],
      }
      s.lights[0].strength = { value: 0, modulators: [modulator('expression', { formula: 'heat / 2', names }, 'replace')] }
    })
    expect(at(shot.systems[0].whole.movement[0].strength as Animated<number>, 1)).toBe(2)
    expect(at(shot.lights[0].strength, 1)).toBe(1)
    expect(readers(shot, 'warmth').map((v) => v.label)).toEqual(['Gravity, strength', 'strength'])
  })
  it('keeps to the range of the value, moves colours by channel, and ignores what is not a number', () => {
    const { shot } = tied((s) => {
      object(s, 'anvil').material.roughness = { value: 0.5, modulators: [modulator('expression', { formula: '7' })] }
      object(s, 'anvil').material.glow = { value: [1, 2, 3], modulators: [modulator('expression', { formula: 'keyed * 2' }, 'replace')] }
      object(s, 'anvil').place[0] = { value: 3, modulators: [modulator('expression', { formula: '1 / 0' })] }
    })
    expect(at(object(shot, 'anvil').material.roughness, 0)).toBe(1)
    expect(sampleColour(object(shot, 'anvil').material.glow, 0)).toEqual([2, 4, 6])
    expect(at(object(shot, 'anvil').place[0], 0)).toBe(3)
  })
  it('the integral of a modulated rate is that of its function', () => {
    const { shot } = tied(
      (s) => void (s.systems[0].birth[1].rate = { value: 100, modulators: [modulator('wave', { height: 50, period: 1 })] }),
    )
    const rate = shot.systems[0].birth[1].rate as Animated<number>
    for (const t of [0.1, 0.5, 1, 2.37])
      expect(integral(rate, t)).toBeCloseTo(100 * t + (50 / (2 * Math.PI)) * (1 - Math.cos(2 * Math.PI * t)), 2)
    // Whoever asked before, and for what, the answer is the same.
    expect(integral(rate, 0.5)).toBe(integral(rate, 0.5))
    const once = integral(rate, 1.5)
    tieShot(shot)
    integral(rate, 9)
    expect(integral(rate, 1.5)).toBe(once)
  })
})

describe('what cannot be', () => {
  it('a circle of values is named, and its values keep to their keys', () => {
    const { shot, problems } = tied((s) => {
      object(s, 'anvil').place[0] = {
        value: 5,
        modulators: [modulator('follow', { of: { element: 'stump', value: 'place.0' } }, 'replace')],
      }
      object(s, 'stump').place[0] = {
        value: 6,
        modulators: [modulator('follow', { of: { element: 'anvil', value: 'world.0' } }, 'replace')],
      }
      s.lights[0].place[0] = { value: 7, modulators: [modulator('follow', { of: { element: 'stump', value: 'place.0' } }, 'replace')] }
    })
    expect(problems).toHaveLength(1)
    expect(problems[0]).toMatch(/Anvil, place X → Stump, place X → Anvil, place X: these values go round in a circle/)
    expect([at(object(shot, 'anvil').place[0], 0), at(object(shot, 'stump').place[0], 0), at(shot.lights[0].place[0], 0)]).toEqual([
      5, 6, 6,
    ])
  })
  it('a value that reads itself, a formula that does not read, a link to nothing: named at the element, and the shot goes on', () => {
    const { shot, problems } = tied((s) => {
      object(s, 'anvil').place[0] = { value: 5, modulators: [modulator('follow', { of: { element: 'anvil', value: 'place.0' } })] }
      object(s, 'anvil').place[1] = { value: 5, modulators: [modulator('expression', { formula: '1 +' })] }
      object(s, 'anvil').place[2] = {
        value: 5,
        modulators: [modulator('follow', { of: { element: 'nobody', value: 'place.0' } }), modulator('follow')],
      }
    })
    expect(problems).toHaveLength(4)
    expect(problems.every((p) => p.startsWith('anvil: '))).toBe(true)
    expect(problems.join('\n')).toMatch(/its formula, at sign 4: something is missing at the end/)
    expect([0, 1, 2].map((i) => at(object(shot, 'anvil').place[i], 0))).toEqual([5, 5, 5])
    expect(compile(shot, new Map()).problems.filter((p) => p.element === 'anvil').length).toBeGreaterThanOrEqual(4)
  })
  it('a circle of parents is named, and nobody hangs', () => {
    const { shot, problems } = tied((s) => {
      object(s, 'anvil').parent = 'stump'
      object(s, 'stump').parent = 'anvil'
    })
    expect(problems.join()).toMatch(/would be its own ancestor/)
    expect(worldMatrix(object(shot, 'anvil'), 0).every(Number.isFinite)).toBe(true)
  })
})

describe('what a change touches', () => {
  const follow = (s: Shot) =>
    void ((s.systems[0].whole.movement[0] as Record<string, unknown>).strength = {
      value: 9,
      modulators: [modulator('follow', { of: { element: 'lantern', value: 'place.1' } }, 'replace')],
    })
  const shotWith = (y: number, linked: boolean) =>
    tied((s) => {
      s.lights[0].id = 'lantern'
      s.lights[0].place[1] = y
      made = 0
      if (linked) follow(s)
    }).shot
  it('a light is no matter of the simulation, until a force reads its place', () => {
    expect(touchedFrom(shotWith(2, false), shotWith(3, false))).toBeNull()
    expect(touchedFrom(shotWith(2, true), shotWith(3, true))).not.toBeNull()
    expect(touchedFrom(shotWith(2, true), shotWith(2, true))).toBeNull()
  })
  it('an ancestor that moves moves the source', () => {
    const shotAt = (x: number) =>
      tied((s) => {
        s.objects.push({
          ...structuredClone(object(s, 'anvil')),
          id: 'cart',
          name: 'Cart',
          shape: { kind: 'group' },
          roles: { source: false, collider: false },
          place: [x, 0, 0],
        })
        object(s, 'anvil').parent = 'cart'
      }).shot
    expect(touchedFrom(shotAt(0), shotAt(1))).not.toBeNull()
    expect(touchedFrom(shotAt(1), shotAt(1))).toBeNull()
  })
})

it('every value of the demo has a name that leads back to it, once', () => {
  const all = [...values(demoShot())].map((v) => `${v.record.element.id}|${v.path}`)
  expect(new Set(all).size).toBe(all.length)
  expect(all.length).toBeGreaterThan(60)
})
