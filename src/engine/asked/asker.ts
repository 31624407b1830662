import { Grid } from '../fields'
import { VOLUME_TILE, type VolumeGrid, type VolumePart, volumeGrids, volumeTile } from '../frame'
import { buildSurfaceTree, isClosed, type Mesh, type SurfaceTree } from '../geometry'
import { apply, invert, type Matrix, multiply } from '../math'
import {
  Arena,
  ASK,
  ASK_STEP,
  Block,
  Columns,
  JOB,
  type Machine,
  PASS,
  PASSES,
  runJob,
  SORT_BITS,
  TILE_GRID_BYTES,
  writeRecord,
} from '../memory'

/** Places, one array a coordinate, all of one length. */
export interface AskedPlaces {
  x: Float32Array
  y: Float32Array
  z: Float32Array
}
interface Known {
  mesh: Mesh
  tree: SurfaceTree
  indices: number
  positions: number
}
const CHUNK = 256
/** Hierarchies of meshes that are kept: one that changes shape is another mesh each frame. */
const MOST_TREES = 8
/** Fewer places than this are sorted in one part. */
const FEW = 16384

/**
 * What frames do not keep of particles, computed for one frame when a look goes by it: distances to objects, amounts of regions, what gases
 * hold, how many are near; and their order by depth. Results are the same on any number of threads.
 */
export class Asker {
  private readonly arena: Arena
  private readonly machine: Machine
  private readonly record: number
  private readonly job: number
  private readonly blocks = new Map<string, Block>()
  private trees: Known[] = []
  private count = 0
  private last: AskedPlaces | null = null

