import { type Allocator, DISTANCE, type KernelExports, LEAF_BYTES, writeRecord } from '../memory'
import { copyIn } from './copyIn'
import { type Bounds, boundsOf, guideCountOf, isClosed, type Mesh } from './mesh'
import { type RegionAt, type SiteBlocks, SiteLists } from './siteLists'
import { buildSurfaceTree, type SurfaceTree } from './surfaceTree'

/** Faces to be born on, as pointers into the World's memory. */
export interface FaceBlocks {
  positions: number
  /** The places at the end of the substep, or 0 while the shape stands. */
  positionsEnd: number
  indices: number
  areas: number
  guide: number
  guideCount: number
  whole: number
  /** Amount of a region per vertex, or 0: all of it. */
  amounts: number
}
interface AreaTable {
  areas: number
  guide: number
  guideCount: number
  whole: number
  amounts: number
  /** Of which places and amounts it was made. */
  stamp: number
  from: Float32Array | null
  /** And of which stretch. */
  stretch: string
}
interface CastTree extends SurfaceTree {
  ends: number
  closed: boolean
  stamp: number
}

/**
 * A mesh in the World's memory: what births and casts read. Blocks are made when first asked for. One that changes shape is moved to
 * each substep; then everything holds its places at the start and at the end of it.
 */
export class Surface {
  bounds: Bounds
  private indices = 0
  /** Places at the start and at the end of the substep; of one that keeps its shape both are the same block. */
  private from = 0
  private to = 0
  private fromPlaces: Float32Array
  private toPlaces: Float32Array
  private toTime = Number.NaN
  /** Counts the moves: what was made of older places is made again when it is asked for. */
  private stamp = 0
  private tables = new Map<string, AreaTable>()
  private tree: CastTree | null = null
  private picks = 0
  private axes = 0
  private grids = new Map<number, number>()
  private sites: SiteLists

