import { expect, it } from 'vitest'
import type { DrawContext } from './drawer'
import { drawTogether, type Sliced } from './together'

/** Particles at depths, farthest first, that say when they are drawn. */
class Fake implements Sliced {
  private next = 0
  constructor(
    private name: string,
    private depths: number[],
    private said: { name: string; depth: number }[],
  ) {}
  open() {
    this.next = 0
    const { depths } = this
    return depths.length ? { far: depths[0], near: depths[depths.length - 1], count: depths.length } : null
  }
  beyond(_: DrawContext, depth: number) {
    for (; this.next < this.depths.length && this.depths[this.next] >= depth; this.next++)
      this.said.push({ name: this.name, depth: this.depths[this.next] })
  }
}
const drawn = (all: Record<string, number[]>) => {
  const said: { name: string; depth: number }[] = []
  drawTogether(
    Object.entries(all).map(([name, depths]) => new Fake(name, depths, said)),
    {} as DrawContext,
  )
  return said
}
it('draws all of several systems once, the farther first but for a slab', () => {
  const depths = (n: number, from: number, to: number) => Array.from({ length: n }, (_, i) => to + ((from - to) * i) / (n - 1))
  const said = drawn({ a: depths(5000, 2, 6), b: depths(3000, 1, 9), none: [] })
  expect(said.filter((x) => x.name === 'a')).toHaveLength(5000)
  expect(said.filter((x) => x.name === 'b')).toHaveLength(3000)
  // Eight thousand particles, 54 slabs over 8 m.
  let nearest = Number.POSITIVE_INFINITY
  for (const { depth } of said) {
    expect(depth).toBeLessThan(nearest + 8 / 53)
    nearest = Math.min(nearest, depth)
  }
})
it('draws one alone as a whole, and nothing where there is nothing', () => {
  expect(drawn({ a: [3, 2, 1] }).map((x) => x.depth)).toEqual([3, 2, 1])
  expect(drawn({})).toEqual([])
})
