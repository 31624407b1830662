import { VOLUME_GRIDS, VOLUME_TILE, type VolumePart, volumeGrids } from '../frame'
import {
  Arena,
  Block,
  JOB,
  MARCH,
  MARCH_BALL,
  MARCH_LIGHT,
  MARCH_STEP,
  MARCH_WAYS,
  type Machine,
  runJob,
  TILE_GRID_BYTES,
  writeRecord,
} from '../memory'
import { blueNoise } from './blueNoise'
import { CLOUD_BALL, type Cloud, cloudWindow } from './cloud'
import { flamesOf } from './flames'
import type { Flame, LightMap, MarchFront, MarchLeft, MarchLook, MarchScene, MarchTextures, MarchView } from './look'

/** Lights for the gas itself, and for all that stands around it. */
const FLAMES_WITHIN = 24
export const FLAMES_OUTSIDE = 16
const FLAME_BYTES = 32
/** The march ends where less than this is left to be seen. */
const EXIT = 0.004
type Step = keyof typeof MARCH_STEP

/** A gas of one frame, or a cloud of soft balls, made ready to be seen: its grids, its light, its pictures. Results are the same on any number of threads. */
export class Marcher {
  private readonly arena: Arena
  private readonly machine: Machine
  private readonly record: number
  private readonly job: number
  private readonly blocks: Record<string, Block> = {}
  /** What it was loaded with; the edge of a voxel, m; whether that holds anything. */
  private source: VolumePart | Cloud | null = null
  private voxel = 1
  private holds = false
  private look: MarchLook | null = null
  private dims = [0, 0, 0]
  private low = [0, 0, 0]
  private tileCount = 0
  private shines = new Float32Array(0)
  /** Its glow as lights for what stands around it. */
  flames: Flame[] = []

