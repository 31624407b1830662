import { buildBvh } from './geometry/bvh'
import { type Bounds, boundsOf, guideCountOf, guideOf, isClosed, type Mesh } from './geometry/mesh'
import { edgeSites, latticeSites, vertexSites } from './geometry/sites'
import { MemoryRefused } from './errors'
import type { Heap } from './heap'
import type { KernelExports } from './kernels'
import { DISTANCE, LEAF_BYTES, NODE_BYTES, TREE } from './layout'

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
/** A list of places in the World's memory; with indices and lengths it is one of edges. */
export interface SiteBlocks {
  positions: number
  positionsEnd: number
  normals: number
  indices: number
  lengths: number
  guide: number
  guideCount: number
  whole: number
  /** Amount of a region per site, or 0. */
  amounts: number
  count: number
}
/** A region at a moment: a name for what stays the same, and the amount of each vertex. */
export interface RegionAt {
  key: string
  amounts: Float32Array
}
interface Table {
  areas: number
  guide: number
  guideCount: number
  whole: number
  amounts: number
  /** Of which places and amounts it was made. */
  stamp: number
  from: Float32Array | null
}
/** Lattices of one surface that are kept; a keyed spacing must not fill the memory. */
const LATTICES = 4

/**
 * A mesh in the World's memory: what births and casts read. Blocks are made when first asked for. One that changes shape is moved to
 * each substep; then everything holds its places at the start and at the end of it.
 */
export class Surface {
  bounds: Bounds
  private indices = 0
  /** Places at the start and at the end of the substep; of one that stands both are the same block. */
  private from = 0
  private to = 0
  private fromPlaces: Float32Array
  private toPlaces: Float32Array
  private toTime = Number.NaN
  /** Counts the moves: what was made of older places is made anew when it is asked for. */
  private stamp = 0
  private tables = new Map<string, Table>()
  private collider: {
    nodes: number
    leaves: number
    ends: number
    triangles: number
    nodeCount: number
    leafCount: number
    closed: boolean
    stamp: number
  } | null = null
  private picks = 0
  private grids = new Map<number, number>()
  private lists = new Map<string, { blocks: SiteBlocks | null; stamp: number; of: Float32Array | null }>()

