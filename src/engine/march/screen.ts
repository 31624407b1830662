import { Arena, Block, JOB, type Machine, runJob, SCREEN, SCREEN_CURVE, writeRecord } from '../memory'

/** How light becomes what a screen shows. */
export interface ScreenTone {
  curve: keyof typeof SCREEN_CURVE
  /** Factor before the curve. */
  exposure: number
  /** Whether alpha is kept, straight; else all is opaque. */
  transparent: boolean
}
/** Rows that a thread takes at once. */
const ROWS = 16

/**
 * Light to the values of a screen by kernels: the tone curve, sRGB (IEC 61966-2-1) and half a step of dither. Where there is no GPU that takes a
 * fraction of what a shader needs for it. The same on any number of threads.
 */
export class ScreenMaker {
  private readonly arena: Arena
  private readonly machine: Machine
  private readonly record: number
  private readonly job: number
  private readonly light: Block
  private readonly out: Block

  constructor(machine: Machine) {
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.record = this.arena.take(SCREEN.bytes)
    this.job = this.arena.take(JOB.bytes)
    this.light = new Block(this.arena)
    this.out = new Block(this.arena)
  }
  /**
   * Four bytes a pixel, the top row first. `light`: four half floats each, from the lower left, linear and premultiplied, with 64 bytes behind them
   * if they lie in the memory of the kernels; or what writes them into a list. Throws MemoryRefused.
   */
  bytes(
    light: Uint16Array | ((into: Uint16Array) => void),
    [width, height]: readonly [number, number],
    { curve, exposure, transparent }: ScreenTone,
  ): Uint8Array {
    const values = width * height * 4
    const inside = typeof light !== 'function' && light.buffer === this.arena.memory.buffer
    const row = (width + 3) & ~3
    const out = this.out.reserve(row * height * 4)
    // Four pixels are read at once: beyond the last there are up to three.
    const at = inside ? light.byteOffset : this.light.reserve(values * 2 + 64)
    if (!inside) {
      const into = new Uint16Array(this.arena.memory.buffer, at, values)
      if (typeof light === 'function') light(into)
      else into.set(light)
    }
    writeRecord(
      this.arena.view(),
      this.record,
      SCREEN,
      { width, height, light: at, out, curve: SCREEN_CURVE[curve], exposure },
      { transparent: transparent ? 1 : 0 },
    )
    runJob(this.machine, this.job, { kind: 'screen', record: this.record, count: height, chunk: ROWS, all: height > ROWS })
    const made = new Uint8Array(values)
    const { buffer } = this.arena.memory
    if (row === width) made.set(new Uint8Array(buffer, out, values))
    else for (let y = 0; y < height; y++) made.set(new Uint8Array(buffer, out + y * row * 4, width * 4), y * width * 4)
    return made
  }
  dispose(): void {
    this.arena.dispose()
  }
}
