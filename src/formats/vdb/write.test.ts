import { deflateSync } from 'node:zlib'
import { describe, expect, it } from 'vitest'
import { halfTable, VOLUME_TILE, type VolumePart } from '../../engine'
import { fromHalf, toHalf } from '../image/light'
import { gasVdb, openVdb, readTree, type VdbOut, type VdbTree, writeVdb } from '.'
import { fromBlosc, toBlosc } from './blosc'

const UUID = '01234567-89ab-cdef-0123-456789abcdef'
const opened = (bytes: Uint8Array): Map<string, VdbTree> => {
  const r = openVdb(bytes)
  if (!r.ok) throw new Error(r.problem.message)
  return new Map(
    r.value.grids.map((g) => {
      const t = readTree(bytes, r.value, g)
      if (!t.ok) throw new Error(t.problem.message)
      return [g.name, t.value]
    }),
  )
}
let random = 7
const next = () => (random = (Math.imul(random, 1664525) + 1013904223) >>> 0) / 2 ** 32
/** Leaves far apart, one of a single value, and tiles of every size. */
function some(channels: 1 | 3): VdbTree {
  const places = [
    [0, 0, 0],
    [-8, 16, 120],
    [128, -4096, 8],
    [4096, 8, 4088],
  ]
  const count = places.length
  const values = new Float32Array(count * 512 * channels)
  const masks = new Uint8Array(count * 64)
  for (let i = 0; i < count * 512; i++) {
    const same = i >= 512 && i < 1024
    if (!same && next() < 0.6) continue
    masks[i >> 3] |= 1 << (i & 7)
    for (let a = 0; a < channels; a++) values[i * channels + a] = same ? 3 : Math.round(next() * 64 - 16) / 8 || 0
  }
  const value = Array.from({ length: channels }, (_, a) => 2 + a)
  return {
    ...{ channels, background: Array(channels).fill(0), count, origins: Int32Array.from(places.flat()), masks, values },
    tiles: [
      { level: 1, origin: [8, 8, 8], value, active: true },
      { level: 2, origin: [256, 0, 0], value, active: true },
      { level: 3, origin: [8192, 0, 0], value, active: false },
    ],
  }
}
const leaves = (t: VdbTree) =>
  Object.fromEntries(
    Array.from({ length: t.count }, (_, n) => [
      [...t.origins.subarray(n * 3, n * 3 + 3)].join(),
      [[...t.masks.subarray(n * 64, n * 64 + 64)], [...t.values.subarray(n * 512 * t.channels, (n + 1) * 512 * t.channels)]],
    ]),
  )
const written = (o: Partial<VdbOut>, trees: VdbTree[]) =>
  writeVdb({
    ...{ voxel: 0.1, origin: [1, 2, 3], half: false, packing: 'blosc', metadata: { frame: 12, scale: 0.5, note: 'quay' }, uuid: UUID },
    grids: trees.map((tree, i) => ({ name: `grid ${i}`, kind: 'unknown', tree })),
    ...o,
  })

