import { OP, OP_CODES, type PASSES } from './layout'
import type { Matrix } from './matrix'

type V3 = readonly [number, number, number]
/** How a force falls from its middle to its reach, in the order of the kernels. */
export const FALLOFFS = ['even', 'linear', 'smooth', 'steep'] as const
export type Falloff = (typeof FALLOFFS)[number]
/** The least soft edge: what is sharp still is a number. */
const SHARP = 1e-9

export interface Share {
  value: number
  vary: number
}
const FULL: Share = { value: 1, vary: 0 }
/** 1/bias − 2: a bias of a half leaves a falloff as it is. */
const biasOf = (bias = 0.5): number => 1 / Math.min(0.999, Math.max(0.001, bias)) - 2
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

/**
 * A look at neighbours that an op asks for before the substep's forces: of which system (−1: its own), how far, and the words of its
 * kernel.
 */
export interface PassWanted {
  kind: (typeof PASSES)[number]
  system: number
  radius: number
  words: number[]
  /** Columns that it leaves. */
  columns: number
  /** Where in the ops the pointer to them and their stride belong. */
  at: number
}
/**
 * How a chase finds its targets: on a surface the nearest, one kept by the seed, its listed places in turn, or its middle; of particles the
 * nearest or in turn.
 */
export type Quarry = { object: number; pick: 'nearest' | 'kept' | 'inTurn' | 'middle' } | { system: number; pick: 'nearest' | 'inTurn' }

/** A place that an object had: how it went there, m/s, and how much of that is left, 0 to 1. */
export interface WakePlace {
  place: V3
  velocity: V3
  left: number
}
/**
 * A velocity volume that an op samples: its nodes from the low corner on, `cell` m apart, and the ops that make what flows there in a
 * second.
 */
export interface VolumeWanted {
  dims: V3
  low: V3
  cell: number
  words: Uint32Array
  ops: number
  /** Where in the ops the pointer to it belongs. */
  at: number
}
/** Writes the ops of one substep for one system. Opcodes and word order are those of src/kernels. */
export class OpWriter {
  private f: Float32Array
  private u: Uint32Array
  private at = 0
  count = 0
  /** What gravity adds up to so far, m/s². */
  weight: [number, number, number] = [0, 0, 0]
  /** Looks at neighbours, and records of objects, that the ops need before they can run: where their pointers belong. */
  passes: PassWanted[] = []
  surfaces: { at: number; object: number; pick?: string; limit?: boolean }[] = []
  volumes: VolumeWanted[] = []

