import {
  Arena,
  Block,
  JOB,
  LUMPS_SIDE,
  type Machine,
  runJob,
  TUFT,
  TUFT_SLICES,
  TUFT_STEP,
  TUFT_TILE_X,
  TUFT_TILE_Y,
  TUFTS,
  writeRecord,
} from '../memory'

/** Tufts in the space of a camera, as the graphics side leaves them. */
export interface SeenTufts {
  count: number
  /**
   * TUFT_SLICES lists of four words for each. The first: its middle (m; what is seen has z below 0) and radius, 0 where there is none, as floats.
   * The others are the fields of TUFT from its optical depth on, as half floats.
   */
  slices: readonly Uint32Array[]
  /** Their numbers from the farthest to the nearest. */
  order: Uint32Array
}
export interface TuftView {
  width: number
  height: number
  /** Where a place is in the picture: x · across ÷ −z − shiftX and y · upwards ÷ −z − shiftY, −1 to 1. */
  across: number
  upwards: number
  shiftX: number
  shiftY: number
  /** View depths of what is solid, m, from the lower left, 0 where nothing is. */
  depth: Float32Array | null
}
/**
 * Pictures of tufts by kernels: where there is no GPU each pixel of a soft ball costs, and in a dense cloud nearly all of them are hidden. Here they
 * are drawn from the nearest on, tile by tile, until nothing more is to be seen. The same on any number of threads.
 */
export class TuftPainter {
  private readonly arena: Arena
  private readonly machine: Machine
  private readonly record: number
  private readonly job: number
  private readonly blocks: Record<string, Block> = {}

  /** `lumps`: a periodic tile of LUMPS_SIDE³ texels of four bytes, x first: slopes (128 is none) and how much is taken away. */
  constructor(machine: Machine, lumps: Uint8Array) {
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.record = this.arena.take(TUFTS.bytes)
    this.job = this.arena.take(JOB.bytes)
    const pairs = pairsOf(lumps)
    const at = this.room('lumps', pairs.byteLength + 16)
    new Int16Array(this.arena.memory.buffer, at, pairs.length).set(pairs)
    const least = leastOf(lumps)
    const leastAt = this.room('least', least.length)
    new Uint8Array(this.arena.memory.buffer, leastAt, least.length).set(least)
    writeRecord(this.arena.view(), this.record, TUFTS, { lumps: at, least: leastAt })
  }
  private room(name: string, bytes: number): number {
    this.blocks[name] ??= new Block(this.arena)
    return this.blocks[name].reserve(bytes)
  }
  private run(step: keyof typeof TUFT_STEP, count: number, chunk: number): void {
    writeRecord(this.arena.view(), this.record, TUFTS, { step: TUFT_STEP[step] })
    runJob(this.machine, this.job, { kind: 'tufts', record: this.record, count, chunk, all: count > chunk })
  }
  private words(name: string, lists: readonly Uint32Array[], count: number): number {
    const at = this.room(name, lists.length * count * 4)
    lists.forEach((list, k) => this.arena.u32(at + k * count * 4, count).set(list.subarray(0, count)))
    return at
  }
  /** Half floats: linear red, green and blue, and what is covered, premultiplied, from the lower left; valid until the next call. Throws MemoryRefused. */
  picture({ count, slices, order }: SeenTufts, view: TuftView): Uint16Array {
    if (slices.length !== TUFT_SLICES) throw new Error(`tufts come in ${TUFT_SLICES} lists, not in ${slices.length}`)
    const { width, height, depth, across, upwards, shiftX, shiftY } = view
    const [tilesX, tilesY] = [Math.ceil(width / TUFT_TILE_X), Math.ceil(height / TUFT_TILE_Y)]
    const tiles = tilesX * tilesY
    const pixels = width * height
    // Two rows are read at once: of a picture of odd height one beyond the last.
    const depths = depth ? this.room('depth', (pixels + width) * 4 + 64) : 0
    if (depth) this.arena.f32(depths, pixels).set(depth)
    const starts = this.room('starts', (tiles + 1) * 4)
    const out = this.room('out', pixels * 8 + 64)
    writeRecord(
      this.arena.view(),
      this.record,
      TUFTS,
      { count, width, height, across, upwards, shiftX, shiftY, depth: depths, tilesX, tilesY, starts, out },
      {
        raw: this.words('raw', slices, count * 4),
        order: this.words('order', [order], count),
        tufts: this.room('tufts', count * TUFT.bytes),
      },
    )
    this.run('prepare', count, 256)
    this.run('count', 1, 1)
    const listed = this.arena.u32(starts, tiles + 1)[tiles]
    writeRecord(this.arena.view(), this.record, TUFTS, { lists: this.room('lists', Math.max(1, listed) * 4) })
    this.run('place', 1, 1)
    this.run('draw', tiles, 2)
    this.rows = this.filled(starts, tilesX, tilesY, height)
    return new Uint16Array(this.arena.memory.buffer, out, pixels * 4)
  }
  /** Rows of the last picture outside of which there is nothing: the first, and the one behind the last. */
  rows: readonly [number, number] = [0, 0]
  /** The same by the tiles whose lists hold anything. */
  private filled(starts: number, tilesX: number, tilesY: number, height: number): [number, number] {
    const ends = this.arena.u32(starts, tilesX * tilesY)
    const before = (y: number) => (y ? ends[y * tilesX - 1] : 0)
    const all = Array.from({ length: tilesY }, (_, y) => y).filter((y) => before(y + 1) > before(y))
    return all.length ? [all[0] * TUFT_TILE_Y, Math.min(height, (all[all.length - 1] + 1) * TUFT_TILE_Y)] : [0, 0]
  }
  get bytes(): number {
    return this.arena.usedBytes
  }
  dispose(): void {
    this.arena.dispose()
  }
}
/** Each of the four values of a texel with that of the next along x, 16384 for one; slopes about nothing. */
function pairsOf(lumps: Uint8Array): Int16Array {
  const n = LUMPS_SIDE
  const value = (t: number, c: number) => Math.round(((lumps[t * 4 + c] - (c < 3 ? 128 : 0)) / 255) * 16384)
  const out = new Int16Array(n ** 3 * 8)
  for (let t = 0; t < n ** 3; t++) {
    const next = t - (t % n) + ((t + 1) % n)
    for (let c = 0; c < 4; c++) {
      out[t * 8 + c * 2] = value(t, c)
      out[t * 8 + c * 2 + 1] = value(next, c)
    }
  }
  return out
}
/** The least that is taken away at the eight corners of each cell: between them it is nowhere less. */
function leastOf(lumps: Uint8Array): Uint8Array {
  const n = LUMPS_SIDE
  return Uint8Array.from({ length: n ** 3 }, (_, t) => {
    let least = 255
    for (let c = 0; c < 8; c++) {
      const [x, y, z] = [t % n, Math.floor(t / n) % n, Math.floor(t / n ** 2)].map((v, a) => (v + ((c >> a) & 1)) % n)
      least = Math.min(least, lumps[(x + n * (y + n * z)) * 4 + 3])
    }
    return least
  })
}
