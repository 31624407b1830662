import { expect, it } from 'vitest'
import type { DrawContext } from './drawer'
import { drawTogether, type Sliced } from './together'

/** Particles at depths, nearest first, that say when they are drawn. */
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
    return depths.length ? { count: depths.length, depthAt: (n: number) => depths[n] } : null
  }
  before(_: DrawContext, depth: number) {
    for (; this.next < this.depths.length && this.depths[this.next] < depth; this.next++)
      this.said.push({ name: this.name, depth: this.depths[this.next] })
  }
}
const drawn = (all: Record<string, number[]>) => {
  const said: { name: string; depth: number }[] = []
  const did: string[] = []
  const context = { layer: () => did.push('layer'), lookWhatIsCovered: () => did.push('look'), compose: () => did.push('compose') }
  drawTogether(
    Object.entries(all).map(([name, depths]) => new Fake(name, depths, said)),
    context as unknown as DrawContext,
  )
  return { said, did }
}
it('draws all of several systems once, the nearer first but for a slab, on a layer that goes over the picture', () => {
  const depths = (n: number, from: number, to: number) => Array.from({ length: n }, (_, i) => from + ((to - from) * i) / (n - 1))
  const { said, did } = drawn({ a: depths(5000, 2, 6), b: depths(3000, 1, 9), none: [] })
  expect(said.filter((x) => x.name === 'a')).toHaveLength(5000)
  expect(said.filter((x) => x.name === 'b')).toHaveLength(3000)
  // Eight thousand particles, 54 slabs of about 148.
  let [farthest, before] = [Number.NEGATIVE_INFINITY, 0]
  for (const { depth } of said) {
    if (depth < farthest) before++
    farthest = Math.max(farthest, depth)
  }
  const sorted = [...said].sort((p, q) => p.depth - q.depth)
  said.forEach((x, i) => expect(Math.abs(sorted.indexOf(x) - i)).toBeLessThan(300))
  expect(before).toBeGreaterThan(0)
  expect([did[0], did[did.length - 1]]).toEqual(['layer', 'compose'])
  // Fifteen times between the first and the last.
  expect(did.filter((x) => x === 'look')).toHaveLength(15)
})
it('draws one alone as a whole, and nothing where there is nothing', () => {
  expect(drawn({ a: [1, 2, 3] }).said.map((x) => x.depth)).toEqual([1, 2, 3])
  expect(drawn({})).toEqual({ said: [], did: [] })
})
