import { unzlibSync } from 'fflate'
import { halfTable } from '../../engine'
import { grouped } from '../../shot'
import { fromBlosc } from './blosc'
import { type Cursor, VdbDamage } from './cursor'
import { channelsOf, LEAF_VOXELS, type ValueType, type VdbGridHead, type VdbTile, type VdbTree } from './types'

const ZIP = 1
const ACTIVE_ONLY = 2
const BLOSC = 4
/** Bytes that a leaf takes at least: its bits twice, and a code. */
const LEAST_LEAF = 129
/** Numbers that are read of a tree at most: half a gigabyte of them. */
export const MOST_NUMBERS = 128 * 1024 * 1024
/** Bytes of a number as it is stored. */
const WIDE: Readonly<Record<ValueType, number>> = {
  float: 4,
  double: 8,
  int32: 4,
  int64: 8,
  bool: 1,
  mask: 1,
  vec3s: 4,
  vec3d: 8,
  vec3i: 4,
}
const BITS = Uint8Array.from({ length: 256 }, (_, i) => [...i.toString(2)].filter((b) => b === '1').length)
const count = (mask: Uint8Array): number => {
  let n = 0
  for (let i = 0; i < mask.length; i++) n += BITS[mask[i]]
  return n
}
const isOn = (mask: Uint8Array, i: number): boolean => ((mask[i >> 3] >> (i & 7)) & 1) === 1

/**
 * Reads the tree of one grid: its blocks of one value, and leaves of 8³ voxels. Numbers of every type come as floats. Throws VdbDamage with the
 * byte where something does not fit.
 */
export class TreeReader {
  private readonly channels: 1 | 3
  private readonly wide: number
  private background: number[] = []
  private tiles: VdbTile[] = []
  private origins: number[] = []
  /** Numbers of the node that was read last. */
  private scratch = new Float32Array(LEAF_VOXELS * 3)