  constructor(machine: Machine) {
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.record = this.arena.take(MARCH.bytes)
    this.job = this.arena.take(JOB.bytes)
    this.write({ blue: this.floats('blue', blueNoise()) })
  }
  private room(name: string, bytes: number): number {
    this.blocks[name] ??= new Block(this.arena)
    return this.blocks[name].reserve(bytes)
  }
  private run(step: Step, count: number, chunk: number): void {
    writeRecord(this.arena.view(), this.record, MARCH, { step: MARCH_STEP[step] })
    runJob(this.machine, this.job, { kind: 'march', record: this.record, count, chunk, all: count > chunk })
  }
  private write(values: Parameters<typeof writeRecord<typeof MARCH.fields>>[3]): void {
    writeRecord(this.arena.view(), this.record, MARCH, values)
  }
  private floats(name: string, data: Float32Array): number {
    const at = this.room(name, data.byteLength)
    this.arena.f32(at, data.length).set(data)
    return at
  }
  /** Whether there is anything to see. */
  get isEmpty(): boolean {
    return !this.holds || !this.look || (!this.look.smoke && !this.look.glow)
  }
  /** Takes a frame of the gas with how it is seen. Throws MemoryRefused. */
  load(part: VolumePart, look: MarchLook): void {
    if (!this.begins(part, part.tiles > 0, part.voxel, look)) return
    const tiles = this.window(part)
    const n = part.tiles
    const halves = part.data.byteLength - n * 4
    const data = this.room('halves', halves)
    new Uint8Array(this.arena.memory.buffer, data, halves).set(new Uint8Array(part.data, n * 4))
    const places = this.room('places', n * 4)
    this.arena.u32(places, n).set(tiles)
    const { smoke, glow } = look
    const grids = volumeGrids(part)
    const nth = (grid = 0) => grids.indexOf(VOLUME_GRIDS[grid])
    const at = (grid?: number) => Math.max(0, nth(grid)) * TILE_GRID_BYTES
    // Of a grid that this gas does not hold, nothing is all there is.
    const per = (grid = 0) => (nth(grid) < 0 ? 0 : 1 / look.tops[grid])
    const shines = this.room('shines', n * FLAME_BYTES)
    this.write({
      ...{ halves: data, places, shines, voxel: part.voxel, tileBytes: grids.length * TILE_GRID_BYTES },
      ...{ dimsAt: at(smoke?.by), shinesAt: at(glow?.by), hueAt: at(glow?.coloursBy), tintAt: at(smoke?.tint?.by) },
      ...{ perDims: per(smoke?.by), perShines: per(glow?.by), perHue: per(glow?.coloursBy), perTint: per(smoke?.tint?.by) },
      extinction: smoke ? smoke.extinction * part.voxel : 0,
      tints: smoke?.tint ? this.floats('tints', smoke.tint.colours) : 0,
      tintShare: smoke?.tint?.share ? 1 : 0,
      byHue: glow && glow.coloursBy !== glow.by ? 1 : 0,
      dimTone: smoke ? this.floats('dimTone', smoke.tone) : 0,
      shineTone: glow ? this.floats('shineTone', glow.tone) : 0,
      colours: glow ? this.floats('colours', glow.colours) : 0,
    })
    const nz = this.dims[2]
    this.run('clear', nz + 2, 4)
    for (const marks of ['full', 'shining']) this.blank(this.room(marks, 0), Math.ceil(this.tileCount / 4))
    this.run('unpack', n, 4)
    this.means()
    this.shines = this.arena.f32(shines, n * 8).slice()
    this.flames = glow ? flamesOf(this.shines, n, part.voxel, this.low, FLAMES_OUTSIDE) : []
  }
  /** Takes a cloud, with how it dims and scatters; its tone and its extinction say nothing. It has light and fronts, and no picture. Throws MemoryRefused. */
  loadCloud(cloud: Cloud, look: MarchLook): void {
    if (!this.begins(cloud, cloud.count > 0, 1, look)) return
    const window = cloudWindow(cloud)
    const layers = window.tiles[2]
    this.voxel = window.voxel
    this.low = window.low
    this.grids(window.tiles, false)
    this.shines = new Float32Array(0)
    const starts = this.room('ballStarts', (layers + 1) * 8)
    this.write({
      ...{ voxel: window.voxel, tints: 0, byHue: 0, shineTone: 0, ballLow: window.low, ballStarts: starts },
      ...{ ballsFrom: this.floats('ballsFrom', cloud.balls.subarray(0, cloud.count * CLOUD_BALL)), ballCount: cloud.count },
    })
    this.run('count', 1, 1)
    this.write({ balls: this.room('balls', this.arena.u32(starts, layers + 1)[layers] * MARCH_BALL.bytes) })
    this.run('place', 1, 1)
    this.run('clear', this.dims[2] + 2, 4)
    this.run('splat', layers, 1)
    this.run('tiles', this.tileCount, 16)
    this.means()
  }
  /** Whether there is something that was not loaded already. */
  private begins(source: VolumePart | Cloud, holds: boolean, voxel: number, look: MarchLook): boolean {
    if (this.source === source && this.look === look) return false
    this.source = source
    this.holds = holds
    this.voxel = voxel
    this.look = look
    this.flames = []
    return !this.isEmpty
  }
  /** Empties so many floats; views of shared memory do that one by one. */
  private blank(at: number, floats: number, pieces = 1): void {
    this.write({ from: at, floats: Math.ceil(floats / pieces) })
    this.run('blank', pieces, 1)
  }
  /** What dims, coarser. */
  private means(): void {
    this.run('halve', this.dims[2] / 2, 4)
    this.run('quarter', this.dims[2] / 4, 4)
  }
  /** Room for a window around the tiles of a part; the number of each of them in it. */
  private window(part: VolumePart): Uint32Array {
    const words = new Uint32Array(part.data, 0, part.tiles)
    const at = (w: number, a: number) => (w >> (10 * a)) & 1023
    const first = [1024, 1024, 1024]
    const last = [-1, -1, -1]
    for (const w of words)
      for (let a = 0; a < 3; a++) {
        first[a] = Math.min(first[a], at(w, a))
        last[a] = Math.max(last[a], at(w, a))
      }
    const tiles = [0, 1, 2].map((a) => last[a] - first[a] + 1)
    this.low = part.low.map((x, a) => x + first[a] * VOLUME_TILE * part.voxel)
    this.grids(tiles, true)
    return words.map((w) => at(w, 0) - first[0] + tiles[0] * (at(w, 1) - first[1] + tiles[1] * (at(w, 2) - first[2])))
  }
  /** Room for so many tiles; with `whole` cells, or with what dims alone. */
  private grids(tiles: readonly number[], whole: boolean): void {
    const dims = tiles.map((x) => x * VOLUME_TILE)
    this.dims = dims
    this.tileCount = tiles[0] * tiles[1] * tiles[2]
    const around = (level: number) => dims.map((x) => (x >> level) + 2)
    const levels = [0, 1, 2].map(around)
    const cells = (d: number[]) => d[0] * d[1] * d[2]
    // Vectors read a little beyond the last row.
    this.write({
      ...{ dims, tiles, row: dims[0] + 2, slab: (dims[0] + 2) * (dims[1] + 2) },
      cells: whole ? this.room('cells', cells(levels[0]) * 16 + 64) : 0,
      dims0: levels.map((d, l) => this.room(`dims${l}`, cells(d) * 4 + 64)),
      rows: levels.map((d) => d[0]),
      slabs: levels.map((d) => d[0] * d[1]),
      fill: this.room('fill', cells(levels[2]) * 16 + 64),
      full: this.room('full', this.tileCount + 64),
      shining: this.room('shining', this.tileCount + 64),
    })
    for (const l of [1, 2]) this.blank(this.room(`dims${l}`, 0), cells(levels[l]))
    this.fillFloats = cells(levels[2]) * 4
  }
  private fillFloats = 0
  /** Voxels that a cell of light is wide, since it was computed. */
  private wide = 1
  private toVoxels(p: readonly number[]): number[] {
    return p.map((x, a) => (x - this.low[a]) / this.voxel)
  }
  /** The picture that a light has of the objects, for places in voxels. */
  private shadow(s: LightMap | null, i: number) {
    const { voxel } = this
    if (!s) return { map: 0 }
    const rows = [0, 1, 2, 3].flatMap((r) => {
      const row = s.rows.slice(r * 4, r * 4 + 4)
      const rest = row[3] + row[0] * this.low[0] + row[1] * this.low[1] + row[2] * this.low[2]
      return [row[0] * voxel, row[1] * voxel, row[2] * voxel, rest]
    })
    return { map: this.floats(`shadow${i}`, s.data), mapSize: s.size, mapRows: rows, mapBias: voxel }
  }
  /** The light of the gas in a scene, for one eye, in cells `wide` voxels wide: 1, 2 or 4. */
  light(scene: MarchScene, eye: readonly number[], wide: number): void {
    const { look } = this
    if (this.isEmpty || !look?.smoke) return
    const { smoke } = look
    const within = look.glow ? flamesOf(this.shines, this.shines.length / 8, this.voxel, this.low, FLAMES_WITHIN) : []
    // The last is how far one is seen: its power as a share of all, by the square of the distance in voxels at which all would be as bright as itself.
    const all = within.reduce((sum, f) => sum + Math.max(...f.power), 0)
    const flames = this.floats(
      'flames',
      Float32Array.from(
        within.flatMap((f) => {
          const wide = Math.max(1, f.radius / this.voxel)
          return [...this.toVoxels(f.place), wide, ...f.power, (Math.max(...f.power) / Math.max(all, 1e-30)) * wide * wide]
        }),
      ),
    )
    this.wide = wide
    const lights = this.room('lights', Math.max(1, scene.lights.length) * MARCH_LIGHT.bytes)
    scene.lights.forEach((l, i) => {
      writeRecord(
        this.arena.view(),
        lights + i * MARCH_LIGHT.bytes,
        MARCH_LIGHT,
        {
          place: l.sun ? l.place : this.toVoxels(l.place),
          sun: l.sun ? 1 : 0,
          colour: l.colour,
          aim: l.spot?.aim ?? [0, 0, 0],
          from: l.spot?.from ?? -2,
          to: l.spot?.to ?? -1,
        },
        this.shadow(l.shadow ?? null, i),
      )
    })
    const around = this.dims.map((x) => x / wide + 2)
    const cells = around[0] * around[1] * around[2]
    const light = this.room('light', cells * 16 + 64)
    this.blank(light, cells * 4, 16)
    this.blank(this.room('fill', 0), this.fillFloats)
    const farBytes = this.fillFloats * 4
    const farFloats = this.fillFloats * Math.ceil(scene.lights.length / 4)
    const far = this.room('far', farFloats * 4 + 64)
    const skyBytes = this.fillFloats + 64
    this.blank(far, farFloats)
    this.write({
      ...{
        sky: this.room('sky', skyBytes * MARCH_WAYS),
        skyBytes,
        near: wide > 1 ? 8 : 16,
        far,
        farBytes,
        light,
        wide,
        lightRow: around[0],
        lightSlab: around[0] * around[1],
      },
      ...{ flames, flameCount: within.length, lights, lightCount: scene.lights.length },
      ...{ above: scene.above, below: scene.below, albedo: smoke.albedo },
      ...{ forward: smoke.forward, even: smoke.even, shade: smoke.shade, again: smoke.again, eye: this.toVoxels(eye) },
    })
    this.run('sky', MARCH_WAYS, 1)
    this.run('fill', this.tileCount, 4)
    this.run('light', this.tileCount, 2)
    this.run('edge', this.tileCount, 8)
  }
  /** A picture: linear red, green and blue, and what is covered, premultiplied, four floats a pixel from the lower left. `light` comes first. */
  picture(view: MarchView): Float32Array {
    const { width, height } = view
    const pixels = width * height
    if (this.isEmpty) return new Float32Array(pixels * 4)
    const { voxel } = this
    const depth = view.depth ? this.floats('depth', view.depth) : 0
    const out = this.room('out', pixels * 16)
    const perVoxel = (v: readonly number[]) => v.map((x) => x / voxel)
    this.write({
      ...{ eye: this.toVoxels(view.eye), ahead: perVoxel(view.ahead), right: perVoxel(view.right), up: perVoxel(view.up) },
      ...{ width, height, depth, out, stride: view.stride, exit: EXIT, slices: 0 },
    })
    this.run('march', Math.ceil(height / 2), 2)
    return this.arena.f32(out, pixels * 4)
  }
  /** For a shader, valid until the next call of anything here. `light` comes first. */
  textures(): MarchTextures | null {
    const { look, voxel } = this
    if (this.isEmpty) return null
    const triple = (v: readonly number[]) => [v[0], v[1], v[2]] as const
    const size = this.dims.map((x) => x + 2)
    const lightSize = this.dims.map((x) => x / this.wide + 2)
    const full = new Uint8Array(this.arena.memory.buffer, this.room('full', 0), this.tileCount).slice()
    const cells = this.packed('cells', size)
    const light = look?.smoke ? this.packed('light', lightSize) : null
    const at = (p: { at: number; count: number }) => this.halves(p)
    return {
      ...{
        size: triple(size),
        cells: at(cells),
        tiles: triple(this.dims.map((x) => x / VOLUME_TILE)),
        full,
        low: triple(this.low),
        voxel,
      },
      light: light && { size: triple(lightSize), data: at(light) },
    }
  }
  /** The light alone, valid until the next call of anything here; the edge of its cells, m. `light` comes first. */
  lightTexture(): (MarchTextures['light'] & { low: readonly number[]; cell: number }) | null {
    if (this.isEmpty || !this.look?.smoke) return null
    const [x, y, z] = this.dims.map((n) => n / this.wide + 2)
    return { size: [x, y, z], data: this.halves(this.packed('light', [x, y, z])), low: this.low, cell: this.wide * this.voxel }
  }
  private halves(p: { at: number; count: number }): Uint16Array {
    return new Uint16Array(this.arena.memory.buffer, p.at, p.count)
  }
  /** A grid of four floats as half floats. */
  private packed(grid: 'cells' | 'light', size: readonly number[]): { at: number; count: number } {
    const floats = size[0] * size[1] * 4
    const out = this.room(`${grid} halves`, floats * size[2] * 2)
    this.write({ from: this.room(grid, 0), floats, out })
    this.run('pack', size[2], 2)
    return { at: out, count: floats * size[2] }
  }
  /** What of it lies in front of places, in a view a `coarser`th as large with so many depths: with its light, for which `light` comes first, times `tint`. */
  front(view: MarchView, coarser: number, depths: number, tint: readonly number[] = [1, 1, 1]): MarchFront | null {
    const made = this.slices(view, coarser, depths, tint, 4)
    return made && { ...made.front, data: made.halves }
  }
  /** How much of what is behind is left at places, in a view with so many depths. */
  left(view: MarchView, depths: number): MarchLeft | null {
    const made = this.slices(view, 1, depths, [1, 1, 1], 1)
    return made && { ...made.front, left: made.halves }
  }
  private slices(view: MarchView, coarser: number, depths: number, sliceTint: readonly number[], each: 1 | 4) {
    if (this.isEmpty) return null
    const { voxel } = this
    const [width, height] = [view.width, view.height].map((x) => Math.max(2, Math.ceil(x / coarser)))
    const [near, far] = this.depthsOf(view)
    const step = (far - near) / (depths - 1)
    if (!(far > near)) return null
    const perVoxel = (v: readonly number[]) => v.map((x) => x / voxel)
    const count = width * height * depths * each
    const out = this.room('front', count * 2)
    this.write({
      ...{ eye: this.toVoxels(view.eye), ahead: perVoxel(view.ahead), right: perVoxel(view.right), up: perVoxel(view.up) },
      ...{ width, height, depth: 0, out, stride: Math.max(1, view.stride), exit: 0 },
      ...{ slices: depths, sliceFrom: near, sliceStep: step, sliceTint, sliceLeft: each === 1 ? 1 : 0 },
      light: this.room('light', 0),
    })
    this.run('front', height, 1)
    return { front: { width, height, depths, from: near, step }, halves: new Uint16Array(this.arena.memory.buffer, out, count) }
  }
  /** View depths between which the window lies. */
  private depthsOf(view: MarchView): [number, number] {
    const { voxel } = this
    const length = Math.hypot(...view.ahead)
    const all = [0, 1, 2, 3, 4, 5, 6, 7].map((c) =>
      [0, 1, 2].reduce((sum, a) => sum + ((this.low[a] + ((c >> a) & 1) * this.dims[a] * voxel - view.eye[a]) * view.ahead[a]) / length, 0),
    )
    return [Math.max(0, Math.min(...all)), Math.max(...all)]
  }
  get bytes(): number {
    return this.arena.usedBytes
  }
  dispose(): void {
    this.arena.dispose()
  }
}