  constructor(
    private heap: Allocator,
    readonly mesh: Mesh,
    private kernels: KernelExports,
    readonly changes = false,
  ) {
    this.bounds = boundsOf(mesh)
    this.fromPlaces = this.toPlaces = mesh.positions
    this.sites = new SiteLists(heap)
  }
  /** To the places at both ends of a substep. `shape` gives the places at a time; the same array again says that nothing moved. */
  move(t0: number, t1: number, shape: (t: number) => Float32Array): void {
    const before = [this.fromPlaces, this.toPlaces]
    this.fromPlaces = t0 === this.toTime ? this.toPlaces : shape(t0)
    this.toPlaces = shape(t1)
    this.toTime = t1
    if (this.fromPlaces === before[0] && this.toPlaces === before[1]) return
    this.stamp++
    const a = boundsOf({ ...this.mesh, positions: this.fromPlaces })
    const b = this.toPlaces === this.fromPlaces ? a : boundsOf({ ...this.mesh, positions: this.toPlaces })
    this.bounds = {
      min: a.min.map((v, i) => Math.min(v, b.min[i])) as Bounds['min'],
      max: a.max.map((v, i) => Math.max(v, b.max[i])) as Bounds['max'],
    }
    if (this.from) this.writePlaces()
  }
  private writePlaces(): void {
    this.heap.f32(this.from, this.fromPlaces.length).set(this.fromPlaces)
    if (this.to !== this.from) this.heap.f32(this.to, this.toPlaces.length).set(this.toPlaces)
  }
  private places(): void {
    if (this.from) return
    this.indices = copyIn(this.heap, this.mesh.indices)
    this.from = this.heap.take(Math.max(4, this.mesh.positions.byteLength))
    this.to = this.changes ? this.heap.take(Math.max(4, this.mesh.positions.byteLength)) : this.from
    this.writePlaces()
  }
  /**
   * Distances to it on a grid with so many cells along its longest side, or 0 for one that is open or changes shape: those are met as they
   * are. Made once for each number of cells, by the job that `run` does.
   */
  forDistances(cells: number, run: (record: number, slabs: number) => void): number {
    if (this.changes || !this.mesh.indices.length || !this.forCast().closed) return 0
    const known = this.grids.get(cells)
    if (known) return known
    const size = this.bounds.max.map((v, a) => v - this.bounds.min[a])
    const cell = Math.max(...size) / cells
    if (!(cell > 0)) return 0
    // Two cells around it: outside them the way to the border is added.
    const dims = size.map((s) => Math.ceil(s / cell) + 5)
    const distances = DISTANCE.bytes + dims[0] * dims[1] * dims[2] * 4
    const at = this.heap.take(distances + dims.reduce((n, d) => n * (d >> 1), 1))
    const { nodes, leaves } = this.forCast()
    const low = this.bounds.min.map((x) => x - 2 * cell)
    writeRecord(this.heap.view(), at, DISTANCE, { dims, low, inverse: 1 / cell, cell, nodes, leaves, blocks: at + distances })
    try {
      run(at, dims[2])
    } catch (error) {
      this.heap.give(at)
      throw error
    }
    this.kernels.sumBlocks(at)
    this.grids.set(cells, at)
    return at
  }
  /** Corners of each triangle, and the places at both ends of the substep. */
  forPlaces(): { indices: number; from: number; to: number } {
    this.places()
    return { indices: this.indices, from: this.from, to: this.to }
  }
  /** Running sums of the areas that the triangles have in the mesh as it was made: what is picked by them stays picked, however it changes. */
  forPicks(): { areas: number; count: number } {
    const { positions: p, indices } = this.mesh
    const count = indices.length / 3
    if (!this.picks) {
      const sums = new Float32Array(count)
      let sum = 0
      for (let t = 0; t < count; t++) {
        const [a, b, c] = [indices[t * 3] * 3, indices[t * 3 + 1] * 3, indices[t * 3 + 2] * 3]
        const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]]
        const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]]
        const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
        sum += Math.sqrt(nx * nx + ny * ny + nz * nz)
        sums[t] = sum
      }
      this.picks = copyIn(this.heap, sums)
    }
    return { areas: this.picks, count }
  }
  /** All faces, evenly by area, or by area times the amount of a region. `stretch`: see stretchOf; areas are those of the world. */
  forBirth(region: RegionAt | null = null, stretch: readonly number[] | null = null): FaceBlocks {
    this.places()
    const count = this.mesh.indices.length / 3
    const t = this.areaTable(region, count)
    const stretchKey = stretch?.join() ?? ''
    if (t.stamp !== this.stamp || (region && t.from !== region.amounts) || t.stretch !== stretchKey) {
      if (region) this.heap.f32(t.amounts, region.amounts.length).set(region.amounts)
      if (stretch) {
        this.axes ||= this.heap.take(24)
        this.heap.f32(this.axes, 6).set(stretch)
      }
      const { amounts, areas, guide, guideCount } = t
      t.whole = this.kernels.sumAreas(this.from, this.indices, count, amounts, areas, guide, guideCount, stretch ? this.axes : 0)
      t.stamp = this.stamp
      t.from = region?.amounts ?? null
      t.stretch = stretchKey
    }
    const { areas, guide, guideCount, whole, amounts } = t
    const positionsEnd = this.changes ? this.to : 0
    return { positions: this.from, positionsEnd, indices: this.indices, areas, guide, guideCount, whole, amounts }
  }
  private areaTable(region: RegionAt | null, count: number): AreaTable {
    const key = region?.key ?? ''
    let t = this.tables.get(key)
    if (!t) {
      const guideCount = guideCountOf(count)
      t = {
        areas: this.heap.take(Math.max(4, count * 4)),
        guide: this.heap.take(guideCount * 4),
        guideCount,
        whole: 0,
        amounts: region ? this.heap.take(Math.max(4, region.amounts.byteLength)) : 0,
        stamp: -1,
        from: null,
        stretch: '',
      }
      this.tables.set(key, t)
    }
    return t
  }
  /** Running share of the triangles up to and with one of them, of the table that `forBirth` gave. */
  upTo(faces: FaceBlocks, triangle: number): number {
    return triangle < 0 ? 0 : this.heap.view().getFloat32(faces.areas + triangle * 4, true)
  }
  /** The hierarchy, of one that changes shape fitted to both ends of the substep. */
  forCast(): { nodes: number; leaves: number; ends: number; closed: boolean; triangles: number } {
    if (!this.tree) {
      this.places()
      const shape = { ...this.mesh, positions: this.fromPlaces }
      const tree = buildSurfaceTree(this.heap, this.kernels, shape, { positions: this.from, indices: this.indices })
      const ends = this.changes ? this.heap.take(tree.leafCount * LEAF_BYTES) : 0
      this.tree = { ...tree, ends, closed: isClosed(this.mesh), stamp: this.changes ? -1 : this.stamp }
    }
    const t = this.tree
    if (t.stamp !== this.stamp) {
      this.places()
      this.kernels.refit(t.nodes, t.nodeCount, t.leaves, t.ends, t.leafCount, t.triangles, this.indices, this.from, this.to)
      t.stamp = this.stamp
    }
    return t
  }
  private get shape() {
    return this.changes
      ? { mesh: { ...this.mesh, positions: this.fromPlaces }, end: this.toPlaces, stamp: this.stamp }
      : { mesh: this.mesh, end: null, stamp: this.stamp }
  }
  /** Corner points, each once; with a region, in shares of its amounts. */
  vertices(region: RegionAt | null = null): SiteBlocks | null {
    return this.sites.vertices(this.shape, region)
  }
  edges(region: RegionAt | null = null, stretch: readonly number[] | null = null): SiteBlocks | null {
    return this.sites.edges(this.shape, region, stretch)
  }
  /** The lattice points inside, in the surface's own space; null when the spacing asks for too many. `scratch`: as the birth kernel's. */
  lattice(spacing: number, scratch: { stack: number; hit: number }): SiteBlocks | null {
    const { nodes, leaves } = this.forCast()
    const reach = 2 * [0, 1, 2].reduce((s, a) => s + this.bounds.max[a] - this.bounds.min[a], 0)
    const isInside = (x: number, y: number, z: number) =>
      this.kernels.insideMesh(nodes, leaves, x, y, z, reach, scratch.stack, scratch.hit) !== 0
    return this.sites.lattice(this.shape, spacing, this.bounds, isInside)
  }
  dispose(): void {
    const { tree } = this
    const tables = [...this.tables.values()].flatMap((t) => [t.areas, t.guide, t.amounts])
    const trees = tree ? [tree.nodes, tree.leaves, tree.triangles, tree.ends] : []
    const own = new Set([this.indices, this.from, this.to, this.picks, this.axes, ...this.grids.values(), ...tables, ...trees])
    for (const at of own) if (at) this.heap.give(at)
    this.indices = this.from = this.to = this.picks = this.axes = 0
    this.tree = null
    this.tables.clear()
    this.grids.clear()
    this.sites.dispose()
  }
}
