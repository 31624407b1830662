import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fromHex, toHex } from '../../shot'
import { parseColour, showColour } from './colours'

describe('typed colours', () => {
  it.each([
    ['#ff8000', '#ff8000'],
    ['FF8000', '#ff8000'],
    ['f80', '#ff8800'],
    ['rgb 255 128 0', '#ff8000'],
    ['rgb(255, 128, 0)', '#ff8000'],
    ['hsl 120 100% 50%', '#00ff00'],
    ['hsl(-120, 100, 50)', '#0000ff'],
    ['hsl 0 0 50', '#808080'],
    ['linear 1 0 0', '#ff0000'],
  ])('%s is %s', (typed, hex) => expect(toHex(parseColour(typed) ?? [-1, -1, -1])).toBe(hex))
  it('are linear light where they say so, also brighter than a screen', () => {
    expect(parseColour('linear 0.2 1.5 .03')).toEqual([0.2, 1.5, 0.03])
    expect(parseColour('linear 0.2 0.5 0 × 3')?.map((v) => Number(v.toFixed(9)))).toEqual([0.6, 1.5, 0])
    expect(parseColour('#ffffff * 2')).toEqual([2, 2, 2])
  })
  it('are those of a black body for kelvin: red when it is cold, blue when it is hot, white about daylight', () => {
    const [r, g, b] = parseColour('1800 K') ?? [0, 0, 0]
    expect([r, g > b, b < 0.1]).toEqual([1, true, true])
    expect(parseColour('12000K')?.[2]).toBe(1)
    for (const v of parseColour('6500 k') ?? []) expect(v).toBeGreaterThan(0.9)
  })
  it.each(['ember', '', '#12345', 'rgb 1 2', 'linear a b c', '100 K', 'hsl 1 2'])('%s is none', (typed) =>
    expect(parseColour(typed)).toBeNull(),
  )
  it('are read as they are shown', () => {
    const part = fc.double({ min: 0, max: 6, noNaN: true })
    fc.assert(
      fc.property(fc.tuple(part, part, part), (c) => {
        const back = parseColour(showColour(c))
        const most = Math.max(1, ...c)
        expect(back).not.toBeNull()
        c.forEach((v, k) => expect(Math.abs((back?.[k] ?? 9) - v)).toBeLessThan(0.01 * most))
      }),
    )
    expect(showColour(fromHex('#336699') ?? [0, 0, 0])).toBe('#336699')
  })
})