  constructor(
    private heap: Heap,
    readonly mesh: Mesh,
    private kernels: KernelExports,
    readonly changes = false,
  ) {
    this.bounds = boundsOf(mesh)
    this.fromPlaces = this.toPlaces = mesh.positions
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
    this.indices = this.block(this.mesh.indices)
    this.from = this.heap.take(Math.max(4, this.mesh.positions.byteLength))
    this.to = this.changes ? this.heap.take(Math.max(4, this.mesh.positions.byteLength)) : this.from
    this.writePlaces()
  }
  private block(data: Float32Array | Uint32Array): number {
    const at = this.heap.take(Math.max(4, data.byteLength))
    // As words: some bits would not be numbers as floats, and a copy may change those.
    this.heap.u32(at, data.length).set(new Uint32Array(data.buffer, data.byteOffset, data.length))
    return at
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
    const nodes = DISTANCE.data + dims[0] * dims[1] * dims[2] * 4
    const at = this.heap.take(nodes + dims.reduce((n, d) => n * (d >> 1), 1))
    const cast = this.forCast()
    const v = this.heap.view()
    dims.forEach((n, a) => v.setInt32(at + DISTANCE.dims + a * 4, n, true))
    this.bounds.min.forEach((x, a) => v.setFloat32(at + DISTANCE.low + a * 4, x - 2 * cell, true))
    v.setFloat32(at + DISTANCE.inverse, 1 / cell, true)
    v.setFloat32(at + DISTANCE.cell, cell, true)
    v.setUint32(at + DISTANCE.nodes, cast.nodes, true)
    v.setUint32(at + DISTANCE.leaves, cast.leaves, true)
    v.setUint32(at + DISTANCE.blocks, at + nodes, true)
    run(at, dims[2])
    this.kernels.sumBlocks(at)
    this.grids.set(cells, at)
    return at
  }
  /** Corners of each triangle, and the places at both ends of the substep. */
  forPlaces(): { indices: number; from: number; to: number } {
    this.places()
    return { indices: this.indices, from: this.from, to: this.to }
  }
  /**
   * Running sums of the areas that the triangles have in the mesh as it was made: what is picked by them stays picked, however it changes.
   */
  forPicks(): { areas: number; count: number } {
    const { positions: p, indices } = this.mesh
    const count = indices.length / 3
    if (!this.picks) {
      const sums = new Float32Array(count)
      let sum = 0
      for (let t = 0; t < count; t++) {
        const [a, b, c] = [indices[t * 3] * 3, indices[t * 3 + 1] * 3, indices[t * 3 + 2] * 3]
        const [ux, uy, uz, vx, vy, vz] = [
          p[b] - p[a],
          p[b + 1] - p[a + 1],
          p[b + 2] - p[a + 2],
          p[c] - p[a],
          p[c + 1] - p[a + 1],
          p[c + 2] - p[a + 2],
        ]
        const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
        sum += Math.sqrt(nx * nx + ny * ny + nz * nz)
        sums[t] = sum
      }
      this.picks = this.block(sums)
    }
    return { areas: this.picks, count }
  }
  /** All faces, evenly by area, or by area times the amount of a region. */
  forBirth(region: RegionAt | null = null): FaceBlocks {
    this.places()
    const count = this.mesh.indices.length / 3
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
      }
      this.tables.set(key, t)
    }
    if (t.stamp !== this.stamp || (region && t.from !== region.amounts)) {
      if (region) this.heap.f32(t.amounts, region.amounts.length).set(region.amounts)
      t.whole = this.kernels.sumAreas(this.from, this.indices, count, t.amounts, t.areas, t.guide, t.guideCount)
      t.stamp = this.stamp
      t.from = region?.amounts ?? null
    }
    return {
      positions: this.from,
      positionsEnd: this.changes ? this.to : 0,
      indices: this.indices,
      areas: t.areas,
      guide: t.guide,
      guideCount: t.guideCount,
      whole: t.whole,
      amounts: t.amounts,
    }
  }
  /** Running share of the triangles up to and with one of them, of the table that `forBirth` gave. */
  upTo(faces: FaceBlocks, triangle: number): number {
    return triangle < 0 ? 0 : this.heap.view().getFloat32(faces.areas + triangle * 4, true)
  }
  /** The hierarchy, of one that changes shape fitted to both ends of the substep. */
  forCast(): { nodes: number; leaves: number; ends: number; closed: boolean; triangles: number } {
    if (!this.collider) {
      const tree = this.tree()
      this.collider = {
        ...tree,
        ends: this.changes ? this.heap.take(tree.leafCount * LEAF_BYTES) : 0,
        closed: isClosed(this.mesh),
        stamp: this.changes ? -1 : this.stamp,
      }
    }
    const c = this.collider
    if (c.stamp !== this.stamp) {
      this.places()
      this.kernels.refit(c.nodes, c.nodeCount, c.leaves, c.ends, c.leafCount, c.triangles, this.indices, this.from, this.to)
      c.stamp = this.stamp
    }
    return c
  }
  /**
   * Built by the kernel in blocks of the largest size there can be, then copied into ones that fit; by TypeScript where there is no room
   * for that.
   */
  private tree(): { nodes: number; leaves: number; triangles: number; nodeCount: number; leafCount: number } {
    this.places()
    const n = this.mesh.indices.length / 3
    const room = Math.max(1, n)
    const taken: number[] = []
    const take = (bytes: number) => {
      const at = this.heap.take(bytes)
      taken.push(at)
      return at
    }
    const fit = (from: number, bytes: number) => {
      const to = this.heap.take(Math.max(4, bytes))
      new Uint8Array(this.heap.memory.buffer).copyWithin(to, from, from + bytes)
      return to
    }
    try {
      const [boxes, order, nodes, leaves, triangles, scratch] = [
        room * 32,
        room * 4,
        room * NODE_BYTES,
        room * LEAF_BYTES,
        room * 16,
        TREE.scratchBytes,
      ].map(take)
      const nodeCount = this.kernels.buildTree(this.from, this.indices, n, boxes, order, nodes, leaves, triangles, scratch)
      if (nodeCount >= 0) {
        const leafCount = Math.max(1, this.heap.view().getInt32(scratch + TREE.leaves, true))
        return {
          nodes: fit(nodes, nodeCount * NODE_BYTES),
          leaves: fit(leaves, leafCount * LEAF_BYTES),
          triangles: fit(triangles, leafCount * 16),
          nodeCount,
          leafCount,
        }
      }
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
    } finally {
      for (const at of taken) this.heap.give(at)
    }
    const bvh = buildBvh({ ...this.mesh, positions: this.fromPlaces })
    const words = (b: ArrayBuffer) => this.block(new Uint32Array(b))
    return {
      nodes: words(bvh.nodes),
      leaves: words(bvh.leaves),
      triangles: this.block(bvh.triangles),
      nodeCount: bvh.nodeCount,
      leafCount: bvh.leafCount,
    }
  }
  private drop(b: SiteBlocks | null): void {
    for (const at of new Set(b ? [b.positions, b.positionsEnd, b.normals, b.indices, b.lengths, b.guide, b.amounts] : []))
      if (at) this.heap.give(at)
  }
  private list(key: string, region: RegionAt | null, make: () => SiteBlocks | null): SiteBlocks | null {
    const known = this.lists.get(key)
    const of = region?.amounts ?? null
    if (known?.stamp === this.stamp && known.of === of) return known.blocks
    if (known) this.drop(known.blocks)
    const made = { blocks: make(), stamp: this.stamp, of }
    this.lists.set(key, made)
    return made.blocks
  }
  private put(
    positions: Float32Array,
    end: Float32Array | null,
    normals: Float32Array,
    more: { indices: Uint32Array; lengths: Float32Array } | null,
    amounts: Float32Array | null = null,
  ): SiteBlocks {
    const steps = more && guideOf(more.lengths)
    return {
      positions: this.block(positions),
      positionsEnd: end ? this.block(end) : 0,
      normals: this.block(normals),
      indices: more ? this.block(more.indices) : 0,
      lengths: more ? this.block(more.lengths) : 0,
      guide: steps ? this.block(steps) : 0,
      guideCount: steps?.length ?? 0,
      whole: more?.lengths.at(-1) ?? 0,
      amounts: amounts ? this.block(amounts) : 0,
      count: more ? more.lengths.length : positions.length / 3,
    }
  }
  private now(): Mesh {
    return this.changes ? { ...this.mesh, positions: this.fromPlaces } : this.mesh
  }
  /** Places at the end of the substep of sites that stand on vertices. */
  private later(first: Uint32Array): Float32Array | null {
    if (!this.changes) return null
    const out = new Float32Array(first.length * 3)
    first.forEach((v, i) => out.set(this.toPlaces.subarray(v * 3, v * 3 + 3), i * 3))
    return out
  }
  /** Corner points, each once; with a region, in shares of its amounts. */
  vertices(region: RegionAt | null = null): SiteBlocks | null {
    return this.list(`vertices ${region?.key ?? ''}`, region, () => {
      const s = vertexSites(this.now())
      if (!region) return this.put(s.positions, this.later(s.first), s.normals, null)
      // As edges without length, whose sums are those of the amounts.
      const indices: number[] = [],
        sums: number[] = []
      let sum = 0
      s.first.forEach((v, i) => {
        if (!(region.amounts[v] > 0)) return
        sum += region.amounts[v]
        indices.push(i, i, i)
        sums.push(sum)
      })
      return this.put(s.positions, this.later(s.first), s.normals, { indices: new Uint32Array(indices), lengths: new Float32Array(sums) })
    })
  }
  edges(region: RegionAt | null = null): SiteBlocks | null {
    return this.list(`edges ${region?.key ?? ''}`, region, () => {
      const e = edgeSites(this.now(), region ? (v) => region.amounts[v] : undefined)
      return this.put(e.positions, this.later(e.first), e.normals, e, region && Float32Array.from(e.first, (v) => region.amounts[v]))
    })
  }
  /** The lattice points inside, in the surface's own space; null when the spacing asks for too many. `scratch`: as the birth kernel's. */
  lattice(spacing: number, scratch: { stack: number; hit: number }): SiteBlocks | null {
    const key = `lattice ${spacing}`
    if (!this.lists.has(key)) {
      const old = [...this.lists.keys()].filter((k) => k.startsWith('lattice'))
      if (old.length >= LATTICES) {
        this.drop(this.lists.get(old[0])?.blocks ?? null)
        this.lists.delete(old[0])
      }
    }
    return this.list(key, null, () => {
      const cast = this.forCast()
      const reach = 2 * [0, 1, 2].reduce((s, a) => s + this.bounds.max[a] - this.bounds.min[a], 0)
      const sites = latticeSites(
        this.bounds,
        spacing,
        (x, y, z) => this.kernels.insideMesh(cast.nodes, cast.leaves, x, y, z, reach, scratch.stack, scratch.hit) !== 0,
      )
      return sites && this.put(sites.positions, null, sites.normals, null)
    })
  }
  dispose(): void {
    for (const b of this.lists.values()) this.drop(b.blocks)
    this.lists.clear()
    for (const t of this.tables.values()) for (const at of [t.areas, t.guide, t.amounts]) if (at) this.heap.give(at)
    this.tables.clear()
    for (const at of new Set([this.indices, this.from, this.to, this.picks])) if (at) this.heap.give(at)
    this.indices = this.from = this.to = this.picks = 0
    for (const at of this.grids.values()) this.heap.give(at)
    this.grids.clear()
    if (this.collider)
      for (const at of [this.collider.nodes, this.collider.leaves, this.collider.ends, this.collider.triangles]) if (at) this.heap.give(at)
    this.collider = null
  }
}
