import { describe, expect, it } from 'vitest'
import { migrate, pathText, problemText } from '.'

const steps = {
  1: (d: Record<string, unknown>) => ({ ...d, frames: 10 }),
  2: (d: Record<string, unknown>) => ({ ...d, frames: Number(d.frames) * 2 }),
}
describe('migrations', () => {
  it('run in order up to the target and leave the argument alone', () => {
    const old = { version: 1, name: 'x' }
    const r = migrate(old, steps, 3)
    expect(r).toEqual({ ok: true, from: 1, doc: { version: 3, name: 'x', frames: 20 } })
    expect(old).toEqual({ version: 1, name: 'x' })
  })
  it('do nothing to a document of this version', () => {
    const r = migrate({ version: 3, frames: 1 }, steps, 3)
    expect(r).toMatchObject({ ok: true, doc: { version: 3, frames: 1 } })
  })
  it('refuse a newer version and say what to do', () => {
    const r = migrate({ version: 9 }, steps, 3)
    expect(r.ok).toBe(false)
    if (!r.ok) expect(r.problem).toMatch(/9 is newer.*update/)
  })
  it.each([null, 7, 'shot', [], {}, { version: '1' }, { version: 0 }, { version: 1.5 }])('refuse %j with a reason', (doc) => {
    const r = migrate(doc, steps, 3)
    expect(r.ok).toBe(false)
    if (!r.ok) expect(r.problem.length).toBeGreaterThan(10)
  })
  it('a gap in the steps is our own mistake and throws', () => {
    expect(() => migrate({ version: 1 }, { 2: steps[2] }, 3)).toThrow(/no migration/)
  })
})
describe('from version 5 to 6', () => {
  const old = {
    version: 5,
    systems: [
      {
        id: 's',
        pace: { keys: [{ t: 0, v: 50, ease: 'smooth' }] },
        whole: {
          movement: [
            { kind: 'attract', id: 'a', way: 'away', limits: [{ kind: 'limitSpeed', id: 'l', from: 1 }] },
            { kind: 'speedLimit', id: 'b', most: 4, least: 1 },
            { kind: 'chase', id: 'c', most: null },
            {
              kind: 'gravity',
              id: 'g',
              strength: { value: 1, modulators: [{ kind: 'follow', of: { element: 's', value: 'acts.b.most' } }] },
            },
          ],
          contact: [{ kind: 'bounce', id: 'd', keeps: { value: 30, vary: 5 } }],
        },
      },
    ],
    objects: [
      { id: 'o', body: { keep: 35 }, shape: { kind: 'path', way: 'smooth' } },
      { id: 'q', body: null },
    ],
    forces: [{ id: 'f', act: { kind: 'carry', id: 'e', way: 'push', mostX: 1, mostY: null, mostZ: 2 } }],
    controls: [{ id: 'k', value: { value: 0, modulators: [{ kind: 'follow', of: { element: 's', value: 'pace' } }] } }],
  }
  const { doc } = migrate(old, undefined, 6) as { doc: Record<string, unknown> }
  it('gives acts, bodies, shapes and systems the standard terms and leaves their values alone', () => {
    expect(doc).toMatchObject({
      version: 6,
      systems: [
        {
          timeScale: { keys: [{ t: 0, v: 50 }] },
          whole: {
            movement: [{ mode: 'away', limits: [{ from: 1 }] }, { max: 4, min: 1 }, { maxAcceleration: null }, { kind: 'gravity' }],
            contact: [{ restitution: { value: 30, vary: 5 } }],
          },
        },
      ],
      objects: [{ body: { restitution: 35 }, shape: { mode: 'smooth' } }, { body: null }],
      forces: [{ act: { mode: 'push', maxX: 1, maxY: null, maxZ: 2 } }],
    })
    expect(JSON.stringify(doc)).not.toMatch(/"(way|keeps?|pace|most[XYZ]?|least)"/)
  })
  it('leads references to where the values are now', () => {
    expect(JSON.stringify(doc)).toContain('"value":"acts.b.max"')
    expect(JSON.stringify(doc)).toContain('"element":"s","value":"timeScale"')
  })
})
describe('problems', () => {
  it('name the place as people write it', () => {
    expect(pathText(['systems', 0, 'birth', 1, 'rate'])).toBe('systems[0].birth[1].rate')
    expect(problemText({ path: '', message: 'x' })).toBe('x')
    expect(problemText({ path: 'a', message: 'x' })).toBe('a: x')
  })
})