describe('writing VDB files', () => {
  it.each([
    ['none', false],
    ['none', true],
    ['zip', false],
    ['zip', true],
    ['blosc', false],
    ['blosc', true],
  ] as const)('gives back what was written, packed by %s, halves: %s', (packing, half) => {
    const trees = [some(1), some(3)]
    const bytes = written({ packing, half }, trees)
    const r = openVdb(bytes)
    if (!r.ok) throw new Error(r.problem.message)
    expect(r.value.metadata).toEqual({ frame: 12, scale: 0.5, note: 'quay' })
    expect(r.value.grids[0].matrix).toEqual([
      [0.1, 0, 0, 0],
      [0, 0.1, 0, 0],
      [0, 0, 0.1, 0],
      [1, 2, 3, 1],
    ])
    expect(r.value.grids.every((g) => g.half === half)).toBe(true)
    for (const [i, tree] of [...opened(bytes).values()].entries()) {
      const { [trees[i].origins.subarray(3, 6).join()]: single, ...rest } = leaves(trees[i])
      expect(single).toBeDefined()
      // All numbers are multiples of an eighth: halves hold them. The leaf of one value has become a tile.
      expect(leaves(tree)).toEqual(rest)
      const tiles = [...trees[i].tiles, { level: 1, origin: [-8, 16, 120], value: Array(tree.channels).fill(3), active: true }]
      expect(tree.tiles).toHaveLength(tiles.length)
      for (const t of tiles) expect(tree.tiles).toContainEqual(t)
    }
  })
  it('keeps what lies outside of what is active', () => {
    const tree = some(1)
    const off = tree.masks.indexOf(0)
    tree.values[off * 8] = -4
    const back = [...opened(written({}, [tree])).values()][0]
    expect(leaves(back)[tree.origins.subarray(0, 3).join()] ?? null).not.toBeNull()
    const n = off >> 6
    const origin = [...tree.origins.subarray(n * 3, n * 3 + 3)].join()
    expect(leaves(back)[origin][1][(off * 8) % 512]).toBe(-4)
  })
  it('writes a gas: where its voxels lie, its temperatures absolute, each within what a half can say', () => {
    const tiles = 3
    const part: VolumePart = {
      kind: 'volume',
      element: 'g',
      voxel: 0.05,
      low: [-1, 0, 2],
      tiles,
      data: new ArrayBuffer(tiles * (4 + 3 * 1024)),
    }
    new Uint32Array(part.data, 0, tiles).set([1 | (2 << 10) | (3 << 20), 0, 5])
    const halves = new Uint16Array(part.data, tiles * 4)
    for (let n = 0; n < 2; n++)
      for (let i = 0; i < 512; i++) {
        if (next() < 0.4) continue
        halves[n * 1536 + i] = toHalf(next() * 2)
        halves[n * 1536 + 512 + i] = toHalf(next() * 1500)
      }
    for (const packing of ['zip', 'blosc'] as const)
      for (const half of [true, false]) {
        const all = opened(gasVdb(part, { frame: 3, rate: 24, name: 'smoke', half, packing, deflate: (b) => deflateSync(b, { level: 1 }) }))
        expect([...all.keys()]).toEqual(['density', 'temperature'])
        const [density, heat] = ['density', 'temperature'].map((n) => all.get(n) as VdbTree)
        expect(heat.background).toEqual([293])
        expect([...density.origins]).toEqual(expect.arrayContaining([8, 16, 24]))
        for (let n = 0; n < density.count; n++) {
          const tile = density.origins[n * 3] === 8 ? 0 : 1
          for (let i = 0; i < 512; i++) {
            const leaf = ((i & 7) << 6) | (((i >> 3) & 7) << 3) | (i >> 6)
            expect(density.values[n * 512 + leaf]).toBe(fromHalf(halves[tile * 1536 + i]))
            if (!halves[tile * 1536 + i] && !halves[tile * 1536 + 512 + i]) continue
            const kelvin = fromHalf(halves[tile * 1536 + 512 + i]) + 293
            expect(Math.abs(heat.values[n * 512 + leaf] / kelvin - 1)).toBeLessThan(2 ** -11)
          }
        }
        // The same frame is the same file.
        const again = () => gasVdb(part, { frame: 3, rate: 24, name: 'smoke', half, packing })
        expect(again()).toEqual(again())
      }
    expect(VOLUME_TILE).toBe(8)
    expect(halfTable()[0x3c00]).toBe(1)
  })
})

describe('blosc', () => {
  it('gives back any bytes', () => {
    for (const n of [1, 3, 15, 16, 40, 1010, 2048, 70_000])
      for (const kind of [0, 1, 2]) {
        const b = Uint8Array.from({ length: n }, (_, i) =>
          kind === 0 ? i & 3 : kind === 1 ? (i % 300 < 200 ? 7 : next() * 256) : next() * 4,
        )
        const packed = toBlosc(b)
        if (!packed) continue
        expect(packed.length).toBeLessThan(n)
        expect(fromBlosc(packed, n)).toEqual(b)
        expect(typeof fromBlosc(packed, n + 1)).toBe('string')
        expect(typeof fromBlosc(packed.subarray(0, packed.length - 1), n)).toBe('string')
      }
    expect(toBlosc(new Uint8Array(2048))?.length).toBeLessThan(60)
  })
})
