import { type Mesh, type StoredGrid, type StoredVolume, smoothNormals, surfaceNets } from '../../engine'
import { bad, type Read } from '../result'
import { joined, type Trio, triosOf } from './joined'
import { openVdb, readTree } from './read'
import { LEAF_VOXELS, type VdbFile, type VdbGridHead, type VdbTree } from './types'

/** Blocks of one value are taken as leaves, as long as there are no more of these than this. */
const MOST_LEAVES = 262_144
/** Samples of the grid from which a shape is made at most; of more, every second is left out, or more. */
const MOST_SAMPLES = { solid: 4_000_000, smoke: 120_000 } as const
/** Smoke begins where there is this share of the most of it. */
const HUSK = 0.04
/** Numbers of grids that stay read. */
const KEPT_NUMBERS = 64 * 1024 * 1024

/** Its leaves with those that its blocks of one value stand for. Says of those that are too large. */
function leavesOf(tree: VdbTree, head: VdbGridHead): { grid: StoredGrid; left: number } {
  const k = tree.channels
  const blocks = tree.tiles.filter((t) => t.active || t.value.some((v) => v !== 0))
  const wide = (level: number) => (level === 1 ? 1 : level === 2 ? 16 : 512)
  let count = tree.count
  const taken = blocks.filter((t) => {
    const n = wide(t.level) ** 3
    if (count + n > MOST_LEAVES) return false
    count += n
    return true
  })
  const origins = new Int32Array(count * 3)
  const values = new Float32Array(count * LEAF_VOXELS * k)
  origins.set(tree.origins)
  values.set(tree.values)
  let n = tree.count
  for (const t of taken)
    for (let i = 0, w = wide(t.level); i < w ** 3; i++, n++) {
      origins.set([t.origin[0] + 8 * Math.floor(i / w / w), t.origin[1] + 8 * (Math.floor(i / w) % w), t.origin[2] + 8 * (i % w)], n * 3)
      for (let v = 0; v < LEAF_VOXELS * k; v++) values[n * LEAF_VOXELS * k + v] = t.value[v % k]
    }
  const matrix = head.matrix.map((row) => row.slice(0, 3))
  return { grid: { channels: k, matrix, count, origins, values }, left: blocks.length - taken.length }
}
/** A solid as smoke: 1 where it is as deep as its distances are known, thinner towards its surface, nothing outside. */
function asFog(tree: VdbTree): VdbTree {
  const band = Math.abs(tree.background[0]) || 1
  const fog = (v: number) => Math.min(1, Math.max(0, -v / band))
  return {
    ...tree,
    background: [0],
    values: tree.values.map(fog),
    tiles: tree.tiles.map((t) => ({ ...t, value: t.value.map(fog), active: t.value[0] < 0 })),
  }
}
/** Grids that were read last, of all files; the oldest are dropped. */
const kept = new Map<VdbVolume, Map<string, StoredGrid | null>>()
function keep(of: VdbVolume, name: string, grid: StoredGrid | null): void {
  const own = kept.get(of) ?? new Map<string, StoredGrid | null>()
  kept.delete(of)
  kept.set(of, own.set(name, grid))
  const numbers = () => [...kept.values()].flatMap((m) => [...m.values()]).reduce((sum, g) => sum + (g?.values.length ?? 0), 0)
  for (const old of kept.keys()) {
    if (old === of || numbers() <= KEPT_NUMBERS) break
    kept.delete(old)
  }
}
/** The grids of a file, which stay packed until somebody asks. */
class VdbVolume implements StoredVolume {
  readonly grids: StoredVolume['grids']
  private readonly trios: readonly Trio[]
  constructor(
    private readonly bytes: Uint8Array,
    private readonly file: VdbFile,
  ) {
    const own = file.grids.flatMap((g) =>
      g.value ? [{ name: g.name, channels: g.value.startsWith('vec3') ? (3 as const) : (1 as const), kind: g.kind }] : [],
    )
    this.trios = triosOf(own)
    this.grids = [...own, ...this.trios.map(({ name }) => ({ name, channels: 3 as const, kind: 'unknown' as const }))]
  }
  read(name: string): StoredGrid | null {
    const known = kept.get(this)?.get(name)
    if (known !== undefined) return known
    const grid = this.vector(name) ?? this.single(name)
    keep(this, name, grid)
    return grid
  }
  private vector(name: string): StoredGrid | null {
    const trio = this.trios.find((t) => t.name === name)
    const components = trio?.components.flatMap((c) => this.single(c) ?? [])
    return components?.length === 3 ? joined(components) : null
  }
  private single(name: string): StoredGrid | null {
    const head = this.file.grids.find((g) => g.name === name && g.value)
    const tree = head && readTree(this.bytes, this.file, head)
    return head && tree?.ok ? leavesOf(head.kind === 'level set' ? asFog(tree.value) : tree.value, head).grid : null
  }
}