  constructor(private buffer: ArrayBuffer = new ArrayBuffer(16384)) {
    this.f = new Float32Array(buffer)
    this.u = new Uint32Array(buffer)
  }
  clear(): void {
    this.at = 0
    this.count = 0
    this.weight = [0, 0, 0]
    this.passes = []
    this.surfaces = []
    this.volumes = []
  }
  /** What the op at whose words a record belongs asks of it. */
  needs(at: number): { surface: boolean; picks: boolean; sites: boolean } {
    const chase = this.surfaces.find((s) => s.at === at)?.pick
    return { surface: chase !== 'middle', picks: chase === 'kept', sites: chase === 'inTurn' }
  }
  /** The words without what reads columns of the particles themselves, as neighbours leave them: for probes, which are none of them. */
  get lonely(): Uint32Array {
    const words = this.words.slice()
    for (const p of this.passes) words[this.startOf(p.at)] = OP_CODES.unlimited
    return words
  }
  /** The words of some ops, from the n-th on up to another, without what reads columns. */
  slice(from: number, to: number): Uint32Array {
    const words = this.lonely
    let o = 0,
      begin = 0
    for (let k = 0; k < to; k++) {
      if (k === from) begin = o
      o += words[o + 1] / 4
    }
    return words.subarray(from === to ? o : begin, o)
  }
  private startOf(at: number): number {
    let o = 0
    while (o + this.u[o + 1] / 4 <= at) o += this.u[o + 1] / 4
    return o
  }
  /** Makes nothing of an op: what it goes after is not there. It ends the limits before it, as its own end would. */
  silence(at: number): void {
    this.u[this.startOf(at)] = OP_CODES.unlimited
  }
  /** Puts a pointer, or another word, where it was missing. */
  patch(at: number, word: number): void {
    this.u[at] = word
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
    for (let k = 0; k < 3; k++) this.weight[k] += a[k] * share.value
  }
  /** Time in seconds after which the speed is half. */
  drag(halvingS: number, seed = 0, share = FULL): void {
    this.f[this.open(OP_CODES.drag, 1, seed, share)] = 1 / halvingS
  }
  /**
   * strength: m/s² for push, m/s for carry; eddy: size of the coarsest eddies in m; phase: eddies renewed so far (the
   * integral of the renewal rate); responseS: carry only.
   */
  turbulence(
    p: { carry: boolean; strength: number; eddy: number; octaves: number; phase: number; responseS: number },
    seed: number,
    share = FULL,
  ): void {
    this.noise(p, p.carry ? 1 : 0, 0, seed, share)
  }
  /**
   * A wind that particles follow: direction (unit), speed, the largest gust along it and straying across it in m/s, the size of gusts in m,
   * and how far they have travelled in m (the integral of the speed along the direction).
   */
  wind(
    p: {
      direction: V3
      speed: number
      gust: number
      stray: number
      eddy: number
      octaves: number
      phase: number
      travelled: V3
      responseS: number
    },
    seed: number,
    share = FULL,
  ): void {
    const o = this.noise({ ...p, strength: 1 }, 2, 9, seed, share) + 5 + MAX_OCTAVES * 3
    this.f.set(p.direction, o)
    this.f[o + 3] = p.gust
    this.f[o + 4] = p.stray
    for (let a = 0; a < 3; a++) this.f[o + 5 + a] = p.travelled[a] / p.eddy
    this.f[o + 8] = p.speed
  }
  private noise(
    p: { strength: number; eddy: number; octaves: number; phase: number; responseS: number },
    mode: number,
    more: number,
    seed: number,
    share: Share,
  ): number {
    const octaves = Math.min(MAX_OCTAVES, Math.max(1, Math.round(p.octaves)))
    const o = this.open(OP_CODES.turbulence, 5 + MAX_OCTAVES * 3 + more, seed, share)
    this.u[o] = mode
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
    return o
  }
  /**
   * Around an axis: see the kernel. Speeds in m/s with carry, accelerations in m/s² with push; reach in m or Infinity; radius held in m or
   * null.
   */
  vortex(
    p: {
      centre: V3
      axis: V3
      reach: number
      falloff: Falloff
      carry: boolean
      around: number
      towards: number
      along: number
      responseS: number
      held: number | null
    },
    seed = 0,
    share = FULL,
  ): void {
    const o = this.open(OP_CODES.vortex, 14, seed, share)
    this.f.set(p.centre, o)
    this.f.set(p.axis, o + 3)
    this.f[o + 6] = 1 / p.reach
    this.u[o + 7] = FALLOFFS.indexOf(p.falloff)
    this.u[o + 8] = p.carry ? 1 : 0
    this.f.set([p.around, p.towards, p.along, p.responseS, p.held ?? -1], o + 9)
  }
  /**
   * Towards a point at `strength` m/s², or away from it. `front`: the force works in a shell of that radius and half thickness alone, in m.
   */
  point(
    p: {
      centre: V3
      strength: number
      reach: number
      falloff: Falloff
      square: boolean
      core: number
      front: { radius: number; half: number } | null
    },
    seed = 0,
    share = FULL,
  ): void {
    const o = this.open(OP_CODES.point, 10, seed, share)
    this.f.set(p.centre, o)
    this.f[o + 3] = p.strength
    this.f[o + 4] = 1 / p.reach
    this.u[o + 5] = FALLOFFS.indexOf(p.falloff)
    this.u[o + 6] = p.square ? 1 : 0
    this.f.set([p.core * p.core, p.front?.radius ?? 0, p.front ? 1 / p.front.half : 0], o + 7)
  }
  /** Along straight pieces through `points` (xyz each, at least two): speed m/s, reach m or Infinity, response and gathering in s. */
  path(
    p: { points: Float32Array; speed: number; reach: number; falloff: Falloff; responseS: number; gatherS: number },
    seed = 0,
    share = FULL,
  ): void {
    const o = this.open(OP_CODES.path, 6 + p.points.length, seed, share)
    this.u[o] = p.points.length / 3
    this.f[o + 1] = p.speed
    this.f[o + 2] = 1 / p.reach
    this.u[o + 3] = FALLOFFS.indexOf(p.falloff)
    this.f[o + 4] = p.responseS
    this.f[o + 5] = p.gatherS
    this.f.set(p.points, o + 6)
  }
  /** Least and most speed, m/s. */
  pace(least: number, most: number, seed = 0, share = FULL): void {
    this.f.set([least, most], this.open(OP_CODES.pace, 2, seed, share))
  }
  /** dv/dt = −c·|v|·v, c in 1/m. */
  squareDrag(c: number, seed = 0, share = FULL): void {
    this.f[this.open(OP_CODES.squareDrag, 1, seed, share)] = c
  }
  /** The forces up to `unlimited` act between two values of age (s), share of life or speed (m/s), with a soft edge inside. */
  limitRange(p: { of: 'age' | 'life' | 'speed'; from: number; to: number; soft: number; outside: boolean }): void {
    const o = this.open(OP_CODES.limitRange, 5, 0, FULL)
    this.u[o] = ['age', 'life', 'speed'].indexOf(p.of)
    this.f.set([p.from, p.to, 1 / Math.max(p.soft, SHARP)], o + 1)
    this.u[o + 4] = p.outside ? 1 : 0
  }
  /** They act inside a shape: half sizes and soft edge in its own space, into which `into` leads. */
  limitShape(p: {
    shape: 'above' | 'ball' | 'box'
    half: V3
    soft: number
    falloff: Falloff
    bias?: number
    outside: boolean
    into: Matrix
  }): void {
    const o = this.open(OP_CODES.limitShape, 20, 0, FULL)
    this.u[o] = ['above', 'ball', 'box'].indexOf(p.shape)
    this.u[o + 1] = FALLOFFS.indexOf(p.falloff)
    this.u[o + 2] = p.outside ? 1 : 0
    this.f[o + 3] = 1 / Math.max(p.soft, SHARP)
    this.f.set(p.half, o + 4)
    this.f.set(p.into, o + 7)
    this.f[o + 19] = biasOf(p.bias)
  }
  /** They act in an object's own shape and up to `beyond` m from it; `look`: half of its size, m, how deep one can be inside. */
  limitNear(p: {
    object: number
    beyond: number
    soft: number
    look: number
    falloff: Falloff
    bias?: number
    outside: boolean
    dt: number
  }): void {
    const o = this.open(OP_CODES.limitNear, 8, 0, FULL)
    if (p.object >= 0) this.surfaces.push({ at: o, object: p.object, limit: true })
    this.u[o + 1] = FALLOFFS.indexOf(p.falloff)
    this.u[o + 2] = p.outside ? 1 : 0
    this.f.set([1 / Math.max(p.soft, SHARP), p.beyond, Math.max(0, p.beyond) + p.look, 1 / p.dt, biasOf(p.bias)], o + 3)
  }
  /** They act on a share of the particles, 0 to 1. */
  limitChance(share: number, outside: boolean, seed: number): void {
    const o = this.open(OP_CODES.limitChance, 2, seed, FULL)
    this.f[o] = share
    this.u[o + 1] = outside ? 1 : 0
  }
  unlimited(): void {
    this.open(OP_CODES.unlimited, 0, 0, FULL)
  }
  /** Mass in kg and its ±: drag and wind behind it move heavy particles less. */
  mass(kg: number, vary: number, seed: number): void {
    this.f.set([kg, vary], this.open(OP_CODES.mass, 2, seed, FULL))
  }
  /** Planes as x, y, z, d, at most 16; lives end outside any of them. */
  bounds(planes: readonly (readonly number[])[]): void {
    const list = planes.slice(0, 16)
    const o = this.open(OP_CODES.bounds, 1 + list.length * 4, 0, FULL)
    this.u[o] = list.length
    list.forEach((p, i) => this.f.set(p, o + 1 + i * 4))
  }
  /**
   * Lives end that are drawn smaller than `least`: metres, the look's size with its ± and seed, and its factor over life in even samples.
   */
  small(least: number, size: number, vary: number, seed: number, curve: Float32Array): void {
    const o = this.open(OP_CODES.small, 4 + curve.length, seed, FULL)
    this.f[o] = least
    this.f[o + 1] = size
    this.f[o + 2] = vary
    this.u[o + 3] = curve.length
    this.f.set(curve, o + 4)
  }
  /**
   * Apart (m/s² at no distance, within `room` m), aligned (1/s), together (m/s² at the radius) with its own system; sees within half the
   * view angle, as a cosine.
   */
  flock(
    p: { radius: number; room: number; cosView: number; apart: number; align: number; together: number; dt: number },
    seed = 0,
    share = FULL,
  ): void {
    this.added(
      {
        kind: 'flock',
        system: -1,
        radius: p.radius,
        words: [p.radius * p.radius, p.room, p.cosView, p.apart, p.align, p.together, p.dt],
        columns: 3,
      },
      seed,
      share,
    )
  }
  /** Towards each particle of a system near (−1: its own), `strength` m/s² of each, or of their mean. */
  swarm(p: { system: number; reach: number; strength: number; falloff: Falloff; mean: boolean }, seed = 0, share = FULL): void {
    const word = new Float32Array(Uint32Array.of(FALLOFFS.indexOf(p.falloff), p.mean ? 1 : 0).buffer)
    this.added(
      {
        kind: 'swarm',
        system: p.system,
        radius: p.reach,
        words: [p.reach * p.reach, 1 / p.reach, p.strength, word[0], word[1]],
        columns: 3,
      },
      seed,
      share,
    )
  }
  private added(pass: Omit<PassWanted, 'at'>, seed: number, share: Share): void {
    const o = this.open(OP_CODES.add, 2, seed, share)
    this.passes.push({ ...pass, at: o })
  }
  /** Towards the nearest place of an object's surface at `strength` m/s², or away from it; reach in m or Infinity. */
  surface(p: { object: number; strength: number; reach: number; falloff: Falloff; dt: number }, seed = 0, share = FULL): void {
    const o = this.open(OP_CODES.surface, 6, seed, share)
    this.surfaces.push({ at: o, object: p.object })
    this.f[o + 1] = p.strength
    this.f[o + 2] = 1 / p.reach
    this.u[o + 3] = FALLOFFS.indexOf(p.falloff)
    this.f[o + 4] = Math.min(p.reach, 1e15)
    this.f[o + 5] = 1 / p.dt
  }
  /** After a target: speed m/s, arriving from `arrive` m on, response s, most acceleration m/s², reach m or Infinity. */
  chase(
    quarry: Quarry,
    p: { speed: number; arrive: number; responseS: number; most: number; reach: number; dt: number },
    seed: number,
    share = FULL,
  ): void {
    const o = this.open(OP_CODES.chase, 9, seed, share)
    if ('object' in quarry) {
      this.u[o] = { nearest: 0, kept: 1, inTurn: 2, middle: 4 }[quarry.pick]
      this.surfaces.push({ at: o + 1, object: quarry.object, pick: quarry.pick })
    } else {
      this.u[o] = 3
      const reach = Math.min(p.reach, 1e6)
      this.passes.push({
        kind: quarry.pick === 'nearest' ? 'nearest' : 'ordered',
        system: quarry.system,
        radius: reach,
        words: [reach * reach],
        columns: 7,
        at: o + 1,
      })
    }
    // Slower than four responses it cannot swing past its target: the damped oscillator x″ = −(x/T + x′)/τ is at least critically damped
    // for T ≥ 4τ.
    const slow = Math.max(p.arrive / Math.max(p.speed, 1e-9), 4 * p.responseS, p.dt)
    this.f.set([p.speed, slow, p.responseS, Math.min(p.most, 1e12), Math.min(p.reach, 1e15), 1 / p.dt], o + 3)
  }
  /** A spring (1/s²) with friction (1/s) to a place of its own on an object's surface. */
  stay(p: { object: number; spring: number; rub: number; dt: number }, seed = 0, share = FULL): void {
    const o = this.open(OP_CODES.stay, 4, seed, share)
    this.surfaces.push({ at: o, object: p.object })
    this.f.set([p.spring, p.rub, 1 / p.dt], o + 1)
  }
  /** Along a surface at a height (m), reached within the response (s), at a speed (m/s) or its own. */
  crawl(
    p: { object: number; height: number; responseS: number; speed: number | null; reach: number; dt: number },
    seed = 0,
    share = FULL,
  ): void {
    const o = this.open(OP_CODES.crawl, 6, seed, share)
    this.surfaces.push({ at: o, object: p.object })
    this.f.set([p.height, p.responseS, p.speed ?? -1, Math.min(p.reach, 1e15), 1 / p.dt], o + 1)
  }
  /** Leads particles to what is left of an object's motion at places that it had, within a radius in m of each. */
  wake(p: { places: readonly WakePlace[]; radius: number; falloff: Falloff; responseS: number }, seed = 0, share = FULL): void {
    this.trail(p, 1, seed, share)
  }
  /** Limits the forces up to `unlimited` to that wake. */
  limitWake(p: { places: readonly WakePlace[]; radius: number; falloff: Falloff; responseS: number }): void {
    this.trail(p, 0, 0, FULL)
  }
  /**
   * Spin: speed with its ± (radians a second) about an axis (unit) or one of each particle's own (null), halved in so many seconds
   * (Infinity: never); heading along the motion within a response (s), or not (null); and drag across the flat side, 1/s.
   */
  spin(
    p: { speed: number; vary: number; axis: V3 | null; halvingS: number; heads: number | null; flat: number },
    seed: number,
    share = FULL,
  ): void {
    const o = this.open(OP_CODES.spin, 10, seed, share)
    this.f.set([p.speed, p.vary], o)
    this.u[o + 2] = p.axis ? 0 : 1
    this.f.set([...(p.axis ?? [0, 1, 0]), 1 / p.halvingS], o + 3)
    this.u[o + 7] = p.heads === null ? 0 : 1
    this.f.set([p.heads ?? 0, p.flat], o + 8)
  }
  /** Adds the velocities of that wake themselves, times what is left of them: for a volume. */
  addWake(p: { places: readonly WakePlace[]; radius: number; falloff: Falloff }): void {
    this.trail({ ...p, responseS: 0 }, 2, 0, FULL)
  }
  /**
   * What flows in a box of half sizes (m) about the middle of its own space, from which `out` leads: made at the nodes of a grid by the ops
   * of another writer, as accelerations and wakes for a second. Carries within the response (s), or pushes; `most` along each axis, m/s.
   */
  carry(
    p: { made: OpWriter; half: V3; cell: number; soft: number; pushes: boolean; responseS: number; most: V3; into: Matrix; out: Matrix },
    seed = 0,
    share = FULL,
  ): void {
    const o = this.open(OP_CODES.carry, 34, seed, share)
    const dims = p.half.map((h) => Math.max(2, Math.ceil((2 * h) / p.cell - 1e-6) + 1)) as [number, number, number]
    this.volumes.push({
      dims,
      low: p.half.map((h) => -h) as [number, number, number],
      cell: p.cell,
      words: p.made.words.slice(),
      ops: p.made.count,
      at: o,
    })
    this.u[o + 1] = p.pushes ? 1 : 0
    this.f.set([p.responseS, ...p.most.map((v) => Math.min(v, 1e12)), ...p.half, 1 / Math.max(p.soft, SHARP)], o + 2)
    this.f.set(p.into, o + 10)
    for (let a = 0; a < 3; a++) {
      const axis = [p.out[a], p.out[4 + a], p.out[8 + a]]
      const length = Math.sqrt(axis[0] ** 2 + axis[1] ** 2 + axis[2] ** 2)
      this.f.set([...axis.map((v) => v / Math.max(length, 1e-12)), 0], o + 22 + a * 4)
    }
  }
  private trail(
    p: { places: readonly WakePlace[]; radius: number; falloff: Falloff; responseS: number },
    way: 0 | 1 | 2,
    seed: number,
    share: Share,
  ): void {
    const o = this.open(OP_CODES.wake, 5 + p.places.length * 7, seed, share)
    this.u[o] = p.places.length
    this.f[o + 1] = 1 / p.radius
    this.u[o + 2] = FALLOFFS.indexOf(p.falloff)
    this.f[o + 3] = p.responseS
    this.u[o + 4] = way
    p.places.forEach((x, i) => this.f.set([...x.place, ...x.velocity, x.left], o + 5 + i * 7))
  }
  /** Colliders at their records; the particles' own radius with its ±, m. */
  contact(colliders: number, count: number, radius = 0, vary = 0, seed = 0): void {
    const o = this.open(OP_CODES.contact, 4, seed, FULL)
    this.u[o] = colliders
    this.u[o + 1] = count
    this.f[o + 2] = radius
    this.f[o + 3] = vary
  }
}
