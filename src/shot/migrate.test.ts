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
describe('problems', () => {
  it('name the place as people write it', () => {
    expect(pathText(['systems', 0, 'birth', 1, 'rate'])).toBe('systems[0].birth[1].rate')
    expect(problemText({ path: '', message: 'x' })).toBe('x')
    expect(problemText({ path: 'a', message: 'x' })).toBe('a: x')
  })
})
