/** Bytes of a file in the making, little-endian. */
export class Bytes {
  private out = new Uint8Array(1 << 16)
  private view = new DataView(this.out.buffer)
  length = 0

  private room(n: number): number {
    const at = this.length
    this.length += n
    if (this.length > this.out.length) {
      const more = new Uint8Array(Math.max(this.length, this.out.length * 2))
      more.set(this.out)
      this.out = more
      this.view = new DataView(more.buffer)
    }
    return at
  }
  // Where it goes comes first: making room puts other bytes in the place of these.
  u8(v: number): void {
    const at = this.room(1)
    this.out[at] = v
  }
  u16(v: number): void {
    const at = this.room(2)
    this.view.setUint16(at, v, true)
  }
  u32(...all: number[]): void {
    const at = this.room(4 * all.length)
    for (const [i, v] of all.entries()) this.view.setUint32(at + 4 * i, v, true)
  }
  i32(...all: number[]): void {
    const at = this.room(4 * all.length)
    for (const [i, v] of all.entries()) this.view.setInt32(at + 4 * i, v, true)
  }
  f32(...all: number[]): void {
    const at = this.room(4 * all.length)
    for (const [i, v] of all.entries()) this.view.setFloat32(at + 4 * i, v, true)
  }
  f64(...all: number[]): void {
    const at = this.room(8 * all.length)
    for (const [i, v] of all.entries()) this.view.setFloat64(at + 8 * i, v, true)
  }
  i64(v: number): void {
    const at = this.room(8)
    this.view.setBigInt64(at, BigInt(v), true)
  }
  add(b: Uint8Array): void {
    const at = this.room(b.length)
    this.out.set(b, at)
  }
  zeros(n: number): void {
    const at = this.room(n)
    this.out.fill(0, at, at + n)
  }
  text = (s: string): void => {
    const b = new TextEncoder().encode(s)
    this.u32(b.length)
    this.add(b)
  }
  /** Writes a place that was left open. */
  setI64 = (at: number, v: number): void => this.view.setBigInt64(at, BigInt(v), true)
  done = (): Uint8Array => this.out.subarray(0, this.length)
}
