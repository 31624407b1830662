import { OP, OP_CODES } from './layout'

export interface Share {
  value: number
  vary: number
}
const FULL: Share = { value: 1, vary: 0 }
/** One octave of noise renews this much faster than the next coarser one. */
const RENEWAL_STEP = 1.6
/** The second noise of the cross product runs on at another speed, so the field never comes back to an earlier state. */
const SECOND_PHASE = 0.6180339887
export const MAX_OCTAVES = 6
/**
 * Corner values in the kernel are 0..32768, not ±1, so a product of two gradients is (2/32768)² too large; the rest brings the
 * coarsest octave's field to peaks of about 1 (99.9 % of places lie below it; measured in movement.test.ts).
 */
const NOISE_SCALE = (1 / 16384 / 16384) * 0.198

/** Writes the ops of one substep for one system. Opcodes and word order are those of src/kernels. */
export class OpWriter {
  private f: Float32Array
  private u: Uint32Array
  private at = 0
  count = 0

  constructor(private buffer: ArrayBuffer = new ArrayBuffer(16384)) {
    this.f = new Float32Array(buffer)
    this.u = new Uint32Array(buffer)
  }
  clear(): void {
    this.at = 0
    this.count = 0
  }
  get words(): Uint32Array {
    return this.u.subarray(0, this.at)
  }
  private open(code: number, ownWords: number, seed: number, share: Share): number {
    const size = Math.ceil((OP.own + ownWords * 4) / 4)
    if ((this.at + size) * 4 > this.buffer.byteLength) {
      const grown = new ArrayBuffer(this.buffer.byteLength * 2)
      new Uint32Array(grown).set(this.u)
      this.buffer = grown
      this.f = new Float32Array(grown)
      this.u = new Uint32Array(grown)
    }
    const o = this.at
    this.u[o] = code
    this.u[o + 1] = size * 4
    this.f[o + 2] = share.value
    this.f[o + 3] = share.vary
    this.u[o + 4] = seed
    this.at += size
    this.count++
    return o + OP.own / 4
  }
  /** a: m/s² */
  gravity(a: readonly [number, number, number], seed = 0, share = FULL): void {
    const o = this.open(OP_CODES.gravity, 3, seed, share)
    this.f.set(a, o)
  }
  /** Time in seconds after which the speed is half. */
  drag(halvingS: number, seed = 0, share = FULL): void {
    this.f[this.open(OP_CODES.drag, 1, seed, share)] = 1 / halvingS
  }
  /**
   * strength: m/s² for push, m/s for carry; eddy: size of the coarsest eddies in m; phase: eddies renewed so far (the
   * integral of the renewal rate); responseS: carry only.
   */
  turbulence(p: { carry: boolean; strength: number; eddy: number; octaves: number; phase: number; responseS: number }, seed: number, share = FULL): void {
    const octaves = Math.min(MAX_OCTAVES, Math.max(1, Math.round(p.octaves)))
    const o = this.open(OP_CODES.turbulence, 5 + MAX_OCTAVES * 3, seed, share)
    this.u[o] = p.carry ? 1 : 0
    this.u[o + 1] = octaves
    this.f[o + 2] = 1 / p.eddy
    this.f[o + 3] = p.strength * NOISE_SCALE
    this.f[o + 4] = p.responseS
    let phase = p.phase
    for (let k = 0; k < octaves; k++) {
      const turn = (x: number) => Math.floor((x - Math.floor(x)) * 65536)
      this.u[o + 5 + k * 3] = turn(phase)
      this.u[o + 6 + k * 3] = turn(phase * SECOND_PHASE) * 65536
      this.u[o + 7 + k * 3] = Math.imul(seed + k * 0x632be5ab, 0x9e3779b1)
      phase *= RENEWAL_STEP
    }
  }
  /** Planes as x, y, z, d, at most 16; lives end outside any of them. */
  bounds(planes: readonly (readonly number[])[]): void {
    const list = planes.slice(0, 16)
    const o = this.open(OP_CODES.bounds, 1 + list.length * 4, 0, FULL)
    this.u[o] = list.length
    list.forEach((p, i) => this.f.set(p, o + 1 + i * 4))
  }
  /** Lives end that are drawn smaller than `least`: metres, the look's size with its ± and seed, and its factor over life in even samples. */
  small(least: number, size: number, vary: number, seed: number, curve: Float32Array): void {
    const o = this.open(OP_CODES.small, 4 + curve.length, seed, FULL)
    this.f[o] = least
    this.f[o + 1] = size
    this.f[o + 2] = vary
    this.u[o + 3] = curve.length
    this.f.set(curve, o + 4)
  }
  contact(colliders: number, count: number): void {
    const o = this.open(OP_CODES.contact, 2, 0, FULL)
    this.u[o] = colliders
    this.u[o + 1] = count
  }
}
