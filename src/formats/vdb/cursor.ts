import { grouped } from '../../shot'
/** What is wrong with a file, and at which byte of it. */
export class VdbDamage extends Error {
  constructor(
    message: string,
    readonly byte: number,
  ) {
    super(message)
  }
}
const UTF8 = new TextDecoder()
/** Longer than any name or note of a grid has reason to be. */
const MAX_TEXT = 1 << 20

/** Goes through the bytes of a file, little-endian. Throws VdbDamage where they end too soon. */
export class Cursor {
  private view: DataView
  constructor(
    readonly bytes: Uint8Array,
    public at = 0,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  }
  damaged(message: string): never {
    throw new VdbDamage(message, this.at)
  }
  /** Where so many bytes begin, which are passed over. */
  skip(n: number): number {
    const { at } = this
    if (!(n >= 0) || at + n > this.bytes.byteLength)
      this.damaged(`the file ends ${grouped(at + n - this.bytes.byteLength)} bytes too soon: copy or export it again`)
    this.at += n
    return at
  }
  take(n: number): Uint8Array {
    const from = this.skip(n)
    return this.bytes.subarray(from, from + n)
  }
  u8 = (): number => this.bytes[this.skip(1)]
  u32 = (): number => this.view.getUint32(this.skip(4), true)
  i32 = (): number => this.view.getInt32(this.skip(4), true)
  f32 = (): number => this.view.getFloat32(this.skip(4), true)
  f64 = (): number => this.view.getFloat64(this.skip(8), true)
  u16 = (): number => this.view.getUint16(this.skip(2), true)
  /** As far as numbers hold whole numbers exactly. */
  i64(): number {
    const n = Number(this.view.getBigInt64(this.skip(8), true))
    if (!Number.isSafeInteger(n)) this.damaged('a number that no file needs: the file is damaged')
    return n
  }
  text(): string {
    const n = this.u32()
    if (n > MAX_TEXT) this.damaged(`a name of ${grouped(n)} letters: the file is damaged`)
    return UTF8.decode(this.take(n))
  }
}