/** What of a file is shown as an object: the surface of a solid, or about where its smoke ends. */
interface Shape {
  head: VdbGridHead
  tree: VdbTree
  solid: boolean
}
/** The box of its leaves, in places of the grid; null: there are none. */
function boxOf(tree: VdbTree): { low: number[]; size: [number, number, number] } | null {
  if (!tree.count) return null
  const low = [Infinity, Infinity, Infinity]
  const high = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < tree.origins.length; i++) {
    const a = i % 3
    low[a] = Math.min(low[a], tree.origins[i])
    high[a] = Math.max(high[a], tree.origins[i] + 8)
  }
  return { low: low.map((v) => v - 1), size: high.map((v, a) => v - low[a] + 2) as [number, number, number] }
}
function surfaceOf({ head, tree, solid }: Shape): Mesh | null {
  const box = boxOf(tree)
  if (!box) return null
  let stride = 1
  const dims = () => box.size.map((n) => Math.ceil(n / stride) + 1) as [number, number, number]
  while (dims().reduce((a, b) => a * b, 1) > MOST_SAMPLES[solid ? 'solid' : 'smoke']) stride++
  const [nx, ny, nz] = dims()
  let most = 0
  if (!solid) for (const v of tree.values) if (v > most) most = v
  const level = most * HUSK
  // What no leaf holds is outside of smoke; around a solid it is as its background says, and deep inside what its blocks say.
  const grid = new Float32Array(nx * ny * nz).fill(solid ? tree.background[0] : level)
  const put = (x: number, y: number, z: number, v: number) => {
    const [i, j, k] = [x - box.low[0], y - box.low[1], z - box.low[2]]
    if (i % stride || j % stride || k % stride || i < 0 || j < 0 || k < 0) return
    const o = i / stride + nx * (j / stride + ny * (k / stride))
    if (i / stride < nx && j / stride < ny && k / stride < nz) grid[o] = solid ? v : level - v
  }
  if (solid)
    for (const t of tree.tiles) {
      const w = [8, 128, 4096][t.level - 1]
      // Only the samples that are taken: a block may be of any size.
      const from = t.origin.map((v, a) => box.low[a] + stride * Math.ceil(Math.max(0, v - box.low[a]) / stride))
      const to = t.origin.map((v, a) => Math.min(v + w, box.low[a] + box.size[a]))
      for (let z = from[2]; z < to[2]; z += stride)
        for (let y = from[1]; y < to[1]; y += stride) for (let x = from[0]; x < to[0]; x += stride) put(x, y, z, t.value[0])
    }
  const k = tree.channels
  for (let n = 0; n < tree.count; n++) {
    const [ox, oy, oz] = tree.origins.subarray(n * 3, n * 3 + 3)
    for (let i = 0; i < LEAF_VOXELS; i++) put(ox + (i >> 6), oy + ((i >> 3) & 7), oz + (i & 7), tree.values[(n * LEAF_VOXELS + i) * k])
  }
  if (!(level > 0) && !solid) return null
  const m = head.matrix
  const mesh = surfaceNets(grid, [nx, ny, nz], (x, y, z) => {
    const p = [x, y, z].map((v, a) => v * stride + box.low[a])
    return [0, 1, 2].map((c) => p[0] * m[0][c] + p[1] * m[1][c] + p[2] * m[2][c] + m[3][c]) as [number, number, number]
  })
  return { ...mesh, normals: smoothNormals(mesh, mesh.positions) }
}
const NOTHING: Mesh = { positions: new Float32Array(0), normals: null, indices: new Uint32Array(0), parts: [] }
/**
 * A file of sparse grids as a shape with its volume: a level set as the solid that it is, smoke as about where it ends. Every grid is read once,
 * so that what is damaged is refused here. `following`: of a sequence, of which the first has the shape, and whoever brought it in read it all.
 */
export function readVdb(bytes: Uint8Array, following: boolean): Read<Mesh> {
  const opened = openVdb(bytes)
  if (!opened.ok) return opened
  const file = opened.value
  const notes = [...file.notes]
  let shape: Shape | null = null
  for (const head of following ? [] : file.grids) {
    if (!head.value || head.sharedWith) continue
    const tree = readTree(bytes, file, head)
    if (!tree.ok) return tree
    const { left } = leavesOf(tree.value, head)
    if (left) notes.push(`${left} blocks of one value of the grid ${head.name} are too large and are left out`)
    const solid = head.kind === 'level set'
    // A solid comes before smoke, and density before what else there is.
    const better = !shape || (solid && !shape.solid) || (!shape.solid && head.name === 'density')
    if (tree.value.channels === 1 && better) shape = { head, tree: tree.value, solid }
  }
  if (!file.grids.some((g) => g.value)) return bad('a VDB file without a grid that can be read: export floats or vectors')
  const volume = new VdbVolume(bytes, file)
  const mesh = (shape && surfaceOf(shape)) || NOTHING
  return { ok: true, value: { ...mesh, volume }, notes }
}