  constructor(
    private readonly c: Cursor,
    private readonly g: VdbGridHead & { value: ValueType },
  ) {
    this.channels = channelsOf(g.value) as 1 | 3
    this.wide = g.half ? 2 : WIDE[g.value]
  }
  read(): VdbTree {
    const { c, channels } = this
    const buffers = c.i32()
    if (buffers !== 1) c.damaged(`${buffers} buffers a leaf, where there is one: the file is damaged`)
    this.background = this.plain()
    const [tiles, children] = [c.u32(), c.u32()]
    for (let i = 0; i < tiles; i++) {
      const origin = this.place()
      const value = this.plain()
      this.tiles.push({ level: 3, origin, value, active: c.u8() !== 0 })
    }
    for (let i = 0; i < children; i++) {
      const at = c.at
      const origin = this.place()
      if (origin.some((v) => v & 4095)) throw new VdbDamage(`a node at ${origin.join(', ')}, where none can be: the file is damaged`, at)
      this.inner(origin, 5, 2)
    }
    const n = this.origins.length / 3
    if (n * LEAST_LEAF > c.bytes.length) c.damaged('more leaves than the file has room for: it is damaged')
    if (n * LEAF_VOXELS * channels > MOST_NUMBERS)
      c.damaged(`${grouped(n)} leaves of the grid ${this.g.name}: more than ${MOST_NUMBERS / 1048576} million numbers are not read`)
    const values = new Float32Array(n * LEAF_VOXELS * channels)
    const masks = new Uint8Array(n * 64)
    for (let i = 0; i < n; i++) {
      const mask = c.take(64)
      masks.set(mask, i * 64)
      const to = values.subarray(i * LEAF_VOXELS * channels, (i + 1) * LEAF_VOXELS * channels)
      if (this.g.value === 'bool' || this.g.value === 'mask') this.bits(mask, to)
      else this.values(LEAF_VOXELS, mask, to)
    }
    return { channels, background: this.background, count: n, origins: Int32Array.from(this.origins), masks, values, tiles: this.tiles }
  }
  private place = (): [number, number, number] => [this.c.i32(), this.c.i32(), this.c.i32()]
  /** A leaf of a type without numbers. */
  private bits(mask: Uint8Array, to: Float32Array): void {
    this.c.skip(12)
    const on = this.g.value === 'bool' ? this.c.take(64) : mask
    for (let i = 0; i < LEAF_VOXELS; i++) to[i] = isOn(on, i) ? 1 : 0
  }
  /** A node of the root or the one below: 32³ slots of 128³ voxels, or 16³ of 8³. */
  private inner(origin: [number, number, number], log: 4 | 5, level: 1 | 2): void {
    const { c } = this
    const slots = 1 << (3 * log)
    const children = c.take(slots >> 3)
    const active = c.take(slots >> 3)
    this.findTiles(this.values(slots, active, null), children, active, origin, log, level)
    for (let byte = 0; byte < children.length; byte++) {
      if (!children[byte]) continue
      for (let i = byte << 3; i < (byte + 1) << 3; i++) {
        if (!isOn(children, i)) continue
        const [x, y, z] = slotOf(i, origin, log, level)
        if (level === 2) this.inner([x, y, z], 4, 1)
        else {
          c.skip(64)
          this.origins.push(x, y, z)
        }
      }
    }
  }
  /** Blocks that are active, or hold another value than what is all around. */
  private findTiles(
    values: Float32Array | null,
    children: Uint8Array,
    active: Uint8Array,
    origin: [number, number, number],
    log: 4 | 5,
    level: 1 | 2,
  ): void {
    const k = this.channels
    for (let i = 0; i < children.length << 3; i++) {
      if (isOn(children, i)) continue
      const on = isOn(active, i)
      let other = on
      for (let a = 0; !other && values && a < k; a++) other = values[i * k + a] !== Math.fround(this.background[a])
      if (!other) continue
      const value = values ? [...values.subarray(i * k, (i + 1) * k)] : [on ? 1 : 0]
      this.tiles.push({ level, origin: slotOf(i, origin, log, level), value, active: on })
    }
  }
  /** One value in full width. */
  private plain(): number[] {
    return Array.from({ length: this.channels }, () => this.number(this.g.value, false))
  }
  private number(type: ValueType, half: boolean): number {
    const { c } = this
    if (half) return halfTable()[c.u16()]
    switch (type) {
      case 'float':
      case 'vec3s':
        return c.f32()
      case 'double':
      case 'vec3d':
        return c.f64()
      case 'int64':
        return c.i64()
      case 'bool':
      case 'mask':
        return c.u8()
      default:
        return c.i32()
    }
  }
  /** The values of a node with so many places, into `to`, or into scratch, which is null where all are the background. */
  private values(n: number, mask: Uint8Array, to: Float32Array | null): Float32Array | null {
    const { c, g, channels: k, background } = this
    const start = c.at
    const code = c.u8()
    if (code > 6) throw new VdbDamage(`values stored in way ${code}, which there is not: the file is damaged`, start)
    let off = code === 1 ? background.map((v) => -v) : background
    let on = background
    const one = () => Array.from({ length: k }, () => this.number(g.value, g.half))
    if (code === 2 || code === 4 || code === 5) off = one()
    if (code === 3) off = background.map((v) => -v)
    if (code === 5) on = one()
    const chosen = code >= 3 && code <= 5 ? c.take(n >> 3) : null
    const packed = (g.compression & ACTIVE_ONLY) !== 0 && code !== 6
    const stored = packed ? count(mask) : n
    const numbers = this.block(stored * k)
    if (!to && !stored && off.every((v, a) => v === background[a]) && (!chosen || on.every((v, a) => v === background[a]))) return null
    if (!to && this.scratch.length < n * k) this.scratch = new Float32Array(n * k)
    const out = to ?? this.scratch
    if (!packed || stored === n) {
      out.set(numbers.subarray(0, n * k))
      return out
    }
    for (let i = 0, next = 0; i < n; i++) {
      if (isOn(mask, i)) for (let a = 0; a < k; a++) out[i * k + a] = numbers[next++]
      else {
        const v = chosen && isOn(chosen, i) ? on : off
        for (let a = 0; a < k; a++) out[i * k + a] = v[a]
      }
    }
    return out
  }
  private plainBytes = new Uint8Array(0)
  private inflated = new Uint8Array(0)
  private floats = new Float32Array(0)
  /** So many numbers, as they are stored. */
  private block(many: number): Float32Array {
    const { c, g, wide } = this
    const bytes = many * wide
    // Of nothing, grids of halves do not even say how long it is.
    if (!bytes && g.half) return this.floats
    let raw: Uint8Array
    const at = c.at
    if (g.compression & (BLOSC | ZIP)) {
      const size = c.i64()
      if (size <= 0) {
        if (-size !== bytes) throw new VdbDamage(`${-size} bytes of values where ${bytes} belong: the file is damaged`, at)
        raw = c.take(-size)
      } else raw = g.compression & BLOSC ? this.blosc(c.take(size), bytes, at) : this.zip(c.take(size), bytes, at)
    } else raw = c.take(bytes)
    return this.asFloats(raw, many)
  }
  private blosc(b: Uint8Array, wanted: number, at: number): Uint8Array {
    const out = fromBlosc(b, wanted)
    if (typeof out === 'string') throw new VdbDamage(out, at)
    return out
  }
  private zip(b: Uint8Array, wanted: number, at: number): Uint8Array {
    // Longer than it would be bare, it only is to keep us busy.
    if (b.length > wanted + 1024) throw new VdbDamage('zipped values that are longer than bare ones: the file is damaged', at)
    let out: Uint8Array
    try {
      // Room for a byte more, so that what is too long is found.
      if (this.inflated.length <= wanted) this.inflated = new Uint8Array(wanted + 1)
      out = unzlibSync(b, { out: this.inflated.subarray(0, wanted + 1) })
    } catch {
      throw new VdbDamage('zipped values that do not come apart: the file is damaged', at)
    }
    if (out.length !== wanted) throw new VdbDamage(`${out.length} bytes of values where ${wanted} belong: the file is damaged`, at)
    return out
  }
  private asFloats(raw: Uint8Array, many: number): Float32Array {
    const { g, wide } = this
    if (this.plainBytes.length < raw.length) this.plainBytes = new Uint8Array(new ArrayBuffer((raw.length + 7) & ~7))
    if (this.floats.length < many) this.floats = new Float32Array(many)
    this.plainBytes.set(raw)
    const { buffer } = this.plainBytes
    if (!g.half && (g.value === 'float' || g.value === 'vec3s')) return new Float32Array(buffer, 0, many)
    const out = this.floats
    if (g.half) {
      const halves = new Uint16Array(buffer, 0, many)
      const of = halfTable()
      for (let i = 0; i < many; i++) out[i] = of[halves[i]]
      return out
    }
    const from =
      wide === 1
        ? new Uint8Array(buffer, 0, many)
        : g.value === 'int64'
          ? Float64Array.from(new BigInt64Array(buffer, 0, many), Number)
          : wide === 8
            ? new Float64Array(buffer, 0, many)
            : new Int32Array(buffer, 0, many)
    for (let i = 0; i < many; i++) out[i] = from[i]
    return out
  }
}
function slotOf(i: number, origin: readonly number[], log: 4 | 5, level: 1 | 2): [number, number, number] {
  const wide = level === 2 ? 128 : 8
  const last = (1 << log) - 1
  return [origin[0] + (i >> (2 * log)) * wide, origin[1] + ((i >> log) & last) * wide, origin[2] + (i & last) * wide]
}
