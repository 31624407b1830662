import { describe, expect, it } from 'vitest'
import { moves } from '.'

describe('what moves', () => {
  const key = { t: 0, v: 1, ease: 'smooth' }
  it.each([
    [{ strength: { keys: [key] } }],
    [{ place: [0, { keys: [key] }, 0] }],
    [{ size: { value: { value: 1, modulators: [{ kind: 'wave' }] }, vary: 2 } }],
    [{ limits: [{ from: 1, muted: true, to: { value: 3, modulators: [{}] } }] }],
    [[{}, { deep: { deeper: { keys: [key, key] } } }]],
  ])('%j', (x) => expect(moves(x)).toBe(true))
  it.each([[null], [3], ['keys'], [{}], [{ keys: [] }], [{ value: 1, modulators: [] }], [{ points: [{ at: 0, v: 1 }] }], [[1, 2, 3]]])(
    'not %j',
    (x) => expect(moves(x)).toBe(false),
  )
})
