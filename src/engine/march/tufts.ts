import {
  Arena,
  Block,
  JOB,
  LUMPS_SIDE,
  type Machine,
  runJob,
  TUFT,
  TUFT_LIGHT,
  TUFT_SLICES,
  TUFT_STEP,
  TUFT_TILE_X,
  TUFT_TILE_Y,
  TUFTS,
  UNDER,
  writeRecord,
} from '../memory'
import type { MarchLeft } from './look'

/** Tufts in the space of a camera, as the graphics side leaves them. */
export interface SeenTufts {
  count: number
  /**
   * TUFT_SLICES lists of four words for each. The first: its middle (m; what is seen has z below 0) and radius, 0 where there is none, as floats.
   * The others are the fields of TUFT from its optical depth to its shine, as half floats.
   */
  slices: readonly Uint32Array[]
  /** Their numbers from the farthest to the nearest. */
  order: Uint32Array
  /** The light that falls on them, up to a number in their lists each. `rows`: from the space of the camera to cells, three of four; the middle of the first is 0. */
  lights: readonly { end: number; light: TuftCells; rows: readonly number[] }[]
}
/** Light in cells: four half floats each, x first, red, green, blue and nothing. It stays as it is. */
export interface TuftCells {
  size: readonly number[]
  data: Uint16Array
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
type Four = readonly [number, number, number, number]
/** A picture that lies under tufts. */
export interface UnderTufts {
  /** Which picture it is: of one that was there the time before nothing is read. */
  picture: object
  /** Four half floats a pixel from the lower left: the picture without the key light, and what that adds where nothing shades it; null: it is none. */
  read(): { rest: Uint16Array; key: Uint16Array | null }
  /** What is left of the key light; null: all. `rows`: from the shot to its picture, as GasShade has them; `within`: low and high of both axes, 0 to 1. */
  left: { front: MarchLeft; rows: readonly number[]; within: Four } | null
  /** Where the camera stands and what lies a metre ahead of it, and from the middle of the picture to its right and upper edge, m. */
  eye: readonly number[]
  ahead: readonly number[]
  right: readonly number[]
  up: readonly number[]
  near: number
  far: number
  /** From where the depth of a pixel is known to its middle, pixels. */
  middle: readonly [number, number]
  /** What lies behind everything: linear, and how much it covers. */
  behind: Four
}
/** What depths of a plane may be off it where they are stored, of the whole range. */
const FLAT = 1e-6
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
  private readonly under: number
  /** What lies in blocks that stay. */
  private readonly kept = new Map<string, { of: object; at: number }>()

  /** `lumps`: a periodic tile of LUMPS_SIDE³ texels of four bytes, x first: slopes (128 is none) and how much is taken away. */
  constructor(machine: Machine, lumps: Uint8Array) {
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.record = this.arena.take(TUFTS.bytes)
    this.job = this.arena.take(JOB.bytes)
    this.under = this.arena.take(UNDER.bytes)
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
  /** A list where kernels find it, with so many bytes behind it; it is not taken again while it is the same one. `of`: what stands for it. */
  private keep(name: string, list: Uint16Array | Float32Array, more: number, of: object = list): number {
    const { byteLength: bytes } = list
    const known = this.kept.get(name)
    if (known?.of === of) return known.at
    this.kept.delete(name)
    const at = this.room(name, bytes + more)
    new Uint8Array(this.arena.memory.buffer, at, bytes).set(new Uint8Array(list.buffer, list.byteOffset, bytes))
    this.kept.set(name, { of, at })
    return at
  }
  private writeLights(lights: SeenTufts['lights']): number {
    const at = this.room('lights', Math.max(1, lights.length) * TUFT_LIGHT.bytes)
    lights.forEach(({ end, light, rows }, k) => {
      const [sizeX, sizeY, sizeZ] = light.size
      const cells = this.keep(`cells ${k}`, light.data, 8)
      writeRecord(this.arena.view(), at + k * TUFT_LIGHT.bytes, TUFT_LIGHT, { end, cells, sizeX, sizeY, sizeZ, rows })
    })
    return at
  }
  /** Where a picture lies that tufts are drawn over. */
  private keepUnder({ picture, read }: UnderTufts, more: number): { rest: number; key: number } {
    const [rest, key] = [this.kept.get('rest'), this.kept.get('key')]
    if (rest?.of === picture) return { rest: rest.at, key: key?.of === picture ? key.at : 0 }
    const made = read()
    return {
      key: made.key ? this.keep('key', made.key, more, picture) : 0,
      rest: this.keep('rest', made.rest, more, picture),
    }
  }
  private writeUnder(o: UnderTufts, width: number): void {
    const { left, near, far } = o
    // Two rows are read at once, and two pixels.
    const more = (width + 2) * 8
    const row = (k: number, v: readonly number[], one: number) =>
      left ? left.rows[k * 4] * v[0] + left.rows[k * 4 + 1] * v[1] + left.rows[k * 4 + 2] * v[2] + left.rows[k * 4 + 3] * one : 0
    const seen = (v: readonly number[], one = 0) => [0, 1, 2, 3].map((k) => row(k, v, one))
    const places = this.keepUnder(o, more)
    const front = left?.front
    const lefts = {
      left: front ? this.keep('left', front.left, 16) : 0,
      ...{ leftWidth: front?.width ?? 0, leftHeight: front?.height ?? 0, leftDepths: front?.depths ?? 0 },
      ...{ leftFrom: front?.from ?? 0, leftPer: front ? 1 / front.step : 0, within: left?.within ?? [0, 0, 0, 0] },
    }
    const flat = (FLAT * (far - near)) / (near * far)
    const all = { ...places, ...lefts, middle: o.middle, perFar: 1 / far, flat, behind: o.behind }
    writeRecord(this.arena.view(), this.under, UNDER, all, {
      ...{ eye: seen(o.eye, 1), ahead: seen(o.ahead), right: seen(o.right), up: seen(o.up) },
    })
  }
  /**
   * Half floats: linear red, green and blue, and what is covered, premultiplied, from the lower left; valid until the next call. `under`: what they are drawn
   * over, in what is left of its light; it wants depths. Throws MemoryRefused.
   */
  picture({ count, slices, order, lights }: SeenTufts, view: TuftView, under: UnderTufts | null = null): Uint16Array {
    if (slices.length !== TUFT_SLICES) throw new Error(`tufts come in ${TUFT_SLICES} lists, not in ${slices.length}`)
    if (count > (lights.at(-1)?.end ?? 0)) throw new Error('some tufts have no light')
    const { width, height, depth, across, upwards, shiftX, shiftY } = view
    const [tilesX, tilesY] = [Math.ceil(width / TUFT_TILE_X), Math.ceil(height / TUFT_TILE_Y)]
    const tiles = tilesX * tilesY
    const pixels = width * height
    // Two rows are read at once: of a picture of odd height one beyond the last.
    const depths = depth ? this.keep('depth', depth, width * 4 + 64) : 0
    if (under && !depth) throw new Error('what lies under tufts has no depths')
    if (under) this.writeUnder(under, width)
    const starts = this.room('starts', (tiles + 1) * 4)
    const out = this.room('out', pixels * 8 + 64)
    writeRecord(
      this.arena.view(),
      this.record,
      TUFTS,
      { count, width, height, across, upwards, shiftX, shiftY, depth: depths, tilesX, tilesY, starts, out },
      {
        under: under ? this.under : 0,
        lights: this.writeLights(lights),
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
    this.rows = under ? [0, height] : this.filled(starts, tilesX, tilesY, height)
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
