import { hash3, type Matrix, multiplyQuaternions, type Quaternion, rotationIn, rotationOf, unit } from '../math'
import { type Columns, TURN_COLUMNS } from '../memory'

/**
 * Those who were shed in a substep, nine numbers each: place, velocity, when in it (0 to 1), generation, factor on their size. With their seeds, parents' ids, tints, and
 * how their parents lie and spin (a quaternion, then radians a second; all zero: as their seed has it).
 */
export class Shoal {
  numbers = new Float64Array(9 * 256)
  seeds = new Uint32Array(256)
  parents = new Uint32Array(256)
  tints = new Uint32Array(256)
  turns = new Float32Array(7 * 256)
  count = 0
  push(o: {
    place: readonly number[]
    velocity: readonly number[]
    when: number
    generation: number
    size: number
    seed: number
    parent: number
    tint: number
    turn: ArrayLike<number> | null
  }): void {
    if (this.count === this.seeds.length) {
      const { numbers, seeds, parents, tints, turns } = this
      this.numbers = new Float64Array(numbers.length * 2)
      this.numbers.set(numbers)
      this.seeds = new Uint32Array(seeds.length * 2)
      this.seeds.set(seeds)
      this.parents = new Uint32Array(seeds.length * 2)
      this.parents.set(parents)
      this.tints = new Uint32Array(seeds.length * 2)
      this.tints.set(tints)
      this.turns = new Float32Array(turns.length * 2)
      this.turns.set(turns)
    }
    const at = this.count * 9
    for (let k = 0; k < 3; k++) {
      this.numbers[at + k] = o.place[k]
      this.numbers[at + 3 + k] = o.velocity[k]
    }
    this.numbers[at + 6] = o.when
    this.numbers[at + 7] = o.generation
    this.numbers[at + 8] = o.size
    this.parents[this.count] = o.parent
    this.tints[this.count] = o.tint
    for (let k = 0; k < 7; k++) this.turns[this.count * 7 + k] = o.turn?.[k] ?? 0
    this.seeds[this.count++] = o.seed
  }
}
/**
 * Writes those who were shed into columns from `first` on, where there is room for `count` of them. `into`: to the space of the system; `dt`: own
 * seconds of a substep, of which they wait until their moment; `life`: with its ±; `from`: the system of their parents, hashed.
 */
export function settle(
  columns: Columns,
  first: number,
  count: number,
  { numbers, seeds, parents: ids, tints: taken, turns }: Shoal,
  o: { phase: number; into: Matrix | null; dt: number; id: number; life: readonly [number, number]; from: number },
): void {
  const [px, py, pz, vx, vy, vz, sx, sy, sz, ages, lives, starts] = (
    ['px', 'py', 'pz', 'vx', 'vy', 'vz', 'sx', 'sy', 'sz', 'age', 'life', 'phaseStart'] as const
  ).map((n) => columns.floats(n))
  const [seed, id, phase, hits, dead] = (['seed', 'id', 'phase', 'hits', 'dead'] as const).map((n) => columns.words(n))
  columns.clear(first, count)
  const from = columns.has('phaseFrom') ? columns.words('phaseFrom') : null
  const sizes = columns.has('size') ? columns.floats('size') : null
  const generations = columns.has('generation') ? columns.words('generation') : null
  const parents = columns.has('parent') ? columns.words('parent') : null
  const systems = columns.has('parentSystem') ? columns.words('parentSystem') : null
  const tints = columns.has('tint') ? columns.words('tint') : null
  const orientation = columns.has('qx') ? TURN_COLUMNS.map((n) => columns.floats(n)) : null
  const turned = o.into && rotationIn(o.into)
  const m = o.into
  for (let k = 0; k < count; k++) {
    const i = first + k
    const [x, y, z, u, v, w, when, generation, size] = numbers.subarray(k * 9, k * 9 + 9)
    px[i] = sx[i] = m ? m[0] * x + m[1] * y + m[2] * z + m[3] : x
    py[i] = sy[i] = m ? m[4] * x + m[5] * y + m[6] * z + m[7] : y
    pz[i] = sz[i] = m ? m[8] * x + m[9] * y + m[10] * z + m[11] : z
    vx[i] = m ? m[0] * u + m[1] * v + m[2] * w : u
    vy[i] = m ? m[4] * u + m[5] * v + m[6] * w : v
    vz[i] = m ? m[8] * u + m[9] * v + m[10] * w : w
    ages[i] = -when * o.dt
    lives[i] = Math.max(1e-6, o.life[0] + o.life[1] * (unit(hash3(seeds[k], 1, 7)) * 2 - 1))
    starts[i] = 0
    seed[i] = seeds[k]
    id[i] = o.id + k
    phase[i] = o.phase
    hits[i] = 0
    dead[i] = 0
    if (generations) generations[i] = generation
    if (parents) parents[i] = ids[k]
    if (systems) systems[i] = o.from
    if (tints) tints[i] = taken[k]
    if (orientation) lie(orientation, i, turns.subarray(k * 7, k * 7 + 7), turned)
    if (from) from[i] = o.phase
    if (sizes) sizes[i] = size - 1
  }
}
/** Lays one as its parent lies and spins, in the space that a rotation leads to; nothing, where its parent has no orientation. */
function lie(orientation: readonly Float32Array[], i: number, turn: Float32Array, into: Quaternion | null): void {
  let q: Quaternion = [turn[0], turn[1], turn[2], turn[3]]
  if (!q.some((x) => x !== 0)) return
  let spin: readonly number[] = [turn[4], turn[5], turn[6]]
  if (into) {
    q = multiplyQuaternions(into, q)
    spin = rotationOf(into).map((r) => r[0] * spin[0] + r[1] * spin[1] + r[2] * spin[2])
  }
  orientation.forEach((column, c) => (column[i] = c < 4 ? q[c] : spin[c - 4]))
}
