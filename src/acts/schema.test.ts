import { describe, expect, it } from 'vitest'
import { defaultsOf, newId, problemText, SHOT_VERSION } from '../shot'
import { ACTS, checkShot, jsonSchema, readerOf, registryOf } from '.'
import { gasWith } from './testing/gas'
import { change, demoDocument, demoShot } from './testing/shots'

const problems = (doc: unknown): string[] => {
  const r = checkShot(doc)
  return r.ok ? [] : r.problems.map(problemText)
}
describe('the shot document', () => {
  it('accepts the demo shot, and what it accepts it accepts again', () => {
    expect(problems(demoDocument())).toEqual([])
    expect(problems(demoShot())).toEqual([])
  })
  it.each([
    ['systems.0.birth.1.rate', -1, 'systems[0].birth[1].rate: must be at least 0'],
    ['systems.0.birth.1.rate', 'many', 'systems[0].birth[1].rate: must be a number'],
    ['systems.0.birth.0.count', 2.5, 'systems[0].birth[0].count: must be a whole number'],
    ['systems.0.birth.0.spread', 999, 'systems[0].birth[0].spread: must be at most 180'],
    ['systems.0.birth.0.kind', 'spray', 'systems[0].birth[0].kind: kind must be one of steady, burst, total, travel'],
    ['systems.0.birth.0.colour', 1, 'systems[0].birth[0].colour: is not a field here'],
    ['systems.0.birth.0.source', 'nobody', 'systems[0].birth[0].source: no object or system has the id nobody'],
    ['systems.0.whole.look.0.look', 'nobody', 'systems[0].whole.look[0].look: no look has the id nobody'],
    ['systems.0.phases', [], 'systems[0].phases: must have at least one phase'],
    ['rate.den', 0, 'rate.den: must be at least 1'],
    ['range.last', -1, 'range.last: must be at least 0'],
    ['camera', 'nobody', 'camera: no camera has the id nobody'],
    ['version', 99, `version: 99 is newer than this Fox Ember, which reads up to ${SHOT_VERSION}; update it to open this shot`],
    ['objects.0.shape.asset', 'zz', 'objects[0].shape.asset: must be a SHA-256 in lower-case hex'],
    ['objects.1.id', 'anvil', 'objects[1].id: anvil is the id of something else already'],
    ['objects.0.place.1', { keys: [] }, 'objects[0].place[1].keys: needs at least one key'],
    ['objects.0.id', '../../etc', 'objects[0].id: must be 1 to 64 letters, digits, dots, dashes or underscores'],
    ['substeps', 0, 'substeps: must be at least 1'],
  ])('refuses %s = %j and says where and what', (path, value, message) => {
    expect(problems(change(demoDocument(), path, value))).toContain(message)
  })
  it('says a range that ends before it begins', () => {
    expect(problems(change(demoDocument(), 'range', { first: 10, last: 3 }))).toEqual([
      'range: the last frame must not be before the first',
    ])
  })
  it('takes keys, ± and both together where an act allows them', () => {
    const keyed = { keys: [{ t: 0, v: 1, ease: 'linear' }] }
    expect(problems(change(demoDocument(), 'systems.0.birth.0.speed', { value: keyed, vary: 2 }))).toEqual([])
    expect(problems(change(demoDocument(), 'systems.0.birth.0.speed', keyed))).toEqual([])
    expect(problems(change(demoDocument(), 'systems.0.birth.0.count', { value: 3, vary: 2 }))).not.toEqual([])
    expect(problems(change(demoDocument(), 'systems.0.birth.0.speed', { value: -3, vary: 2 }))).toContain(
      'systems[0].birth[0].speed.value: must be at least 0',
    )
  })
  it('fills in what is left out', () => {
    const r = checkShot(change(demoDocument(), 'systems.0.phases.0.movement.0.octaves', undefined))
    expect(r.ok && r.shot.systems[0].phases[0].movement[0].octaves).toBe(3)
  })
  it.each([null, [], 'x', 3, {}])('refuses %j as a whole', (doc) => {
    expect(problems(doc).length).toBeGreaterThan(0)
  })
})
describe('every act', () => {
  it.each(ACTS.map((a) => [a.kind, a] as const))('%s has words, and its defaults pass its own schema', (_kind, act) => {
    expect(act.title).not.toBe('')
    expect(act.help).toMatch(/\.$/)
    for (const p of Object.values(act.params)) {
      expect(p.label).not.toBe('')
      expect(p.help).toMatch(/\.$/)
    }
    const doc = {
      id: newId(act.kind),
      kind: act.kind,
      seed: 1,
      ...(act.sort === 'modulator' ? { mode: 'add' } : {}),
      ...defaultsOf(act.params),
    }
    const text = act
      .sentence(readerOf(doc))
      .map((p) => (typeof p === 'string' ? p : 'text' in p ? p.text : `[${p.param}]`))
      .join('')
    expect(text).toMatch(/^[A-Z[].*\.$/)
    for (const p of act.sentence(readerOf(doc))) if (typeof p !== 'string') expect(act.params).toHaveProperty(p.param)
    const lists: Record<string, string> = {
      source: 'systems.0.birth',
      force: 'systems.0.whole.movement',
      contact: 'systems.0.whole.contact',
      look: 'systems.0.whole.look',
      offspring: 'systems.0.whole.offspring',
      finish: 'layers.0.finish',
      modulator: 'lights.0.strength',
      ending: 'systems.0.whole.contact',
      copies: 'systems.0.copies',
      reshape: 'objects.0.reshape',
      region: 'objects.0.regions',
      limit: 'systems.0.whole.movement',
      turn: 'systems.0.phases.0.turns',
      condition: 'systems.0.phases.0.turns',
      feed: 'gases',
      flow: 'gases',
      gasLook: 'gases',
    }
    const ofGas = ({ feed: 'feeds', flow: 'burns' in act && act.burns ? 'burning' : 'motion', gasLook: 'look' } as const)[
      act.sort as string
    ]
    const stored = ofGas
      ? [gasWith(ofGas, doc)]
      : act.sort === 'limit'
        ? [{ id: 'f', kind: 'gravity', seed: 1, limits: [doc] }]
        : act.sort === 'modulator'
          ? { value: 1, modulators: [doc] }
          : act.sort === 'condition'
            ? [{ id: 't', kind: 'turnEnd', seed: 1, join: 'all', when: [doc] }]
            : act.sort === 'region'
              ? [{ id: 'r', name: 'Rim', acts: [doc] }]
              : [doc]
    // What needs a surface grows on objects alone.
    const list = 'growth' in act && act.growth ? 'objects.0.offspring' : lists[act.sort]
    expect(problems(change(demoDocument(), list, stored))).toEqual([])
  })
  it('two acts of one kind stop the start', () => {
    expect(() => registryOf([ACTS[0], ACTS[0]])).toThrow(/two acts/)
  })
})
describe('the JSON Schema', () => {
  it('names every act and its parameters', () => {
    const text = JSON.stringify(jsonSchema())
    for (const act of ACTS) {
      expect(text).toContain(`"${act.kind}"`)
      for (const name of Object.keys(act.params)) expect(text).toContain(`"${name}"`)
    }
  })
})
