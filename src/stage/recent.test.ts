import { expect, it } from 'vitest'
import { Recent } from './recent'

it('keeps what was asked for last, makes each once, and frees the rest', () => {
  const dropped: string[] = []
  let made = 0
  const r = new Recent<string>(2, (t) => void dropped.push(t))
  const of = (key: string) =>
    r.of(key, () => {
      made++
      return `${key}${made}`
    })
  expect([of('a'), of('b'), of('a')]).toEqual(['a1', 'b2', 'a1'])
  expect(of('c')).toBe('c3')
  expect(dropped).toEqual(['b2'])
  expect(of('b')).toBe('b4')
  expect(dropped).toEqual(['b2', 'a1'])
  r.dispose()
  expect(dropped).toEqual(['b2', 'a1', 'c3', 'b4'])
  expect(of('b')).toBe('b5')
})
