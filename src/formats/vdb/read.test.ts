import { describe, expect, it } from 'vitest'
import { looksLikeVdb, openVdb, readTree, type VdbTree } from '.'
import expected from './samples/expected.json'
import { sample } from './testing/samples'

interface Expected {
  file_version: number
  has_offsets: boolean
  metadata: Record<string, unknown>
  grids: {
    name: string
    unique_name: string
    type: string
    half: boolean
    class: string
    instance_of: string
    background?: number[]
    leaf_active_voxels?: number
    leaves?: number
    leaf_min?: number[]
    leaf_max?: number[]
    leaf_mean?: number[]
    tiles?: { level: number; origin: number[]; value: number[]; active: boolean }[]
    transform: { map: string; index_to_world?: number[][]; second?: { index_to_world: number[][] } }
    at?: Record<string, number[]>
  }[]
}
const FILES = Object.entries(expected as unknown as Record<string, Expected | { must: string }>)
const WHOLE = FILES.filter((e): e is [string, Expected] => 'grids' in e[1])

function facts(tree: VdbTree) {
  const { channels: k, values, masks } = tree
  const [min, max, sum] = [Infinity, -Infinity, 0].map((v) => Array<number>(k).fill(v))
  let active = 0
  for (let i = 0; i < tree.count * 512; i++) {
    if (!((masks[i >> 3] >> (i & 7)) & 1)) continue
    active++
    for (let a = 0; a < k; a++) {
      const v = values[i * k + a]
      min[a] = Math.min(min[a], v)
      max[a] = Math.max(max[a], v)
      sum[a] += v
    }
  }
  return { active, min, max, mean: sum.map((v) => v / active) }
}
const within = (at: readonly number[], origin: ArrayLike<number>, wide: number) =>
  at.every((v, a) => v >= origin[a] && v < origin[a] + wide)
function valueAt(tree: VdbTree, at: [number, number, number]): number[] {
  const { channels: k } = tree
  for (let n = 0; n < tree.count; n++) {
    const origin = tree.origins.subarray(n * 3, n * 3 + 3)
    if (!within(at, origin, 8)) continue
    const i = n * 512 + (((at[0] & 7) << 6) | ((at[1] & 7) << 3) | (at[2] & 7))
    return [...tree.values.subarray(i * k, (i + 1) * k)]
  }
  return tree.tiles.find((t) => within(at, t.origin, [8, 128, 4096][t.level - 1]))?.value ?? tree.background
}
const close = (a: readonly number[], b: readonly number[]) =>
  a.forEach((v, i) => {
    expect(Math.abs(v - b[i])).toBeLessThanOrEqual(1e-6 * Math.max(1, Math.abs(b[i])))
  })

describe('reading VDB files of the reference library', () => {
  it.each(WHOLE)('finds in %s what the library says', (name, want) => {
    const bytes = sample(name)
    expect(looksLikeVdb(bytes)).toBe(true)
    const r = openVdb(bytes)
    if (!r.ok) throw new Error(r.problem.message)
    const file = r.value
    expect(file.version).toBe(want.file_version)
    expect(file.hasOffsets).toBe(want.has_offsets)
    for (const [k, v] of Object.entries(want.metadata)) expect(file.metadata[k]).toEqual(v)
    expect(file.grids.map((g) => g.name)).toEqual(want.grids.map((g) => g.name))
    for (const [i, g] of file.grids.entries()) {
      const e = want.grids[i]
      expect([g.unique, g.type, g.half, g.kind, g.sharedWith, g.map]).toEqual([
        ...[e.unique_name, e.type, e.half, e.class, e.instance_of, e.transform.map],
      ])
      const matrix = e.transform.index_to_world ?? e.transform.second?.index_to_world ?? []
      matrix.forEach((row, k) => {
        close(g.matrix[k], row)
      })
      expect(g.linear).toBe(e.transform.map !== 'NonlinearFrustumMap')
      const t = readTree(bytes, file, g)
      if (!t.ok) throw new Error(`${g.name}: ${t.problem.message}`)
      const tree = t.value
      if (e.background) close(tree.background, e.background)
      if (e.leaves !== undefined) expect(tree.count).toBe(e.leaves)
      const f = facts(tree)
      if (e.leaf_active_voxels !== undefined && e.leaves) {
        expect(f.active).toBe(e.leaf_active_voxels)
        close(f.min, e.leaf_min ?? [])
        close(f.max, e.leaf_max ?? [])
        close(f.mean, e.leaf_mean ?? [])
      }
      if (e.tiles) expect(tree.tiles.map(({ level, origin, value, active }) => ({ level, origin, value, active }))).toEqual(e.tiles)
      for (const [place, v] of Object.entries(e.at ?? {})) close(valueAt(tree, place.split(',').map(Number) as [number, number, number]), v)
    }
  })
  it('reads grids of yes and no, and one that shares the voxels of another', () => {
    const bytes = sample('many_types.vdb')
    const r = openVdb(bytes)
    if (!r.ok) throw new Error(r.problem.message)
    const tree = (name: string) => {
      const g = r.value.grids.find((x) => x.name === name)
      const t = g && readTree(bytes, r.value, g)
      if (!t?.ok) throw new Error(`${name}: ${t?.problem.message}`)
      return t.value
    }
    const inside = tree('inside')
    const ones = inside.values.reduce((a, b) => a + b, 0) + inside.tiles.filter((t) => t.active).length * 512
    expect(ones).toBe(1000)
    expect(tree('density_far').values).toEqual(tree('density').values)
    expect(tree('mask').count).toBeGreaterThan(0)
  })
})

describe('VDB files that are damaged', () => {
  it.each(FILES.filter((e) => 'must' in e[1]))('refuses %s, and says at which byte', (name) => {
    const bytes = sample(name)
    const r = openVdb(bytes)
    const broken = r.ok ? r.value.grids.map((g) => readTree(bytes, r.value, g)).find((t) => !t.ok) : r
    if (!broken || broken.ok) throw new Error('it was read')
    expect(broken.problem.byte).toBeGreaterThanOrEqual(0)
    expect(broken.problem.message.length).toBeGreaterThan(20)
  })
  it('neither hangs nor falls over when any byte is another', () => {
    let refused = 0
    for (const name of ['tiles.vdb', 'quay_puff.0003.vdb', 'quay_puff.0006.vdb', 'many_types.vdb']) {
      const bytes = sample(name)
      let random = 12345
      const next = (n: number) => {
        random = (Math.imul(random, 1103515245) + 12345) >>> 0
        return random % n
      }
      for (let k = 0; k < 60; k++) {
        const changed = bytes.slice(0, next(5) ? bytes.length : next(bytes.length))
        for (let i = 0; i < 3 && changed.length; i++) changed[next(next(2) ? changed.length : Math.min(2000, changed.length))] = next(256)
        const r = openVdb(changed)
        const all = r.ok ? r.value.grids.map((g) => readTree(changed, r.value, g)) : [r]
        if (all.some((x) => !x.ok)) refused++
      }
    }
    expect(refused).toBeGreaterThan(40)
  })
})
