import { describe, expect, it } from 'vitest'
import { boundsOf, isClosed } from '../../engine'
import { inspectAsset } from '../inspect'
import { readMesh } from '../mesh'
import { sample } from './testing/samples'

const read = async (name: string, shown = false) => {
  const r = await readMesh(sample(name), shown)
  if (!r.ok) throw new Error(r.problem.message)
  return r.value
}
describe('a VDB file as an object', () => {
  it('is the solid that its level set says', async () => {
    const ball = await read('levelset_sphere.vdb')
    expect(isClosed(ball)).toBe(true)
    const { min, max } = boundsOf(ball)
    const radius = (max[0] - min[0]) / 2
    const middle = min.map((v, a) => (v + max[a]) / 2)
    for (let a = 0; a < 3; a++) expect(Math.abs(max[a] - min[a] - 2 * radius)).toBeLessThan(0.02)
    for (let i = 0; i < ball.positions.length; i += 3)
      expect(Math.abs(Math.hypot(...middle.map((v, a) => ball.positions[i + a] - v)) - radius)).toBeLessThan(0.02)
    // As smoke it is full deep inside and nothing outside.
    const fog = ball.volume?.read('lantern_sdf')
    expect(Math.max(...(fog?.values ?? []))).toBe(1)
    expect(Math.min(...(fog?.values ?? []))).toBe(0)
  })
  it('is about where its smoke ends, and says which grids it has', async () => {
    const puff = await read('quay_puff.0003.vdb')
    const { min, max } = boundsOf(puff)
    // Its voxels lie from −0.9, 0.5, −1.1 to 1.2, 2.5, 1.
    for (const [a, low, high] of [
      [0, -0.9, 1.2],
      [1, 0.5, 2.5],
      [2, -1.1, 1],
    ]) {
      expect(min[a]).toBeGreaterThan(low - 0.05)
      expect(max[a]).toBeLessThan(high + 0.05)
      expect(max[a] - min[a]).toBeGreaterThan((high - low) * 0.4)
    }
    expect(puff.volume?.grids.map((g) => [g.name, g.channels])).toEqual([
      ['density', 1],
      ['temperature', 1],
      ['heat', 1],
      ['vel', 3],
    ])
    expect(puff.volume?.read('vel')?.channels).toBe(3)
    expect(puff.volume?.read('nothing')).toBeNull()
    const facts = await inspectAsset(sample('quay_puff.0003.vdb'))
    expect(facts.ok && facts.value.volume).toMatchObject({ voxel: 0.1 })
    // Of a sequence only the first has a shape.
    expect((await read('quay_puff.0004.vdb', true)).indices).toHaveLength(0)
  })
  it('takes blocks of one value as they are, and says which are too large', async () => {
    const r = await readMesh(sample('tiles.vdb'))
    if (!r.ok) throw new Error(r.problem.message)
    expect(r.notes.join()).toMatch(/blocks? of one value of the grid tiles .* left out/)
    const grid = r.value.volume?.read('tiles')
    const at = (x: number, y: number, z: number) => {
      for (let n = 0; n < (grid?.count ?? 0); n++) {
        const [ox, oy, oz] = grid?.origins.subarray(n * 3, n * 3 + 3) ?? []
        if (x >= ox && x < ox + 8 && y >= oy && y < oy + 8 && z >= oz && z < oz + 8)
          return grid?.values[n * 512 + ((x - ox) << 6) + ((y - oy) << 3) + (z - oz)]
      }
      return 0
    }
    expect([at(8, 16, 24), at(15, 23, 31), at(-128, 0, 0), at(-1, 127, 127), at(640, 0, 5)]).toEqual([2, 2, 3, 3, 1.5])
  })
  it('is refused where it is damaged, with the byte', async () => {
    for (const name of ['broken_header.vdb', 'broken_magic.vdb', 'broken_truncated.vdb']) {
      const r = await readMesh(sample(name))
      expect(r.ok).toBe(false)
      if (!r.ok && name !== 'broken_magic.vdb') expect(r.problem.byte).toBeGreaterThan(0)
    }
  })
})