  constructor(machine: Machine) {
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.record = this.arena.take(ASK.bytes)
    this.job = this.arena.take(JOB.bytes)
  }
  private room(name: string, bytes: number): number {
    let b = this.blocks.get(name)
    if (!b) {
      b = new Block(this.arena)
      this.blocks.set(name, b)
    }
    return b.reserve(bytes)
  }
  private write(values: Parameters<typeof writeRecord<typeof ASK.fields>>[3]): void {
    writeRecord(this.arena.view(), this.record, ASK, values)
  }
  private run(step: keyof typeof ASK_STEP, count: number, chunk: number): void {
    this.write({ step: ASK_STEP[step] })
    runJob(this.machine, this.job, { kind: 'ask', record: this.record, count, chunk, all: count > chunk })
  }
  /** Room for vectors of four, beyond the last too. */
  private column(name: string, count: number): number {
    return this.room(name, count * 4 + 64)
  }
  /** Copies places in, unless they are those of the last question: the same object holds the same numbers. */
  private places(places: AskedPlaces): void {
    const { x, y, z } = places
    if (this.last === places) return
    this.last = places
    this.count = x.length
    const at = { px: this.column('px', x.length), py: this.column('py', x.length), pz: this.column('pz', x.length) }
    this.write({ ...at, out: this.column('out', x.length), count: x.length })
    for (const [name, data] of Object.entries({ px: x, py: y, pz: z }))
      this.arena.f32(this.column(name, data.length), data.length).set(data)
  }
  private answers(): Float32Array {
    return this.arena.f32(this.column('out', this.count), this.count).slice()
  }
  private treeOf(mesh: Mesh): Known {
    const known = this.trees.find((k) => k.mesh === mesh)
    if (known) return known
    const positions = this.arena.take(Math.max(4, mesh.positions.byteLength))
    const indices = this.arena.take(Math.max(4, mesh.indices.byteLength))
    this.arena.f32(positions, mesh.positions.length).set(mesh.positions)
    this.arena.u32(indices, mesh.indices.length).set(mesh.indices)
    const tree = buildSurfaceTree(this.arena, this.machine.host.exports, mesh, { positions, indices })
    if (this.trees.length === MOST_TREES) this.forget(this.trees.shift() as Known)
    const made = { mesh, tree, indices, positions }
    this.trees.push(made)
    return made
  }
  private forget({ tree, indices, positions }: Known): void {
    for (const at of [tree.nodes, tree.leaves, tree.triangles, indices, positions]) this.arena.give(at)
  }
  /**
   * Metres from each place to the surface of a mesh, below zero inside of a closed one. `from` and `of`: from the space of the places, and of the
   * mesh, into the shot, three rows of four. A mesh that is scaled unevenly is taken as it is in the shot. Throws MemoryRefused.
   */
  distance(places: AskedPlaces, from: Matrix, mesh: Mesh, of: Matrix): Float32Array {
    return this.mesh('distance', places, from, mesh, of, null)
  }
  /** The amount, from 0 to 1, that the nearest place of a mesh has of what `amounts` says of its vertices. */
  amount(places: AskedPlaces, from: Matrix, mesh: Mesh, of: Matrix, amounts: Float32Array): Float32Array {
    return this.mesh('amount', places, from, mesh, of, amounts)
  }
  private mesh(
    step: 'distance' | 'amount',
    places: AskedPlaces,
    from: Matrix,
    mesh: Mesh,
    of: Matrix,
    amounts: Float32Array | null,
  ): Float32Array {
    const even = evenScale(of)
    const into = even ? invert(of) : null
    const asked = into ? mesh : { ...mesh, positions: moved(mesh.positions, of) }
    this.places(places)
    const { tree, indices } = this.treeOf(asked)
    this.write({
      ...{ into: [...(into ? multiply(into, from) : from)], scale: into ? (even as number) : 1 },
      ...{ nodes: tree.nodes, leaves: tree.leaves, triangles: tree.triangles, indices, closed: isClosed(mesh) ? 1 : 0 },
      amounts: amounts ? this.floats('amounts', amounts) : 0,
    })
    this.run(step, this.count, CHUNK)
    return this.answers()
  }
  private floats(name: string, data: Float32Array): number {
    const at = this.column(name, data.length)
    this.arena.f32(at, data.length).set(data)
    return at
  }
  /** What a gas holds at each place, trilinear between the middles of voxels; nothing is 0. `from`: from the space of the places into the shot. */
  gas(places: AskedPlaces, from: Matrix, part: VolumePart, grid: VolumeGrid): Float32Array {
    const grids = volumeGrids(part)
    const nth = grids.indexOf(grid)
    if (nth < 0 || !part.tiles) return new Float32Array(places.x.length)
    const tiles = Array.from({ length: part.tiles }, (_, n) => volumeTile(part, n))
    const across = [0, 1, 2].map((a) => tiles.reduce((m, t) => Math.max(m, t[a] + 1), 1))
    const table = this.room('tiles', across[0] * across[1] * across[2] * 4)
    const numbers = this.arena.u32(table, across[0] * across[1] * across[2]).fill(0)
    for (const [n, [i, j, k]] of tiles.entries()) numbers[i + across[0] * (j + across[1] * k)] = n + 1
    const bytes = part.data.byteLength - part.tiles * 4
    const halves = this.room('halves', bytes)
    new Uint8Array(this.arena.memory.buffer, halves, bytes).set(new Uint8Array(part.data, part.tiles * 4))
    const per = 1 / part.voxel
    const [a, b, c] = part.low
    const into = Float64Array.from([per, 0, 0, -a * per, 0, per, 0, -b * per, 0, 0, per, -c * per])
    this.places(places)
    this.write({
      ...{ into: [...multiply(into, from)], tiles: table, across },
      ...{ halves: halves + nth * TILE_GRID_BYTES, tileBytes: grids.length * TILE_GRID_BYTES },
    })
    if (VOLUME_TILE ** 3 * 2 !== TILE_GRID_BYTES) throw new Error('tiles of frames and of kernels differ')
    this.run('gas', this.count, CHUNK)
    return this.answers()
  }
  /** How many other places are nearer to each than a radius, in the space of the places. */
  near({ x, y, z }: AskedPlaces, radius: number): Float32Array {
    const n = x.length
    const heap = new Arena(this.arena)
    const columns = new Columns(heap, [])
    const grid = new Grid({ ...this.machine, heap })
    try {
      columns.reserve(n)
      columns.count = n
      for (const [name, data] of Object.entries({ px: x, py: y, pz: z } as const)) columns.floats(name as 'px').set(data)
      for (let i = 0, ids = columns.words('id'); i < n; i++) ids[i] = i
      grid.build(columns, radius)
      const record = heap.take(PASS.bytes)
      const stride = Math.ceil((n + 8) / 4) * 16
      const out = heap.take(stride)
      const own = { grid: grid.record, kind: PASSES.indexOf('counting'), out, stride, asking: columns.table, count: n, own: 1 }
      writeRecord(heap.view(), record, PASS, own, { words: [radius * radius] })
      runJob(this.machine, this.job, { kind: 'neighbours', record, count: n, chunk: CHUNK, all: n > CHUNK })
      return heap.f32(out, n).slice()
    } finally {
      heap.dispose()
    }
  }
  /**
   * The numbers of places from the farthest to the nearest along a direction, at equal depths in their order, and their depths by number. `place`
   * and `forward` are in the space of the places. Exact: by all 32 bits of a depth. Both are views that hold until the next question.
   */
  order(places: AskedPlaces, place: readonly number[], forward: readonly number[]): { order: Uint32Array; depth: Float32Array } {
    const n = places.x.length
    this.places(places)
    const [x, y, z] = forward
    const words = n * 4 + 64
    const parts = n > FEW ? this.machine.host.team.threads : 1
    this.write({
      into: [x, y, z, -(x * place[0] + y * place[1] + z * place[2]), 0, 0, 0, 0, 0, 0, 0, 0],
      keys: [this.room('keys', words), this.room('keysTo', words)],
      order: [this.room('order', words), this.room('orderTo', words)],
      counts: this.room('counts', (parts * 4) << SORT_BITS),
      parts,
    })
    this.run('depth', parts, 1)
    const counts = this.room('counts', (parts * 4) << SORT_BITS)
    let [least, most] = [0xffffffff, 0]
    for (let p = 0; p < parts; p++) {
      const found = this.arena.u32(counts + ((p * 4) << SORT_BITS), 8)
      for (let k = 0; k < 4; k++) [least, most] = [Math.min(least, found[k]), Math.max(most, found[4 + k])]
    }
    // Of depths that are alike few bits differ: fewer digits, and smaller ones, which stay in the caches.
    const bits = Math.max(1, 32 - Math.clz32(most - least))
    const passes = Math.ceil(bits / SORT_BITS)
    const wide = Math.ceil(bits / passes)
    for (let k = 0; k < passes; k++) {
      this.write({ base: least, shift: k * wide, digits: 1 << wide, from: k & 1, last: k === passes - 1 ? 1 : 0 })
      this.run('count', parts, 1)
      this.machine.host.exports.sumDigits(this.record)
      this.run('sort', parts, 1)
    }
    const order = this.room(passes & 1 ? 'orderTo' : 'order', words)
    return { order: this.arena.u32(order, n), depth: this.arena.f32(this.column('out', n), n) }
  }
  get bytes(): number {
    return this.arena.usedBytes
  }
  dispose(): void {
    this.arena.dispose()
  }
}
/** By how much a matrix makes all lengths longer; null where not all alike. */
function evenScale(m: Matrix): number | null {
  const [a, b, c] = [0, 1, 2].map((k) => [m[k], m[4 + k], m[8 + k]])
  const dot = (p: number[], q: number[]) => p[0] * q[0] + p[1] * q[1] + p[2] * q[2]
  const s = dot(a, a)
  const near = (v: number, to: number) => Math.abs(v - to) < 1e-5 * s
  return s > 0 && near(dot(b, b), s) && near(dot(c, c), s) && near(dot(a, b), 0) && near(dot(b, c), 0) && near(dot(a, c), 0)
    ? Math.sqrt(s)
    : null
}
function moved(p: Float32Array, m: Matrix): Float32Array {
  const out = new Float32Array(p.length)
  for (let i = 0; i < p.length; i += 3) out.set(apply(m, p[i], p[i + 1], p[i + 2]), i)
  return out
}
