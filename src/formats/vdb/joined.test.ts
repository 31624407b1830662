import { describe, expect, it } from 'vitest'
import { writeVdb } from '.'
import { joined, triosOf } from './joined'
import type { VdbTree } from './types'
import { readVdb } from './volume'

const single = (name: string) => ({ name, channels: 1 as const, kind: 'unknown' as const })
/** One leaf for each place, in which every sample is another number. */
function tree(places: readonly number[][], times: number): VdbTree {
  const values = Float32Array.from({ length: places.length * 512 }, (_, i) => times * (i % 64))
  return {
    ...{ channels: 1, background: [0], count: places.length, origins: Int32Array.from(places.flat()), values, tiles: [] },
    masks: new Uint8Array(places.length * 64).fill(255),
  }
}

describe('components of a vector', () => {
  it('are found by their names, of any case and with either mark, where all three are there', () => {
    expect(triosOf(['vel.x', 'density', 'vel.y', 'vel.z'].map(single))).toEqual([{ name: 'vel', components: ['vel.x', 'vel.y', 'vel.z'] }])
    expect(triosOf(['V_X', 'V_Y', 'V_Z'].map(single)).map((t) => t.name)).toEqual(['V'])
    expect(triosOf(['vel.x', 'vel.y', 'vel_z'].map(single))).toEqual([])
    expect(triosOf(['vel.x', 'vel.y'].map(single))).toEqual([])
    expect(triosOf([single('vel'), ...['vel.x', 'vel.y', 'vel.z'].map(single)])).toEqual([])
  })
  it('are one vector over all places that any of them has', () => {
    const [a, b] = [
      [0, 0, 0],
      [8, -16, 24],
    ]
    const bytes = writeVdb({
      ...{ voxel: 0.25, origin: [1, 0, 0], half: false, packing: 'zip', metadata: {}, uuid: '01234567-89ab-cdef-0123-456789abcdef' },
      grids: [
        { name: 'vel.x', kind: 'unknown', tree: tree([a, b], 1) },
        { name: 'vel.y', kind: 'unknown', tree: tree([b], 10) },
        { name: 'vel.z', kind: 'unknown', tree: tree([a], -1) },
      ],
    })
    const r = readVdb(bytes, true)
    if (!r.ok) throw new Error(r.problem.message)
    expect(r.value.volume?.grids.map((g) => [g.name, g.channels])).toEqual([
      ['vel.x', 1],
      ['vel.y', 1],
      ['vel.z', 1],
      ['vel', 3],
    ])
    const grid = r.value.volume?.read('vel')
    if (!grid) throw new Error('not joined')
    expect(grid).toMatchObject({ channels: 3, count: 2 })
    const leaf = (o: number[]) => [0, 1].find((n) => o.every((v, c) => grid.origins[n * 3 + c] === v)) as number
    const at = (o: number[], i: number) => [...grid.values.subarray((leaf(o) * 512 + i) * 3, (leaf(o) * 512 + i) * 3 + 3)]
    expect(at(a, 5)).toEqual([5, 0, -5])
    expect(at(b, 67)).toEqual([3, 30, 0])
    expect(grid.matrix).toEqual(r.value.volume?.read('vel.x')?.matrix)
  })
  it('that do not lie alike stay apart', () => {
    const grid = (x: number) => ({
      ...{ channels: 1 as const, count: 1, origins: Int32Array.of(0, 0, 0), values: new Float32Array(512) },
      matrix: [
        [1, 0, 0],
        [0, 1, 0],
        [0, 0, 1],
        [x, 0, 0],
      ],
    })
    expect(joined([grid(0), grid(0.5), grid(0)])).toBeNull()
    expect(joined([grid(0.5), grid(0.5), grid(0.5)])).toMatchObject({ count: 1 })
  })
})
