import { beforeEach, describe, expect, it } from 'vitest'
import { actOf, MATERIAL_PARAMS, OBJECT_PARAMS } from '../../acts'
import { demoShot } from '../../acts/testing/shots'
import type { Shot } from '../../shot'
import { keyedValues } from '../keyed'
import { edit, loadStudio, setPlayhead, shotNow, studio, undoStep } from '../store'
import {
  bindsOf,
  canPaste,
  copyValue,
  dropKeyNow,
  freezeNow,
  hasKeyAt,
  keysOf,
  numberNow,
  pasteValue,
  setKeyNow,
  stepNow,
  timeNow,
  toDefault,
  writeNow,
  writeVary,
} from './bind'

/** The demo, opened at its first frame. */
const demo = () => ({ ...demoShot(), opens: null })
beforeEach(() => loadStudio('id', { id: 'p', name: 'Quay' }, demo()))
const rec = (x: unknown) => x as Record<string, unknown>
const burst = (s: Shot) => s.systems[0].birth[0]
/** Binds are made from the shot as it is, as a card does with every drawing. */
const act = (name: string) => bindsOf(actOf('burst').params, burst(shotNow()), 'Burst', burst)[name]
const object = (name: string) => bindsOf(OBJECT_PARAMS, rec(shotNow().objects[0]), 'Anvil', (s) => rec(s.objects[0]))[name]
const material = (name: string) =>
  bindsOf(MATERIAL_PARAMS, rec(shotNow().objects[0].material), 'Anvil', (s) => rec(s.objects[0].material))[name]

describe('a number with ±', () => {
  it('keeps its ± when the value changes, and its value when the ± changes', () => {
    const vary = (burst(shotNow()).speed as { vary: number }).vary
    writeNow(act('speed'), 6, null)
    expect(burst(shotNow()).speed).toEqual({ value: 6, vary })
    writeVary(act('speed'), 2, null)
    expect(burst(shotNow()).speed).toEqual({ value: 6, vary: 2 })
    writeVary(act('speed'), 0, null)
    expect(burst(shotNow()).speed).toBe(6)
    writeVary(act('speed'), 1, null)
    expect(burst(shotNow()).speed).toEqual({ value: 6, vary: 1 })
  })
  it('one drag is one step of undo', () => {
    for (let v = 10; v < 60; v++) writeNow(act('spread'), v, 'drag-1')
    expect(studio().line.past).toHaveLength(1)
    undoStep()
    expect(shotNow()).toEqual(demo())
  })
})
describe('keys', () => {
  it('are set at the playhead with the value of now; changing the value there sets the next', () => {
    setPlayhead(12)
    writeNow(act('spread'), 40, null)
    setKeyNow(act('spread'))
    expect(burst(shotNow()).spread).toEqual({ keys: [{ t: 0.5, v: 40, ease: 'smooth' }] })
    setPlayhead(36)
    writeNow(act('spread'), 80, null)
    expect(keysOf(act('spread'))).toHaveLength(2)
    setPlayhead(24)
    expect(numberNow(act('spread'))).toBe(60)
    expect(hasKeyAt(act('spread'), timeNow())).toBe(false)
    setPlayhead(36)
    expect(hasKeyAt(act('spread'), timeNow())).toBe(true)
  })
  it('live inside a value with ±, and in each component of a vector', () => {
    setKeyNow(act('speed'))
    expect(burst(shotNow()).speed).toMatchObject({ value: { keys: [{ t: 0 }] }, vary: expect.any(Number) })
    setKeyNow(object('place'))
    expect(shotNow().objects[0].place.every((c) => typeof c === 'object')).toBe(true)
    setPlayhead(24)
    writeNow(object('place'), 3, null, 1)
    expect(numberNow(object('place'), 1)).toBe(3)
    expect(numberNow(object('place'), 0)).toBe(0)
    expect(keysOf(object('place'))).toHaveLength(4)
  })
  it('switches hold; colours go over', () => {
    setKeyNow(object('seen'))
    setPlayhead(24)
    writeNow(object('seen'), false, null)
    expect(shotNow().objects[0].seen).toEqual({
      keys: [
        { t: 0, v: true, ease: 'hold' },
        { t: 1, v: false, ease: 'hold' },
      ],
    })
    setPlayhead(23)
    expect(stepNow<boolean>(object('seen'))).toBe(true)
    setKeyNow(material('colour'))
    expect(keysOf(material('colour'))[0]).toMatchObject({ ease: 'smooth' })
  })
  it('are taken away one by one, or all, and the value stays as it is here', () => {
    setKeyNow(act('spread'))
    setPlayhead(24)
    writeNow(act('spread'), 100, null)
    setPlayhead(12)
    const here = numberNow(act('spread'))
    freezeNow(act('spread'))
    expect(burst(shotNow()).spread).toBe(here)
    undoStep()
    dropKeyNow(act('spread'), 0)
    expect(burst(shotNow()).spread).toEqual({ keys: [{ t: 1, v: 100, ease: 'smooth' }] })
    setPlayhead(24)
    dropKeyNow(act('spread'))
    expect(burst(shotNow()).spread).toBe(100)
  })
  it('are all in the list of keyed values, with their names', () => {
    expect(keyedValues(shotNow()).map((k) => k.name)).toEqual(['glow', 'strength'])
    setKeyNow(act('spread'))
    setKeyNow(object('rotate'))
    setKeyNow(material('glow'))
    edit('life', (s) => void (s.systems[0].life = { value: { keys: [{ t: 0, v: 1, ease: 'linear' }] }, vary: 0 }))
    edit('bloom', (s) => void (s.layers[0].finish[0].from = { keys: [{ t: 0, v: 1, ease: 'linear' }] }))
    const list = keyedValues(shotNow())
    expect(list.map((k) => `${k.elementName}: ${k.name}`)).toEqual([
      'Anvil: rotate',
      'Anvil: glow',
      'Slug: glow',
      'Sparks: life',
      'Sparks: Burst, spread',
      'Strike light: strength',
      'Picture: Bloom, from',
    ])
    // What the list names can be written through it.
    for (const k of list) if (k.bind.param.type === 'number') writeNow(k.bind, 1, null)
    expect(keyedValues(shotNow())).toHaveLength(7)
  })
})
describe('copy, paste, default', () => {
  it('a value with its keys goes from one to another of its sort only', () => {
    setKeyNow(act('spread'))
    copyValue(act('spread'))
    expect([canPaste(act('inherit')), canPaste(material('colour')), canPaste(object('seen'))]).toEqual([true, false, false])
    pasteValue(act('inherit'))
    expect(burst(shotNow()).inherit).toEqual(burst(shotNow()).spread)
    expect(burst(shotNow()).inherit).not.toBe(burst(shotNow()).spread)
    copyValue(act('speed'))
    expect(canPaste(act('spread'))).toBe(false)
  })
  it('back to the default, also where that is empty', () => {
    toDefault(act('spread'))
    toDefault(act('times'))
    toDefault(object('scale'))
    expect([burst(shotNow()).spread, burst(shotNow()).times, shotNow().objects[0].scale]).toEqual([30, null, [1, 1, 1]])
  })
})
